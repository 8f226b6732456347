<!-- Rows of one height, of which only those in sight are drawn; they come from the server in windows. -->
<script lang="ts" generics="Row">
  import type { Snippet } from 'svelte';
  import type { RowSource } from '../lib/rows.svelte';

  interface Props {
    source: RowSource<Row>;
    rowHeight: number;
    /** Widths of the columns, in pixels. */
    widths: number[];
    role: 'grid' | 'table';
    label: string;
    head: Snippet;
    row: Snippet<[Row, number]>;
    rowClass?: (row: Row) => string;
    /** The scrolling element. */
    view?: HTMLElement;
    onkeydown?: (event: KeyboardEvent) => void;
    onfocuschange?: (focused: boolean) => void;
  }
  let {
    source,
    rowHeight,
    widths,
    role,
    label,
    head,
    row,
    rowClass,
    view = $bindable(),
    onkeydown,
    onfocuschange,
  }: Props = $props();

  /** Rows that are drawn above and below those in sight. */
  const SPARE = 12;
  let top = $state(0);
  let height = $state(600);

  const first = $derived(Math.max(0, Math.floor(top / rowHeight) - SPARE));
  const last = $derived(Math.min(source.total, Math.ceil((top + height) / rowHeight) + SPARE));
  const indices = $derived(Array.from({ length: Math.max(0, last - first) }, (_, index) => first + index));
  const template = $derived(widths.map((width) => `${width}px`).join(' '));
  const wide = $derived(widths.reduce((sum, width) => sum + width, 0));

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
  tabindex="0"
  bind:this={view}
  bind:clientHeight={height}
  onscroll={() => (top = view?.scrollTop ?? 0)}
  {onkeydown}
  onfocus={() => onfocuschange?.(true)}
  onblur={() => onfocuschange?.(false)}
>
  <div class="heads" role="row" aria-rowindex="1" style="grid-template-columns: {template}; width: {wide}px">
    {@render head()}
  </div>
  <div class="body" style="height: {source.total * rowHeight}px; width: {wide}px">
    {#each indices as index (index)}
      {@const found = source.at(index)}
      <div
        role="row"
        class="row {found && rowClass ? rowClass(found) : ''}"
        aria-rowindex={index + 2}
        style="height: {rowHeight}px; grid-template-columns: {template}; transform: translateY({index *
          rowHeight}px)"
      >
        {#if found}{@render row(found, index)}{/if}
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
  .heads {
    position: sticky;
    top: 0;
    z-index: 2;
    display: grid;
    min-width: 100%;
    background: var(--band);
    border-bottom: 1px solid var(--faint);
  }
  .body {
    position: relative;
    min-width: 100%;
  }
  .row {
    position: absolute;
    inset: 0 0 auto 0;
    display: grid;
    border-bottom: 1px solid var(--hair);
  }
</style>
