<!-- Rows of one height, of which only those in sight are drawn. -->
<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { AriaRole } from 'svelte/elements';

  interface Props {
    count: number;
    /** Pixels. */
    rowHeight: number;
    /** Rows that are drawn beyond both ends. */
    spare?: number;
    class: string;
    role: AriaRole;
    label: string;
    /** The element that scrolls, and its height. */
    view?: HTMLElement | undefined;
    height?: number;
    onkeydown?: (event: KeyboardEvent) => void;
    /** Hears the keys of what is in its rows, which then have the keyboard instead of the list itself. */
    onkey?: (event: KeyboardEvent) => void;
    /** Draws a row: its number, and the style that puts it into its place. */
    row: Snippet<[number, string]>;
    /** What a row is known by when it moves; its number when absent. */
    keyOf?: (row: number) => unknown;
    /** Id of the row that the keyboard is on, where the list itself has the keyboard. */
    activeId?: string | undefined;
    /** What stands there while there is no row. */
    empty?: Snippet;
  }
  let {
    count,
    rowHeight,
    spare = 6,
    class: look,
    role,
    label,
    view = $bindable(),
    height = $bindable(400),
    onkeydown,
    onkey,
    row,
    keyOf = (at) => at,
    activeId,
    empty,
  }: Props = $props();

  let top = $state(0);
  const first = $derived(Math.max(0, Math.floor(top / rowHeight) - spare));
  const last = $derived(Math.min(count, Math.ceil((top + height) / rowHeight) + spare));
  const styleOf = (at: number): string =>
    `position: absolute; left: 0; right: 0; transform: translateY(${at * rowHeight}px)`;
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  class={look}
  style="overflow: auto"
  {role}
  aria-label={label}
  aria-activedescendant={activeId}
  tabindex={onkeydown ? 0 : undefined}
  bind:this={view}
  bind:clientHeight={height}
  onscroll={() => (top = view?.scrollTop ?? 0)}
  onkeydown={onkey ?? onkeydown}
>
  <div style="height: {count * rowHeight}px; position: relative">
    {#each { length: Math.max(0, last - first) } as _, offset (keyOf(first + offset))}
      {@render row(first + offset, styleOf(first + offset))}
    {/each}
  </div>
  {#if !count}{@render empty?.()}{/if}
</div>
