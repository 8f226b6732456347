<!-- The tables that a query starts from. -->
<script lang="ts">
  import type { Brief, Start } from '../../api/client';
  import TablesField from '../../workOut/fields/TablesField.svelte';
  import Popover from '../../ui/Popover.svelte';
  import EditorRow from './EditorRow.svelte';

  interface Props {
    brief: Brief;
    start: Start;
    onchange: (brief: Brief) => void;
  }
  let { brief, start, onchange }: Props = $props();
  let tables = $state.raw<Start['tables']>([]);
  let whose = $state('');
  const names = $derived(start.tables.map((one) => one.query ?? `sheet ${one.sheet}`));
</script>

<EditorRow verb="Start">
  from
  <Popover
    label="The tables it starts from"
    onopen={() => {
      tables = start.tables;
      whose = start.whose;
    }}
  >
    {#snippet trigger()}{names.join(', then ')}{/snippet}
    {#snippet children(close)}
      <div class="space-y-2.5">
        <TablesField
          label="Tables, the rows of one below those of the other"
          value={tables as never}
          onchange={(value) => (tables = value as never)}
        />
        <label class="block">
          <span class="label">A column that says which table a row is of</span>
          <input class="field" name="whose" placeholder="none" bind:value={whose} />
        </label>
        <button
          class="press main small"
          disabled={!tables.length}
          onclick={() => {
            onchange({ ...brief, start: { tables, whose: whose.trim() } });
            close();
          }}>Done</button
        >
      </div>
    {/snippet}
  </Popover>
</EditorRow>
