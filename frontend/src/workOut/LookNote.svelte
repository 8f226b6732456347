<!-- Which rows are in sight, where they are those that a line speaks of. -->
<script lang="ts">
  import { count } from '../domain/words/format';
  import type { WorkOutStore } from './workOutStore.svelte';

  interface Props {
    store: WorkOutStore;
    rows: number;
  }
  let { store, rows }: Props = $props();
  const WORDS: Record<string, string> = {
    dropped: 'dropped by',
    odd: 'could not be worked out by',
    unmatched: 'had no match in',
    several: 'matched more than once in',
    behind: 'are counted in a row of',
  };
  const line = $derived(store.look ? store.done?.lines[store.look.line - 1] : undefined);
</script>

{#if store.look && line}
  <p class="note" role="status">
    <span>
      <b>{count(rows)} {rows === 1 ? 'row' : 'rows'}</b>
      {WORDS[store.look.what]} line {store.look.line}: {line.words.map((word) => word.text).join('')}
    </span>
    <button class="press small" onclick={() => store.lookAt(null)}>Back to the table</button>
  </p>
{/if}

<style>
  .note {
    display: flex;
    align-items: center;
    gap: 12px;
    flex: none;
    padding: 4px 12px;
    border-bottom: 1px solid var(--hair);
    background: var(--straw-wash);
    font-size: 13px;
  }
  .note span {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>
