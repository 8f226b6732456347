<!-- A column's heading: name, kind and origin; opens what can be done with the column. -->
<script lang="ts">
  import type { Column, Kind } from '../lib/api/client';
  import { count } from '../lib/format';
  import Sheet from './Sheet.svelte';

  interface Props {
    column: Column;
    rows: number;
    /** What stands below the name. */
    sub: string;
    isKey: boolean;
    onchange: (change: { name?: string; kind?: Kind | null; unit?: string }) => void;
    ondrop: () => void;
    onmove: (by: number) => void;
    onkey: (on: boolean) => void;
  }
  let { column, rows, sub, isKey, onchange, ondrop, onmove, onkey }: Props = $props();
  const kinds: Kind[] = ['text', 'whole number', 'decimal', 'yes/no', 'date', 'date and time'];
  const share = $derived(
    column.filled === null || column.filled === undefined || !rows ? 1 : column.filled / rows,
  );
</script>

<Sheet label={column.name} look="colhead" width={330}>
  {#snippet trigger()}
    <span class="name">{column.name}</span>
    <span class="sub">{sub}</span>
    {#if share < 0.9995}
      <span class="bar" title="{count(column.filled ?? 0)} of {count(rows)} rows have a value">
        <span style="width: {share * 100}%"></span>
      </span>
    {/if}
  {/snippet}
  {#snippet children(close)}
    <div class="space-y-3">
      <p class="muted text-[13px]">
        {column.kind} · {column.origin === 'taken' ? 'from' : `looked up as ${column.origin}, at`}
        <code class="wrap-anywhere">{column.place}</code><br />
        {count(column.filled ?? rows)} of {count(rows)} rows have a value
      </p>
      <label class="block">
        <span class="label">Name</span>
        <input
          class="field"
          value={column.name}
          onchange={(event) =>
            event.currentTarget.value.trim() && onchange({ name: event.currentTarget.value.trim() })}
        />
      </label>
      <div class="grid grid-cols-2 gap-3">
        <label>
          <span class="label">Read as</span>
          <select
            class="field"
            value={column.kind}
            onchange={(event) => onchange({ kind: event.currentTarget.value as Kind })}
          >
            {#if column.kind === 'json'}<option value="json">list as text</option>{/if}
            {#each kinds as kind (kind)}<option value={kind}>{kind}</option>{/each}
          </select>
        </label>
        <label>
          <span class="label">Unit</span>
          <input
            class="field"
            value={column.unit}
            placeholder="none"
            onchange={(event) => onchange({ unit: event.currentTarget.value.trim() })}
          />
        </label>
      </div>
      <label class="flex items-center gap-2">
        <input type="checkbox" checked={isKey} onchange={(event) => onkey(event.currentTarget.checked)} />
        Rows match by this column
      </label>
      <div class="flex flex-wrap gap-2">
        <button class="press small" onclick={() => onmove(-1)}>← Left</button>
        <button class="press small" onclick={() => onmove(1)}>Right →</button>
        <button
          class="press small"
          onclick={() => {
            close();
            ondrop();
          }}>Leave out</button
        >
      </div>
    </div>
  {/snippet}
</Sheet>

<style>
  :global(.colhead) {
    display: block;
    width: 100%;
    position: relative;
    text-align: inherit;
    cursor: pointer;
    border-radius: 4px;
    padding-bottom: 2px;
  }
  :global(.colhead:hover .name) {
    color: var(--damson);
  }
  .name {
    display: block;
    font-weight: 700;
    font-size: 13.5px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .sub {
    display: block;
    color: var(--muted);
    font-family: var(--mono);
    font-size: 11.5px;
    line-height: 14px;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .bar {
    position: absolute;
    left: 0;
    right: 0;
    bottom: -3px;
    height: 2px;
    background: var(--faint);
  }
  .bar span {
    display: block;
    height: 2px;
    background: var(--link);
  }
</style>
