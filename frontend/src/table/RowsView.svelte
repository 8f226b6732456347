<!-- Rows of one height and columns of given widths, of which only those in sight are drawn. -->
<script lang="ts" generics="Row">
  import type { Snippet } from 'svelte';
  import type { RowSource } from './rows.svelte';
  import { heightOf, offsetsOf, spanOf } from './span';

  interface Props {
    source: RowSource<Row>;
    rowHeight: number;
    /** Widths of the columns, in pixels. */
    widths: number[];
    /** How many columns stay in sight at the left. */
    frozen?: number;
    role: 'grid' | 'table';
    label: string;
    /** A column's heading: its index, and the style that puts it into its place. */
    head: Snippet<[number, string]>;
    /** A cell: its row, the row's index, the column's index, and the style that puts it into its place. */
    cell: Snippet<[Row, number, number, string]>;
    rowClass?: (row: Row) => string;
    /** The scrolling element. */
    view?: HTMLElement;
    selectable?: boolean;
    onkeydown?: (event: KeyboardEvent) => void;
    onfocuschange?: (focused: boolean) => void;
  }
  let {
    source,
    rowHeight,
    widths,
    frozen = 0,
    role,
    label,
    head,
    cell,
    rowClass,
    view = $bindable(),
    selectable = false,
    onkeydown,
    onfocuschange,
  }: Props = $props();

  /** Rows that are drawn above and below those in sight. */
  const SPARE = 12;
  let scrolled = $state(0);
  let left = $state(0);
  let height = $state(600);
  let width = $state(900);

  const tall = $derived(heightOf(source.total, rowHeight, height));
  const top = $derived(scrolled * tall.scale);
  const first = $derived(Math.max(0, Math.floor(top / rowHeight) - SPARE));
  const last = $derived(Math.min(source.total, Math.ceil((top + height) / rowHeight) + SPARE));
  const indices = $derived(Array.from({ length: Math.max(0, last - first) }, (_, index) => first + index));
  const offsets = $derived(offsetsOf(widths));
  const wide = $derived(offsets.at(-1) ?? 0);
  const fixed = $derived(offsets[Math.min(frozen, widths.length)] ?? 0);
  const span = $derived(spanOf(offsets, left + fixed, left + width));
  const from = $derived(Math.max(frozen, span.first));
  const shown = $derived([
    ...Array.from({ length: Math.min(frozen, widths.length) }, (_, at) => at),
    ...Array.from({ length: Math.max(0, span.last - from) }, (_, at) => from + at),
  ]);

  /** Where a column stands: beside its neighbour, after a gap for those out of sight, or held at the left. */
  function styleOf(at: number): string {
    if (at < frozen) return `width:${widths[at]}px;left:${offsets[at]}px`;
    const gap = at === from ? `margin-left:${(offsets[from] ?? 0) - fixed}px;` : '';
    return `${gap}width:${widths[at]}px`;
  }

  $effect(() => source.want(first, last));

  // A new table starts at its top.
  $effect(() => {
    void source;
    if (view) view.scrollTop = 0;
  });
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<div
  class="view"
  {role}
  aria-label={label}
  aria-rowcount={source.total + 1}
  aria-colcount={widths.length}
  aria-multiselectable={selectable || undefined}
  tabindex="0"
  bind:this={view}
  bind:clientHeight={height}
  bind:clientWidth={width}
  onscroll={() => {
    scrolled = view?.scrollTop ?? 0;
    left = view?.scrollLeft ?? 0;
  }}
  {onkeydown}
  onfocus={() => onfocuschange?.(true)}
  onblur={() => onfocuschange?.(false)}
>
  <div class="heads" role="row" aria-rowindex="1" style="width: {wide}px">
    {#each shown as at (at)}
      <div class="slot" class:frozen={at < frozen} class:edge={at === frozen - 1} style={styleOf(at)}>
        {@render head(at, '')}
      </div>
    {/each}
  </div>
  <div class="body" style="height: {tall.drawn}px; width: {wide}px">
    {#each indices as index (index)}
      {@const found = source.at(index)}
      <!-- A row that is still on its way is none yet. -->
      <div
        role={found ? 'row' : 'presentation'}
        class="row {found && rowClass ? rowClass(found) : ''}"
        aria-rowindex={found ? index + 2 : undefined}
        style="height: {rowHeight}px; transform: translateY({index * rowHeight - top + scrolled}px)"
      >
        {#if found}
          {#each shown as at (at)}
            {#if at < frozen}
              <div class="slot frozen" class:edge={at === frozen - 1} role="presentation" style={styleOf(at)}>
                {@render cell(found, index, at, 'width:100%')}
              </div>
            {:else}
              {@render cell(found, index, at, styleOf(at))}
            {/if}
          {/each}
        {/if}
      </div>
    {/each}
  </div>
</div>

<style>
  .view {
    height: 100%;
    overflow: auto;
    outline-offset: -2px;
    background: var(--paper);
    contain: strict;
  }
  /* A cell that is lit says itself where the keys go. */
  .view:has(:global([role='gridcell'].active)) {
    outline: none;
  }
  .heads {
    position: sticky;
    top: 0;
    z-index: 3;
    display: flex;
    min-width: 100%;
    background: var(--band);
    border-bottom: 1px solid var(--faint);
  }
  .slot {
    flex: none;
    min-width: 0;
  }
  .slot.frozen {
    position: sticky;
    z-index: 1;
    background: var(--paper);
  }
  .heads .slot.frozen {
    background: var(--band);
  }
  .slot.edge {
    box-shadow: 1px 0 0 var(--faint);
  }
  .body {
    position: relative;
    min-width: 100%;
  }
  .row {
    position: absolute;
    inset: 0 0 auto 0;
    display: flex;
    border-bottom: 1px solid var(--hair);
  }
</style>
