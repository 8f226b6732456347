<!-- Another table, or several: a query's or a sheet's. -->
<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { onMount } from 'svelte';
  import { api, ask, type TableName } from '../../api/client';
  import { counted } from '../../domain/words/format';
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
    {#each chosen as one (idOf(one))}
      <button
        type="button"
        class="one"
        title="Take it out"
        onclick={() => onchange(chosen.filter((other) => idOf(other) !== idOf(one)))}
        >{one.query ?? one.sheet}<X size={12} /></button
      >
    {/each}
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
  .one {
    display: inline-flex;
    align-items: center;
    gap: 4px;
    height: 27px;
    margin: 0 4px 5px 0;
    padding: 0 8px;
    border: 1px solid var(--damson-edge);
    border-radius: 6px;
    background: var(--damson-wash);
    color: var(--damson);
    font-size: 13px;
    cursor: pointer;
  }
</style>
