<!-- The codes that a choice offers: typed or pasted, or read from the newest table of another query. -->
<script lang="ts">
  import { onMount, untrack } from 'svelte';
  import { api, ask, type Brief } from '../../api/client';
  import type { Edit } from '../../domain/parameters';

  interface Props {
    edit: Edit;
    brief: Brief;
    /** Whether the codes are in sight at once. */
    open: boolean;
  }
  let { edit = $bindable(), brief, open }: Props = $props();
  // Not closed by the first code that is typed.
  let shown = $state(untrack(() => open));
  let others = $state<string[]>([]);

  onMount(() => {
    ask(api.GET('/api/desk')).then(
      (desk) => (others = desk.queries.map((line) => line.name).filter((name) => name !== brief.name)),
      () => (others = []),
    );
  });
</script>

<details bind:open={shown}>
  <summary class="plain cursor-pointer text-[13px]" style="color: var(--link)">The choices</summary>
  <div class="mt-2 space-y-2">
    {#if !edit.fromQuery}
      <label class="block">
        <span class="label">One a line: code, tab, label. Can be pasted from a sheet.</span>
        <textarea class="field mono" name="choices" rows="4" bind:value={edit.choices}></textarea>
      </label>
    {/if}
    {#if others.length}
      <label class="block">
        <span class="label">Or read them from the newest table of</span>
        <select class="field" bind:value={edit.fromQuery}>
          <option value="">(typed above)</option>
          {#each others as name (name)}<option>{name}</option>{/each}
        </select>
      </label>
      {#if edit.fromQuery}
        <div class="grid grid-cols-2 gap-2">
          <label
            ><span class="label">Column of codes</span><input
              class="field"
              bind:value={edit.fromCode}
            /></label
          >
          <label
            ><span class="label">Column of labels</span><input
              class="field"
              bind:value={edit.fromLabel}
            /></label
          >
        </div>
      {/if}
    {/if}
  </div>
</details>
