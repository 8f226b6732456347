<!-- A table that draws only the rows in sight; they come from the server in windows. -->
<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { Cell, Column } from '../lib/api/client';
  import { cellText, digitsOf, isNumeric } from '../lib/format';
  import type { RowSource } from '../lib/rows.svelte';
  import RowsView from './RowsView.svelte';

  interface Props {
    columns: Column[];
    source: RowSource<Cell[]>;
    heading?: Snippet<[Column, number]>;
    /** What stands below a column's name; it gets the room that it needs. */
    sub: (column: Column) => string;
    label: string;
    /** Called when a cell is opened, by click or Enter, with its place on the screen. */
    onopen?: (row: number, column: number, box: DOMRect) => void;
    opened?: { row: number; column: number } | null;
  }
  let { columns, source, heading, sub, label, onopen, opened = null }: Props = $props();

  const ROW = 28;
  let view = $state<HTMLElement>();
  let active = $state({ row: 0, column: 0 });
  let focused = $state(false);

  const sample = $derived(source.sample(60));
  const digits = $derived(
    columns.map((column, at) =>
      column.kind === 'decimal' ? digitsOf(sample.map((row) => row[at] ?? null)) : 0,
    ),
  );
  const widths = $derived(
    columns.map((column, at) => {
      const wides = sample.map((row) => {
        const cell = row[at] ?? null;
        const isCode = look(cell, column).includes('code') || typeof cell === 'number';
        return cellText(cell, column, digits[at]).length * (isCode ? 8.3 : 7.5);
      });
      const head = Math.max(column.name.length * 8, sub(column).length * 7.2) + 24;
      return Math.round(Math.min(340, Math.max(64, head, Math.max(0, ...wides) + 24)));
    }),
  );
  $effect(() => {
    void source;
    active = { row: 0, column: 0 };
  });

  function look(cell: Cell | undefined, column: Column): string {
    if (cell !== null && typeof cell === 'object') return 'miss hatch';
    let kind = isNumeric(column) ? 'number' : '';
    if (column.kind === 'json' || (column.kind === 'whole number' && typeof cell === 'string'))
      kind += ' code';
    else if (column.kind === 'text' && typeof cell === 'string' && /^[A-Z0-9_-]*\d[A-Z0-9_-]*$/i.test(cell))
      kind += ' code';
    return kind;
  }

  function open(row: number, column: number, element: Element | null): void {
    active = { row, column };
    if (element) onopen?.(row, column, element.getBoundingClientRect());
  }

  const MOVES: Record<string, [number, number]> = {
    ArrowDown: [1, 0],
    ArrowUp: [-1, 0],
    ArrowRight: [0, 1],
    ArrowLeft: [0, -1],
    PageDown: [20, 0],
    PageUp: [-20, 0],
  };

  function key(event: KeyboardEvent): void {
    if (event.target !== view) return;
    const move = MOVES[event.key];
    if (move) {
      active = {
        row: Math.min(source.total - 1, Math.max(0, active.row + move[0])),
        column: Math.min(columns.length - 1, Math.max(0, active.column + move[1])),
      };
    } else if (event.key === 'Home' || event.key === 'End') {
      const end = event.key === 'End';
      if (event.ctrlKey) active.row = end ? source.total - 1 : 0;
      else active.column = end ? columns.length - 1 : 0;
    } else if (event.key === 'Enter') {
      open(active.row, active.column, view?.querySelector('[data-active]') ?? null);
    } else return;
    event.preventDefault();
    bringIntoSight();
  }

  function bringIntoSight(): void {
    if (!view) return;
    const y = active.row * ROW;
    const room = view.clientHeight - 44 - ROW;
    if (y < view.scrollTop) view.scrollTop = y;
    else if (y > view.scrollTop + room) view.scrollTop = y - room;
    const x = widths.slice(0, active.column).reduce((sum, width) => sum + width, 0);
    const own = widths[active.column] ?? 0;
    if (x < view.scrollLeft) view.scrollLeft = x;
    else if (x + own > view.scrollLeft + view.clientWidth) view.scrollLeft = x + own - view.clientWidth;
  }
</script>

<RowsView
  {source}
  {widths}
  {label}
  role="grid"
  rowHeight={ROW}
  bind:view
  onkeydown={key}
  onfocuschange={(on) => (focused = on)}
>
  {#snippet head()}
    {#each columns as column, at (at)}
      <div role="columnheader" class="head" class:number={isNumeric(column)} aria-colindex={at + 1}>
        {#if heading}{@render heading(column, at)}{:else}<span class="title">{column.name}</span>{/if}
      </div>
    {/each}
  {/snippet}
  {#snippet row(cells, index)}
    {#each columns as column, at (at)}
      {@const cell = cells[at] ?? null}
      {@const isActive = focused && active.row === index && active.column === at}
      <!-- svelte-ignore a11y_click_events_have_key_events -->
      <div
        role="gridcell"
        tabindex="-1"
        aria-colindex={at + 1}
        class="cell {look(cell, column)}"
        class:active={isActive}
        class:opened={opened?.row === index && opened.column === at}
        data-active={isActive || undefined}
        onclick={(event) => open(index, at, event.currentTarget)}
      >
        {cellText(cell, column, digits[at])}
      </div>
    {/each}
  {/snippet}
</RowsView>

<style>
  .head {
    padding: 4px 10px;
    min-width: 0;
    text-align: left;
  }
  .head.number {
    text-align: right;
  }
  .title {
    font-weight: 700;
  }
  .cell {
    padding: 0 10px;
    line-height: 27px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: pre;
    font-size: 13.5px;
    cursor: default;
    outline: none;
  }
  .cell.number {
    text-align: right;
  }
  .cell.code {
    font-family: var(--mono);
    font-size: 13px;
  }
  .cell.miss {
    color: var(--muted);
    font-style: italic;
  }
  .cell.active {
    box-shadow: inset 0 0 0 2px var(--damson-edge);
  }
  .cell.opened {
    box-shadow: inset 0 0 0 2px var(--damson);
  }
</style>
