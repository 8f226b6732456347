<!-- What a chart is drawn of: its fields as the registry has them, filled in from the table's columns. -->
<script lang="ts">
  import type { Chart, Column } from '../api/client';
  import { choices, entryOf, switched, type Values } from '../domain/choices';
  import TableFields from '../parts/TableFields.svelte';

  interface Props {
    chart: Chart;
    columns: Column[];
    onchange: (chart: Chart) => void;
  }
  let { chart, columns, onchange }: Props = $props();

  const entry = $derived(entryOf(choices().charts, chart.draw));
  const values = $derived(chart as unknown as Values);
  let more = $state(false);

  const set = (name: string, value: unknown): void =>
    onchange({ ...values, [name]: value } as unknown as Chart);
  function choose(key: string): void {
    const next = entryOf(choices().charts, key);
    const kept = switched(next, values, ['title']);
    // One column and several are told in two ways.
    const y = values.y;
    if (typeof next.defaults.y === 'string' && Array.isArray(y)) kept.y = (y[0] as string | undefined) ?? '';
    if (Array.isArray(next.defaults.y) && typeof y === 'string') kept.y = y ? [y] : [];
    onchange({ ...kept, draw: key } as unknown as Chart);
  }
  const offersMore = $derived(entry.fields.some((one) => one.more));
</script>

<div class="form" role="group" aria-label="What is drawn">
  <div class="kinds" role="radiogroup" aria-label="The kind of chart">
    {#each choices().charts as one (one.key)}
      <button
        class="press small"
        class:main={chart.draw === one.key}
        role="radio"
        aria-checked={chart.draw === one.key}
        onclick={() => choose(one.key)}>{one.label}</button
      >
    {/each}
  </div>
  <TableFields
    fields={entry.fields.filter((one) => more || !one.more)}
    {values}
    {columns}
    prefix="chart"
    onchange={set}
  />
  {#if offersMore}
    <button class="plain" aria-expanded={more} onclick={() => (more = !more)}
      >{more ? 'less' : 'scale and lines'}</button
    >
  {/if}
</div>

<style>
  .form {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 7px 14px;
    font-size: 13px;
  }
  .kinds {
    display: flex;
    gap: 4px;
  }
</style>
