<!-- One sentence of the brief: its verb at the left, what it says at the right. In a short brief it is one line, until it
     is opened. -->
<script lang="ts">
  import { getContext, type Snippet } from 'svelte';
  import { SHORT } from './short';

  interface Props {
    verb: string;
    children: Snippet;
    note?: string;
  }
  let { verb, children, note = '' }: Props = $props();
  const isShort = getContext<(() => boolean) | undefined>(SHORT);
  let opened = $state(false);
  const short = $derived((isShort?.() ?? false) && !opened);
</script>

<section class="line" class:short>
  <h3>
    {#if isShort?.()}
      <button
        aria-expanded={opened}
        title={opened ? 'Show one line' : 'Show all of it'}
        onclick={() => (opened = !opened)}>{verb}</button
      >
    {:else}{verb}{/if}
  </h3>
  <div>
    <p>{@render children()}</p>
    {#if note && !short}<small>{note}</small>{/if}
  </div>
</section>

<style>
  .line {
    display: grid;
    grid-template-columns: 74px minmax(0, 1fr);
    gap: 12px;
    padding: 7px 0;
    line-height: 23px;
  }
  .line.short {
    padding: 2px 0;
  }
  .short p {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  /* What the keyboard comes to is in sight. */
  .short p:focus-within {
    overflow: visible;
    white-space: normal;
  }
  /* A long phrase is shortened; it does not vanish as a whole. */
  .short p:not(:focus-within) :global(.phrase) {
    max-width: calc(100% - 40px);
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    vertical-align: bottom;
  }
  h3 {
    color: var(--muted);
    font-weight: 600;
    font-size: 13px;
    text-align: right;
  }
  h3 button {
    cursor: pointer;
  }
  h3 button:hover {
    color: var(--damson);
  }
  small {
    display: block;
    color: var(--muted);
    font-size: 12.5px;
    line-height: 17px;
    margin-top: 2px;
  }
</style>
