<!-- What an exhibit shows. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { type Chart, type Column, type ReportBlock } from '../api/client';
  import ChartForm from '../chart/ChartForm.svelte';
  import { chartName } from '../chart/words';
  import { sameJson } from '../api/json';
  import { choices, entryOf, type Values } from '../domain/choices';
  import { isNumeric } from '../domain/kinds';
  import ConditionsField from '../parts/ConditionsField.svelte';
  import TableFields from '../parts/TableFields.svelte';
  import Taken from '../ui/Taken.svelte';
  import { queryColumns } from './queryColumns';
  import type { ReportStore } from './reportStore.svelte';

  type Exhibit = Exclude<ReportBlock, { block: 'text' }>;
  interface Props {
    store: ReportStore;
    block: Exhibit;
    onchange: (block: Exhibit) => void;
    ondone: () => void;
  }
  let { store, block, onchange, ondone }: Props = $props();
  let columns = $state.raw<Column[]>([]);
  const entry = $derived(entryOf(choices().exhibits, block.block));
  const values = $derived(block as unknown as Values);
  const offered = $derived(
    block.block === 'chart'
      ? (store.offers[block.query]?.charts ?? []).filter(
          (one) => block.block === 'chart' && !sameJson(one, block.chart),
        )
      : [],
  );

  $effect(() => {
    const own = block.query;
    untrack(() => {
      void store.offersOf(own);
      queryColumns(own).then(
        (found) => (columns = found),
        () => (columns = []),
      );
    });
  });
  const set = (name: string, value: unknown): void =>
    onchange({ ...values, [name]: value } as unknown as Exhibit);

  let sortColumn = $state('');
  let markColumn = $state('');
  let markTest = $state('above');
  let markValue = $state('');
  let totalColumn = $state('');
  let totalFigure = $state('sum');
  const numbers = $derived(columns.filter((one) => isNumeric(one) && !one.hidden));
  const shown = $derived(columns.filter((one) => !one.hidden));

  function mark(): void {
    if (block.block !== 'table' || !markColumn || (!markValue.trim() && markTest !== 'blank')) return;
    set('marks', [...(block.marks ?? []), { column: markColumn, test: markTest, value: markValue.trim() }]);
    markColumn = markValue = '';
  }
</script>

<div class="form not-printed" role="group" aria-label="What it shows">
  <label class="line"
    ><span class="muted">Title</span>
    <input
      class="field title"
      name="exhibit-title"
      maxlength="300"
      placeholder="what it shows"
      value={block.title ?? ''}
      onchange={(event) => set('title', event.currentTarget.value.trim())}
    /></label
  >
  {#if block.block === 'chart'}
    <ChartForm chart={block.chart} {columns} onchange={(chart) => set('chart', chart)} />
    {#if offered.length}
      <div class="line">
        <span class="muted">Or:</span>
        {#each offered.slice(0, 5) as one, at (at)}
          <button class="press small" onclick={() => set('chart', one as Chart)}
            >{chartName(one as Chart)}</button
          >
        {/each}
      </div>
    {/if}
  {:else}
    <div class="line">
      <TableFields fields={entry.fields} {values} {columns} prefix="exhibit" onchange={set} />
    </div>
  {/if}
  {#if block.block === 'table'}
    <div class="line">
      <span class="muted">Sorted by</span>
      {#each block.sort ?? [] as one, at (at)}
        <Taken
          text="{one.column}, {one.down ? 'highest first' : 'lowest first'}"
          onremove={() =>
            set(
              'sort',
              (block.block === 'table' ? (block.sort ?? []) : []).filter((_, index) => index !== at),
            )}
        />
      {/each}
      <select
        class="field"
        name="exhibit-sort"
        aria-label="Sorted by"
        bind:value={sortColumn}
        onchange={() => {
          if (sortColumn && block.block === 'table')
            set('sort', [
              ...(block.sort ?? []),
              { column: sortColumn, down: numbers.some((one) => one.name === sortColumn) },
            ]);
          sortColumn = '';
        }}
      >
        <option value="">{block.sort?.length ? 'and then…' : 'as the table is'}</option>
        {#each shown as one (one.name)}<option>{one.name}</option>{/each}
      </select>
      {#if block.sort?.length}
        <button
          class="plain"
          onclick={() =>
            set(
              'sort',
              (block.block === 'table' ? (block.sort ?? []) : []).map((one) => ({ ...one, down: !one.down })),
            )}>the other way round</button
        >
      {/if}
    </div>
    <div class="line">
      <span class="muted">Marked where</span>
      {#each block.marks ?? [] as one, at (at)}
        <Taken
          text="{one.column} is {one.test} {one.value}"
          onremove={() =>
            set(
              'marks',
              (block.block === 'table' ? (block.marks ?? []) : []).filter((_, index) => index !== at),
            )}
        />
      {/each}
      <select class="field" name="exhibit-mark" aria-label="Column that is marked" bind:value={markColumn}>
        <option value="">a column…</option>
        {#each shown as one (one.name)}<option>{one.name}</option>{/each}
      </select>
      {#if markColumn}
        <select class="field" name="exhibit-mark-test" aria-label="Test" bind:value={markTest}>
          {#each choices().report_tests as one (one.value)}<option value={one.value}>{one.label}</option
            >{/each}
        </select>
        <input
          class="field"
          name="exhibit-mark-value"
          aria-label="Value"
          bind:value={markValue}
          onchange={mark}
        />
        <button class="press small" onclick={mark}>Add</button>
      {/if}
    </div>
    <div class="line">
      <span class="muted">Below it</span>
      {#each block.totals ?? [] as one, at (at)}
        <Taken
          text="{one.figure} of {one.column}"
          onremove={() =>
            set(
              'totals',
              (block.block === 'table' ? (block.totals ?? []) : []).filter((_, index) => index !== at),
            )}
        />
      {/each}
      <select class="field" name="exhibit-total-figure" aria-label="Which figure" bind:value={totalFigure}>
        {#each choices().figures.filter((one) => one.over_time && one.column) as one (one.key)}
          <option value={one.key}>{one.label}</option>
        {/each}
      </select>
      <select
        class="field"
        name="exhibit-total"
        aria-label="Column that has one"
        bind:value={totalColumn}
        onchange={() => {
          if (totalColumn && block.block === 'table')
            set('totals', [...(block.totals ?? []), { column: totalColumn, figure: totalFigure }]);
          totalColumn = '';
        }}
      >
        <option value="">of a column…</option>
        {#each shown as one (one.name)}<option>{one.name}</option>{/each}
      </select>
    </div>
  {/if}
  {#if block.block !== 'changes'}
    <div class="line">
      <span class="muted">Of the rows where</span>
      <ConditionsField conditions={block.where ?? []} {columns} onchange={(next) => set('where', next)} />
    </div>
  {/if}
  <button class="press small main" onclick={ondone}>Done</button>
</div>

<style>
  .form {
    display: flex;
    flex-direction: column;
    align-items: flex-start;
    gap: 8px;
    margin-top: 8px;
    padding: 10px 12px;
    border: 1px solid var(--line);
    border-radius: 8px;
    background: var(--paper);
    font-size: 13px;
    line-height: 20px;
  }
  .line {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px 10px;
    max-width: 100%;
  }
  .field {
    width: auto;
    max-width: 170px;
    height: 27px;
    padding: 0 5px;
  }
  .field.title {
    width: 380px;
    max-width: 100%;
  }
</style>
