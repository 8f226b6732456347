<!-- A date that moves with the calendar: how far, in which direction, from when. -->
<script lang="ts">
  import { kindOf, type Edit } from '../../domain/parameters';

  interface Props {
    edit: Edit;
  }
  let { edit = $bindable() }: Props = $props();
  const kind = $derived(kindOf(edit.kind));
</script>

<div class="grid grid-cols-[64px_92px_84px_1fr] gap-2">
  {#if edit.unit}
    <input class="field" type="number" min="0" max="9999" aria-label="How many" bind:value={edit.amount} />
    <select class="field" aria-label="Unit" bind:value={edit.unit}>
      {#each kind.units as unit (unit.value)}<option value={unit.value}>{unit.label}</option>{/each}
    </select>
    <select class="field" aria-label="Direction" bind:value={edit.direction}>
      <option value="-">before</option><option value="+">after</option>
    </select>
  {:else}
    <input
      class="field mono col-span-3"
      aria-label="How far, as an ISO 8601 duration such as -P1M15D"
      title="How far, as an ISO 8601 duration such as -P1M15D"
      bind:value={edit.offset}
    />
  {/if}
  <select class="field" aria-label="From when" bind:value={edit.anchor}>
    {#each kind.anchors as anchor (anchor)}<option>{anchor}</option>{/each}
  </select>
</div>
{#if edit.anchor === 'last refresh'}
  <label class="block">
    <span class="label">While there has been no refresh yet</span>
    <input class="field" type={kind.typed_as} bind:value={edit.first} />
  </label>
{/if}
