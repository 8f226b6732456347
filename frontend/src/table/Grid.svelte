<!-- A table that draws only what is in sight; its cells are walked, selected and copied by mouse and keyboard. -->
<script lang="ts">
  import { untrack, type Snippet } from 'svelte';
  import type { Cell, Column } from '../api/client';
  import { cellText, count, counted, digitsOf } from '../domain/words/format';
  import { isNumeric } from '../domain/kinds';
  import type { RowSource } from './rows.svelte';
  import { blockOf, cellsIn, isInside, moved, tabbed, type At } from './select';
  import { offsetsOf } from './span';
  import type { TableView } from './tableview.svelte';
  import RowsView from './RowsView.svelte';

  interface Props {
    columns: Column[];
    source: RowSource<Cell[]>;
    look: TableView;
    heading?: Snippet<[Column, number]>;
    /** What stands below a column's name; it gets the room that it needs. */
    sub: (column: Column) => string;
    label: string;
    /** What table of which date it is, where it is not the newest one; stands above copied headings. */
    dated?: string;
    /** Called when a cell is opened, by click or Enter, with its place on the screen. */
    onopen?: (row: number, column: number, box: DOMRect, byKey: boolean) => void;
    opened?: { row: number; column: number } | null;
    /** The column that something else points at, by its index. */
    lit?: number | null;
    /** Names of the columns that are new or changed. */
    fresh?: string[];
    /** Whether the last row is of all others. */
    totals?: boolean;
    onpoint?: (column: number | null) => void;
    onfind?: () => void;
    /** What can be done with selected cells of some columns; it gets their rows, cut to these columns. */
    deeds?: (columns: Column[], rows: number) => { label: string; run: (rows: Cell[][]) => void }[];
  }
  let {
    columns,
    source,
    look,
    heading,
    sub,
    label,
    dated = '',
    onopen,
    opened = null,
    lit = null,
    fresh = [],
    totals = false,
    onpoint,
    onfind,
    deeds,
  }: Props = $props();

  const ROW = 28;
  const HEAD = 44;
  const MOST_COPIED = 500_000;
  const SETTLING = 1500; // Milliseconds.
  let view = $state<HTMLElement>();
  let active = $state<At>({ row: 0, column: 0 });
  let anchor = $state<At>({ row: 0, column: 0 });
  let focused = $state(false);
  let dragging = $state(false);
  let said = $state('');

  /** Indices of the columns that are shown. */
  const shown = $derived(columns.flatMap((column, at) => (column.hidden ? [] : [at])));
  const sample = $derived(source.sample(60));
  const digits = $derived(
    columns.map((column, at) => (isNumeric(column) ? digitsOf(sample.map((row) => row[at] ?? null)) : 0)),
  );
  const widths = $derived(
    shown.map((at) => {
      const column = columns[at] as Column;
      const drawn = look.widths[column.name];
      if (drawn) return drawn;
      const wides = sample.map((row) => {
        const cell = row[at] ?? null;
        const isCode = lookOf(cell, column).includes('code') || typeof cell === 'number';
        return Math.min(60, cellText(cell, column, digits[at]).length) * (isCode ? 8.3 : 7.5);
      });
      const head = Math.max(Math.min(40, column.name.length) * 8, sub(column).length * 7.2) + 34;
      return Math.round(Math.min(340, Math.max(64, head, Math.max(0, ...wides) + 24)));
    }),
  );
  const offsets = $derived(offsetsOf(widths));
  const frozen = $derived(Math.min(look.frozen, shown.length));
  const block = $derived(blockOf(anchor, active));
  const several = $derived(cellsIn(block) > 1);
  const chosenColumns = $derived(shown.slice(block.left, block.right + 1).map((at) => columns[at] as Column));
  const offered = $derived(
    several && !dragging ? (deeds?.(chosenColumns, block.bottom - block.top + 1) ?? []) : [],
  );
  const hit = $derived(look.found?.cells[look.found.at] ?? null);

  // What was said of one choice of cells is not true of another.
  $effect(() => {
    void block;
    said = '';
  });

  $effect(() => {
    void source;
    const start = { row: 0, column: 0 };
    active = start;
    anchor = start;
    said = '';
  });

  // So is what a work-out line made.
  let shownFresh = '';
  /** Until when it is kept in sight: its width and that of the table may still change. */
  let settles = 0;
  $effect(() => {
    const key = fresh.join('\n');
    const at = shown.findIndex((index) => fresh.includes(columns[index]?.name ?? ''));
    const x = offsets[at] ?? 0;
    const own = widths[at] ?? 0;
    if (at < 0 || !view || !sample.length) return;
    if (key !== shownFresh) settles = Date.now() + SETTLING;
    else if (Date.now() > settles) return;
    shownFresh = key;
    // By then the table is drawn anew.
    requestAnimationFrame(() => {
      if (view && (x < view.scrollLeft || x + own > view.scrollLeft + view.clientWidth))
        view.scrollLeft = x + own - view.clientWidth + 40;
    });
  });

  // What was found is brought into sight.
  $effect(() => {
    if (!hit) return;
    const at = { row: hit[0] ?? 0, column: Math.max(0, shown.indexOf(hit[1] ?? 0)) };
    active = at;
    anchor = at;
    untrack(bringIntoSight);
  });

  function lookOf(cell: Cell | undefined, column: Column): string {
    if (cell !== null && typeof cell === 'object') return 'miss hatch';
    let kind = isNumeric(column) ? 'number' : '';
    if (column.kind === 'json' || (column.kind === 'whole number' && typeof cell === 'string'))
      kind += ' code';
    else if (column.kind === 'text' && typeof cell === 'string' && /^[A-Z0-9_-]*\d[A-Z0-9_-]*$/i.test(cell))
      kind += ' code';
    return kind;
  }

  const isAddress = (cell: Cell): cell is string => typeof cell === 'string' && /^https?:\/\/\S+$/.test(cell);

  function open(row: number, at: number, element: Element | null, byKey = false): void {
    const column = shown[at];
    // A cell that is still on its way into sight is told by the grid's own corner.
    const box = (element ?? view)?.getBoundingClientRect();
    if (!box || column === undefined) return;
    onopen?.(row, column, element ? box : new DOMRect(box.left, box.top + HEAD, 0, ROW), byKey);
  }

  function press(event: MouseEvent, row: number, column: number): void {
    if (event.button !== 0) return;
    active = { row, column };
    if (!event.shiftKey) anchor = active;
    dragging = true;
    event.preventDefault();
    view?.focus({ preventScroll: true });
  }

  function release(event: MouseEvent, row: number, column: number): void {
    if (dragging && !several && !event.shiftKey) open(row, column, event.currentTarget as Element);
    dragging = false;
  }

  function key(event: KeyboardEvent): void {
    if (event.target !== view) return;
    const letter = event.key.toLowerCase();
    if ((event.ctrlKey || event.metaKey) && 'acf'.includes(letter) && letter.length === 1) {
      if (letter === 'f' && !onfind) return;
      if (letter === 'a') {
        anchor = { row: 0, column: 0 };
        active = { row: source.total - 1, column: shown.length - 1 };
      } else if (letter === 'c') void copy();
      else onfind?.();
      event.preventDefault();
      return;
    }
    const page = Math.max(1, Math.floor(((view?.clientHeight ?? 600) - HEAD) / ROW) - 1);
    const to = moved(active, event, source.total, shown.length, page);
    if (to) {
      active = to;
      if (!event.shiftKey) anchor = to;
    } else if (event.key === 'Enter' || event.key === ' ') {
      open(active.row, active.column, view?.querySelector('[data-active]') ?? null, true);
    } else if (event.key === 'Escape' && several) {
      anchor = active;
    } else return;
    event.preventDefault();
    bringIntoSight();
  }

  function bringIntoSight(): void {
    if (!view) return;
    const body = view.querySelector<HTMLElement>('.body');
    const drawn = body?.offsetHeight ?? 0;
    // Of very many rows one pixel of the bar stands for several.
    const scale =
      drawn && source.total * ROW > drawn
        ? (source.total * ROW - view.clientHeight) / (drawn - view.clientHeight)
        : 1;
    const y = active.row * ROW;
    const room = view.clientHeight - HEAD - ROW - 14;
    const top = view.scrollTop * scale;
    if (y < top) view.scrollTop = y / scale;
    else if (y > top + room) view.scrollTop = (y - room) / scale;
    if (active.column < frozen) return;
    const fixed = offsets[frozen] ?? 0;
    const x = offsets[active.column] ?? 0;
    const own = widths[active.column] ?? 0;
    if (x - fixed < view.scrollLeft) view.scrollLeft = x - fixed;
    else if (x + own > view.scrollLeft + view.clientWidth) view.scrollLeft = x + own - view.clientWidth;
  }

  /** The selected cells, row by row. */
  async function chosenRows(): Promise<Cell[][]> {
    const own = shown.slice(block.left, block.right + 1);
    const rows = await source.fetch(block.top, block.bottom);
    return rows.map((row) => own.map((at) => row[at] ?? null));
  }

  /** Copy the selected cells as text that pastes into a workbook. */
  async function copy(): Promise<void> {
    const cells = cellsIn(block);
    if (cells > MOST_COPIED) {
      said = `${count(cells)} cells are too many to copy; download the table instead.`;
      return;
    }
    const rows = await chosenRows();
    // Values of one column are a list, and a heading is none of them.
    const headed = block.bottom > block.top && chosenColumns.length > 1;
    // The table of another date says so where its headings are said.
    const text = (headed && dated ? `${dated}\n` : '') + tabbed(rows, chosenColumns, headed);
    try {
      await navigator.clipboard.writeText(text);
      said = `${counted(cells, 'cell')} copied${headed ? `, ${dated ? 'date and ' : ''}headings first` : cells > 1 && chosenColumns.length === 1 ? ', without the heading' : ''}`;
    } catch {
      said = 'The browser did not allow copying.';
    }
  }

  /** Draw a column wider or narrower. */
  function stretch(event: PointerEvent, at: number): void {
    const name = columns[shown[at] ?? 0]?.name ?? '';
    const from = event.clientX;
    const width = widths[at] ?? 100;
    const handle = event.currentTarget as HTMLElement;
    handle.setPointerCapture(event.pointerId);
    handle.onpointermove = (moving) => {
      look.widths = { ...look.widths, [name]: Math.max(36, Math.min(1200, width + moving.clientX - from)) };
    };
    handle.onpointerup = () => (handle.onpointermove = null);
    event.preventDefault();
    event.stopPropagation();
  }

  function fit(at: number): void {
    const name = columns[shown[at] ?? 0]?.name ?? '';
    look.widths = Object.fromEntries(Object.entries(look.widths).filter(([own]) => own !== name));
  }
</script>

<svelte:window onmouseup={() => (dragging = false)} />

<div class="complete">
  <RowsView
    {source}
    {widths}
    {frozen}
    {label}
    role="grid"
    selectable
    rowHeight={ROW}
    bind:view
    onkeydown={key}
    onfocuschange={(on) => (focused = on)}
  >
    {#snippet head(at)}
      {@const index = shown[at] ?? 0}
      {@const column = columns[index]}
      {#if column}
        {@const sorted = look.sort.find((one) => one.column === column.name)}
        {@const filtered = look.where.some((one) => one.column === column.name)}
        <!-- svelte-ignore a11y_mouse_events_have_key_events -->
        <div
          role="columnheader"
          tabindex="-1"
          class="head"
          class:number={isNumeric(column)}
          class:lit={lit === index}
          class:fresh={fresh.includes(column.name)}
          class:picked={several &&
            block.top === 0 &&
            block.bottom === source.total - 1 &&
            at >= block.left &&
            at <= block.right}
          aria-colindex={at + 1}
          aria-sort={sorted ? (sorted.down ? 'descending' : 'ascending') : undefined}
          onmouseenter={() => onpoint?.(index)}
          onmouseleave={() => onpoint?.(null)}
        >
          {#if heading}{@render heading(column, index)}{:else}<span class="title">{column.name}</span>{/if}
          {#if sorted || filtered}
            <span class="marks">
              {#if sorted}<b title="Sorted, {sorted.down ? 'highest' : 'lowest'} first"
                  >{sorted.down ? '↓' : '↑'}</b
                >{/if}{#if filtered}<b title="Filtered">≡</b>{/if}
            </span>
          {/if}
          <!-- svelte-ignore a11y_no_static_element_interactions -->
          <span class="handle" onpointerdown={(event) => stretch(event, at)} ondblclick={() => fit(at)}
          ></span>
        </div>
      {/if}
    {/snippet}
    {#snippet cell(cells, index, at, style)}
      {@const place = shown[at] ?? 0}
      {@const column = columns[place] as Column}
      {@const cell = cells[place] ?? null}
      {@const isActive = active.row === index && active.column === at}
      {@const chosen = several && isInside(block, index, at)}
      <!-- svelte-ignore a11y_click_events_have_key_events -->
      <!-- svelte-ignore a11y_no_static_element_interactions -->
      <!-- svelte-ignore a11y_mouse_events_have_key_events -->
      <div
        role="gridcell"
        tabindex="-1"
        aria-colindex={at + 1}
        aria-selected={chosen || (focused && isActive)}
        class="cell {lookOf(cell, column)}"
        class:active={focused && isActive}
        class:chosen
        class:lit={lit === place}
        class:fresh={fresh.includes(column.name)}
        class:total={totals && index === source.total - 1}
        class:found={hit?.[0] === index && hit[1] === place}
        class:opened={opened?.row === index && opened.column === place}
        data-active={isActive || undefined}
        {style}
        onmousedown={(event) => press(event, index, at)}
        onmouseup={(event) => release(event, index, at)}
        onmouseenter={() => {
          if (dragging) active = { row: index, column: at };
          else onpoint?.(place);
        }}
        onmouseleave={() => !dragging && onpoint?.(null)}
      >
        {#if isAddress(cell) && look.pictures.includes(column.name)}
          <img src={cell} alt={cell} loading="lazy" referrerpolicy="no-referrer" />
        {:else if isAddress(cell)}
          <span class="address">{cell}</span>
        {:else}
          {cellText(cell, column, digits[place])}
        {/if}
      </div>
    {/snippet}
  </RowsView>
  {#if several || said}
    <div class="said">
      {#each said ? [] : offered as one (one.label)}
        <button class="plain" onclick={async () => one.run(await chosenRows())}>{one.label}</button>
      {/each}
      <p role="status">
        {said ||
          `${count(block.bottom - block.top + 1)} × ${count(block.right - block.left + 1)} cells · Ctrl C copies`}
      </p>
    </div>
  {/if}
</div>

<style>
  .complete {
    position: relative;
    height: 100%;
  }
  .head {
    position: relative;
    padding: 4px 10px;
    min-width: 0;
    text-align: left;
    outline: none;
  }
  .head.number {
    text-align: right;
  }
  .head.lit,
  .head.picked {
    background: var(--damson-wash);
  }
  .title {
    font-weight: 700;
  }
  .marks {
    position: absolute;
    top: 5px;
    right: 7px;
    color: var(--damson);
    font-size: 13px;
    line-height: 16px;
    background: var(--band);
    padding-left: 3px;
  }
  .head.number .marks {
    right: auto;
    left: 5px;
  }
  .handle {
    position: absolute;
    top: 0;
    right: -3px;
    bottom: 0;
    width: 7px;
    z-index: 2;
    cursor: col-resize;
    touch-action: none;
  }
  .handle:hover {
    background: linear-gradient(90deg, transparent 3px, var(--damson-edge) 3px 5px, transparent 5px);
  }
  .cell {
    flex: none;
    padding: 0 10px;
    line-height: 27px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: pre;
    font-size: 13.5px;
    cursor: default;
    outline: none;
    user-select: none;
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
  .cell.lit {
    background: color-mix(in srgb, var(--damson-wash) 55%, transparent);
  }
  .head.fresh {
    background: var(--damson-wash);
  }
  .cell.fresh {
    background: color-mix(in srgb, var(--damson-wash) 45%, transparent);
  }
  .cell.total {
    font-weight: 700;
    box-shadow: inset 0 1px 0 var(--line);
  }
  .cell.chosen {
    background: var(--damson-wash);
  }
  .cell.found {
    background: var(--straw);
  }
  .cell.active {
    box-shadow: inset 0 0 0 2px var(--damson-edge);
  }
  .cell.opened {
    box-shadow: inset 0 0 0 2px var(--damson);
  }
  .address {
    color: var(--link);
    text-decoration: underline;
    text-decoration-color: var(--faint);
    text-underline-offset: 2px;
  }
  img {
    height: 22px;
    margin-top: 2px;
    max-width: 100%;
    object-fit: contain;
    border-radius: 3px;
  }
  .said {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 14px;
    justify-content: flex-end;
    max-width: calc(100% - 36px);
    position: absolute;
    right: 18px;
    bottom: 14px;
    z-index: 4;
    padding: 3px 10px;
    border: 1px solid var(--line);
    border-radius: 7px;
    background: var(--paper);
    box-shadow: var(--shadow);
    font-size: 13px;
  }
</style>
