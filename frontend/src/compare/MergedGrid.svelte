<!-- Two tables laid over each other: new rows barred, gone rows hatched, changed cells with the old value above. -->
<script lang="ts">
  import type { Cell, Column, MergedRow } from '../api/client';
  import { cellText, digitsOf, signed } from '../domain/words/format';
  import { isNumeric } from '../domain/kinds';
  import type { RowSource } from '../table/rows.svelte';
  import RowsView from '../table/RowsView.svelte';

  interface Props {
    columns: Column[];
    source: RowSource<MergedRow>;
    /** Numeric columns that changed: each gets a column with the difference beside it. */
    differences: Set<string>;
    /** The column that is looked at: it stands behind the first one, in sight. */
    first?: string;
    /** Where the story of a row is told. */
    story?: (row: MergedRow) => string | null;
    sort?: { column: string; down: boolean } | null;
    onsort?: (column: string) => void;
  }
  let { columns, source, differences, first = '', story, sort = null, onsort }: Props = $props();

  const ROW = 34;
  const SIGN = 30;
  const SIGNS: Record<string, string> = { new: '+', gone: '−', changed: '●', alike: '≈', same: '' };

  interface Shown {
    column: Column;
    at: number;
    isDifference: boolean;
  }
  const shown = $derived.by(() => {
    const order = columns.flatMap((column, at) => (column.hidden && column.name !== first ? [] : [at]));
    const looked = order.findIndex((at) => columns[at]?.name === first);
    if (looked > 1) order.splice(1, 0, ...order.splice(looked, 1));
    return order.flatMap((at): Shown[] => {
      const column = columns[at] as Column;
      const plain = { column, at, isDifference: false };
      return differences.has(column.name) ? [plain, { column, at, isDifference: true }] : [plain];
    });
  });
  const sample = $derived(source.sample(60));
  const digits = $derived(
    columns.map((column, at) =>
      isNumeric(column)
        ? digitsOf(
            sample.flatMap((row) => [(row.now?.[at] ?? null) as Cell, (row.then?.[at] ?? null) as Cell]),
          )
        : 0,
    ),
  );
  const widths = $derived([
    SIGN,
    ...shown.map(({ column, at, isDifference }) => {
      if (isDifference) return 92;
      const texts = sample.map(
        (row) => cellText(((row.now ?? row.then)?.[at] ?? null) as Cell, column, digits[at]).length,
      );
      return Math.round(
        Math.min(
          300,
          Math.max(
            70,
            (column.name.length + (column.unit ? column.unit.length + 2 : 0)) * 7.8 + 24,
            Math.max(0, ...texts) * 7.5 + 24,
          ),
        ),
      );
    }),
  ]);

  let view = $state<HTMLElement>();
  /** The change that was gone to: its row, and its column among those that are shown, from 1; 0 is the whole row. */
  let gone = $state<{ row: number; place: number } | null>(null);
  $effect(() => {
    void source;
    gone = null;
  });

  /** The places of a row's changes: cells, or the row itself where it is new or gone. */
  function changesOf(row: MergedRow): number[] {
    const cells = [...row.changed, ...row.alike];
    const places = shown.flatMap((one, at) => (!one.isDifference && cells.includes(one.at) ? [at + 1] : []));
    return places.length || row.state === 'same' ? places : [0];
  }

  /** Go to the next change, or to the one before. */
  export async function go(by: 1 | -1): Promise<void> {
    let row = gone?.row ?? (by > 0 ? 0 : source.total - 1);
    let place = gone?.place ?? (by > 0 ? -1 : Infinity);
    for (let looked = 0; row >= 0 && row < source.total && looked < 5_000; looked++) {
      const found = source.at(row) ?? (await source.fetch(row, row))[0];
      const places = found ? changesOf(found) : [];
      const next = by > 0 ? places.find((one) => one > place) : places.findLast((one) => one < place);
      if (next !== undefined) {
        gone = { row, place: next };
        bringIntoSight(row, next);
        return;
      }
      row += by;
      place = by > 0 ? -1 : Infinity;
    }
  }

  function bringIntoSight(row: number, place: number): void {
    if (!view) return;
    const body = view.querySelector<HTMLElement>('.body')?.offsetHeight ?? 0;
    // Of very many rows one pixel of the bar stands for several.
    const scale =
      body && source.total * ROW > body
        ? (source.total * ROW - view.clientHeight) / (body - view.clientHeight)
        : 1;
    const top = row * ROW;
    const room = view.clientHeight - 3 * ROW;
    if (top < view.scrollTop * scale) view.scrollTop = top / scale;
    else if (top > view.scrollTop * scale + room) view.scrollTop = (top - room) / scale;
    const left = widths.slice(0, place).reduce((sum, one) => sum + one, 0);
    const own = widths[place] ?? 0;
    if (left < view.scrollLeft || left + own > view.scrollLeft + view.clientWidth)
      view.scrollLeft = Math.max(0, left - view.clientWidth / 3);
  }

  function key(event: KeyboardEvent): void {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === 'n' || event.key === 'p') void go(event.key === 'n' ? 1 : -1);
    else if (event.key === 'Enter' && gone) view?.querySelector<HTMLElement>('.here a')?.click();
    else return;
    event.preventDefault();
  }

  function difference(row: MergedRow, at: number): string {
    const now = row.now?.[at];
    const then = row.then?.[at];
    if (!row.then || !row.now || typeof now !== 'number' || typeof then !== 'number' || now === then)
      return '';
    return signed(now - then, digits[at] ?? 0);
  }

  /** By how many percent of what it was; nothing where it was nought. */
  function percent(row: MergedRow, at: number): string {
    const now = row.now?.[at];
    const then = row.then?.[at];
    if (!row.then || !row.now || typeof now !== 'number' || typeof then !== 'number') return '';
    if (now === then || then === 0) return '';
    return `${signed((100 * (now - then)) / Math.abs(then), 1)} %`;
  }
</script>

<RowsView
  {source}
  {widths}
  label="Then and now"
  role="table"
  rowHeight={ROW}
  bind:view
  onkeydown={key}
  rowClass={(row) => `${row.state} ${row.state === 'gone' ? 'hatch' : ''}`}
>
  {#snippet head(at)}
    {@const one = shown[at - 1]}
    {#if one}
      {@const own = !one.isDifference && sort?.column === one.column.name ? sort : null}
      <div
        role="columnheader"
        class="head"
        class:number={isNumeric(one.column)}
        aria-colindex={at + 1}
        aria-sort={own ? (own.down ? 'descending' : 'ascending') : undefined}
      >
        {#if one.isDifference || !onsort}
          {one.isDifference ? 'difference' : one.column.name}
        {:else}
          <button title="Sort by {one.column.name}" onclick={() => onsort(one.column.name)}
            >{one.column.name}{#if one.column.unit}<span class="unit">, {one.column.unit}</span
              >{/if}{#if own}&nbsp;{own.down ? '↓' : '↑'}{/if}</button
          >
        {/if}
      </div>
    {:else}
      <div role="columnheader" class="head"><span class="sr-only">State</span></div>
    {/if}
  {/snippet}
  {#snippet cell(row, index, at, style)}
    {@const here = gone?.row === index && gone.place === at}
    {@const one = shown[at - 1]}
    {#if one}
      {@const cell = ((row.now ?? row.then)?.[one.at] ?? null) as Cell}
      {@const changed = !one.isDifference && row.changed.includes(one.at)}
      {@const alike = !one.isDifference && row.alike.includes(one.at)}
      <div
        role="cell"
        class="cell"
        class:number={isNumeric(one.column)}
        class:changed
        class:alike
        class:difference={one.isDifference}
        class:here
        {style}
      >
        {#if one.isDifference}
          <span class="muted">{difference(row, one.at)}</span>
          <small class="muted">{percent(row, one.at)}</small>
        {:else if changed || alike}
          <s>{cellText((row.then?.[one.at] ?? null) as Cell, one.column, digits[one.at]) || 'empty'}</s>
          <b>{cellText(cell, one.column, digits[one.at]) || 'empty'}</b>
        {:else}
          {cellText(cell, one.column, digits[one.at])}
        {/if}
      </div>
    {:else}
      {@const link = story?.(row) ?? null}
      <div role="cell" class="sign" class:here={gone?.row === index} {style}>
        {#if link}<a href={link} title="The story of this row" aria-label="{row.state}: the story of this row"
            >{SIGNS[row.state] || '·'}</a
          >{:else}<span aria-label={row.state} role="img">{SIGNS[row.state]}</span>{/if}
      </div>
    {/if}
  {/snippet}
</RowsView>

<style>
  .head {
    padding: 4px 10px;
    font-weight: 700;
    font-size: 13.5px;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .head button {
    max-width: 100%;
    overflow: hidden;
    text-overflow: ellipsis;
    font-weight: 700;
    cursor: pointer;
  }
  .head button:hover {
    color: var(--damson);
  }
  .unit {
    font-weight: 400;
    color: var(--muted);
  }
  .number {
    text-align: right;
  }
  :global(.row.new) {
    background: var(--link-wash);
    box-shadow: inset 4px 0 0 var(--link);
  }
  :global(.row.gone) {
    color: var(--muted);
  }
  .sign {
    text-align: center;
    line-height: 33px;
    padding-left: 4px;
    font-weight: 700;
  }
  .cell {
    padding: 0 10px;
    line-height: 33px;
    font-size: 13.5px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: pre;
  }
  .cell.changed {
    background: var(--straw-wash);
    box-shadow: inset 0 0 0 0.5px var(--straw);
    line-height: 15px;
    padding-top: 2px;
    white-space: normal;
  }
  .here {
    outline: 2px solid var(--damson);
    outline-offset: -2px;
  }
  .cell.alike {
    line-height: 15px;
    padding-top: 2px;
    white-space: normal;
  }
  .cell.difference {
    line-height: 15px;
    padding-top: 2px;
    white-space: normal;
  }
  .cell.difference > * {
    display: block;
    line-height: 15px;
    white-space: nowrap;
  }
  .cell.difference small {
    font-size: 11.5px;
    line-height: 13px;
  }
  .cell.changed s,
  .cell.alike s,
  .cell.alike b,
  .cell.changed b {
    display: block;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: pre;
  }
  .cell.alike s,
  .cell.changed s {
    color: var(--muted);
    font-size: 11.5px;
    line-height: 13px;
  }
  .cell.alike b,
  .cell.changed b {
    font-weight: 500;
    line-height: 16px;
  }
</style>
