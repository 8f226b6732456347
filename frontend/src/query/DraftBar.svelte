<!-- The draft: what can be undone and redone, and saving or discarding it. -->
<script lang="ts">
  import Redo2 from '@lucide/svelte/icons/redo-2';
  import Undo2 from '@lucide/svelte/icons/undo-2';
  import type { QueryStore } from './queryStore.svelte';

  interface Props {
    work: QueryStore;
  }
  let { work }: Props = $props();
  const drafts = $derived(work.drafts);

  /** Ctrl+Z and Ctrl+Shift+Z (or Ctrl+Y) undo and redo, but within a field they are the field's own. */
  function onkeydown(event: KeyboardEvent): void {
    if (!(event.ctrlKey || event.metaKey) || event.altKey) return;
    const at = event.target as HTMLElement;
    if (at.closest('input, textarea, select, [contenteditable], [role=dialog]')) return;
    const key = event.key.toLowerCase();
    if (key !== 'z' && key !== 'y') return;
    event.preventDefault();
    void (key === 'y' || event.shiftKey ? work.redo() : work.undo());
  }
</script>

<svelte:window {onkeydown} onfocus={() => work.notice()} />

{#if drafts.undoes || drafts.redoes}
  <span class="steps">
    <button
      aria-label="Undo"
      disabled={!drafts.undoes}
      title={drafts.undoes ? `Undo: ${drafts.undoes.name} (Ctrl+Z)` : 'There is nothing to undo'}
      onclick={work.undo}><Undo2 size={16} /></button
    >
    <button
      aria-label="Redo"
      disabled={!drafts.redoes}
      title={drafts.redoes ? `Redo: ${drafts.redoes.name} (Ctrl+Shift+Z)` : 'There is nothing to redo'}
      onclick={work.redo}><Redo2 size={16} /></button
    >
  </span>
{/if}
{#if work.dirty}
  <button class="press" onclick={() => work.discard()}>Discard changes</button>
  <button class="press" onclick={() => work.save()}>Save</button>
{/if}

<style>
  .steps {
    display: inline-flex;
    border: 1px solid var(--line);
    border-radius: 7px;
    overflow: hidden;
  }
  .steps button {
    padding: 6px 7px;
    cursor: pointer;
    color: var(--ink);
  }
  .steps button + button {
    border-left: 1px solid var(--line);
  }
  .steps button:hover:not(:disabled) {
    background: var(--damson-wash);
  }
  .steps button:disabled {
    color: var(--faint);
    cursor: default;
  }
</style>
