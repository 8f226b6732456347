<!-- One sentence of the brief: its verb at the left, what it says at the right. -->
<script lang="ts">
  import type { Snippet } from 'svelte';

  interface Props {
    verb: string;
    children: Snippet;
    note?: string;
  }
  let { verb, children, note = '' }: Props = $props();
</script>

<section class="line">
  <h3>{verb}</h3>
  <div>
    <p>{@render children()}</p>
    {#if note}<small>{note}</small>{/if}
  </div>
</section>

<style>
  .line {
    display: grid;
    grid-template-columns: 74px 1fr;
    gap: 12px;
    padding: 7px 0;
    line-height: 23px;
  }
  h3 {
    color: var(--muted);
    font-weight: 600;
    font-size: 13px;
    text-align: right;
  }
  small {
    display: block;
    color: var(--muted);
    font-size: 12.5px;
    line-height: 17px;
    margin-top: 2px;
  }
</style>
