<!-- Another table, or several: a query's or a sheet's. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { api, ask, type TableName } from '../../api/client';
  import { counted } from '../../domain/words/format';
  import Taken from '../../ui/Taken.svelte';
  import type { Named } from '../otherStore.svelte';

  interface Props {
    label: string;
    single?: boolean;
    value: Named | Named[] | null;
    onchange: (value: Named | Named[] | null) => void;
  }
  let { label, single = false, value, onchange }: Props = $props();
  let known = $state.raw<TableName[]>([]);
  const chosen = $derived(Array.isArray(value) ? value : value ? [value] : []);
  const idOf = (one: Named): string => (one.query ? `query ${one.query}` : `sheet ${one.sheet}`);

  onMount(() => {
    ask(api.GET('/api/work-out/tables')).then(
      (found) => (known = found),
      () => undefined,
    );
  });

  function pick(id: string): void {
    const one = known.find((table) => idOf(table) === id);
    if (!one) return;
    const named = one.query ? { query: one.query, sheet: null } : { query: null, sheet: one.sheet };
    onchange(single ? named : [...chosen, named]);
  }
</script>

<fieldset>
  <legend class="label">{label}</legend>
  {#if !single}
    <div class="chosen">
      {#each chosen as one (idOf(one))}
        <Taken
          text={one.query ?? one.sheet ?? ''}
          onremove={() => onchange(chosen.filter((other) => idOf(other) !== idOf(one)))}
        />
      {/each}
    </div>
  {/if}
  <select
    class="field"
    aria-label={label}
    value={single && chosen[0] ? idOf(chosen[0]) : ''}
    onchange={(event) => {
      pick(event.currentTarget.value);
      if (!single) event.currentTarget.value = '';
    }}
  >
    {#if !single || !chosen.length}<option value="">{single ? 'choose a table' : '+ table'}</option>{/if}
    {#if single && chosen[0] && !known.some((table) => idOf(table) === idOf(chosen[0] as Named))}
      <option value={idOf(chosen[0])}>{chosen[0].query ?? chosen[0].sheet}</option>
    {/if}
    {#each known as table (idOf(table))}
      <option value={idOf(table)} disabled={table.query !== null && table.taken === null}
        >{table.query ?? `sheet ${table.sheet}`} · {table.query && !table.taken
          ? 'no table yet'
          : counted(table.rows, 'row')}</option
      >
    {/each}
  </select>
</fieldset>

<style>
  .chosen {
    display: flex;
    flex-wrap: wrap;
    gap: 5px;
  }
  .chosen:not(:empty) {
    margin-bottom: 5px;
  }
</style>
