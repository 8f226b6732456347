<!-- A card that floats beside a place of the page; Escape and a click elsewhere close it. -->
<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import type { Snippet } from 'svelte';

  interface Props {
    /** The place beside which it stands. */
    box: DOMRect;
    label: string;
    width: number;
    /** The height that it needs below the place; without it the card stands above. */
    room: number;
    onclose: () => void;
    card?: HTMLElement | undefined;
    children: Snippet;
  }
  let { box, label, width, room, onclose, card = $bindable(), children }: Props = $props();

  const left = $derived(Math.max(8, Math.min(box.left, window.innerWidth - width - 12)));
  // What is left of the window on either side; where neither has room the larger one is taken, and the card scrolls.
  const spare = $derived({ below: window.innerHeight - box.bottom - 13, above: box.top - 13 });
  const below = $derived(spare.below >= room || spare.below >= spare.above);
</script>

<svelte:window
  onkeydown={(event) => event.key === 'Escape' && onclose()}
  onpointerdown={(event) => card && !card.contains(event.target as globalThis.Node) && onclose()}
/>

<div
  class="card"
  role="dialog"
  tabindex="-1"
  aria-label={label}
  bind:this={card}
  style="left: {left}px; width: {width}px; {below
    ? `top: ${box.bottom + 5}px`
    : `bottom: ${Math.max(8, window.innerHeight - box.top + 5)}px`}; max-height: {Math.min(
    460,
    below ? spare.below : spare.above,
  )}px"
>
  <button class="absolute top-2 right-2 cursor-pointer p-1" aria-label="Close" onclick={onclose}
    ><X size={15} /></button
  >
  {@render children()}
</div>

<style>
  .card {
    position: fixed;
    z-index: 30;
    overflow: auto;
    border: 1px solid var(--line);
    border-radius: 10px;
    background: var(--paper);
    box-shadow: var(--shadow);
    padding: 11px 14px;
    font-size: 13.5px;
  }
</style>
