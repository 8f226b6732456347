<!-- A block of a report with what stands in its margin; it is written in its place. -->
<script lang="ts">
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import Check from '@lucide/svelte/icons/check';
  import Pencil from '@lucide/svelte/icons/pencil';
  import Trash2 from '@lucide/svelte/icons/trash-2';
  import type { BlockRead, ReportBlock } from '../api/client';
  import BlockAdder from './BlockAdder.svelte';
  import Exhibit from './Exhibit.svelte';
  import ExhibitForm from './ExhibitForm.svelte';
  import Margin from './Margin.svelte';
  import type { ReportStore } from './reportStore.svelte';
  import TextEditor from './TextEditor.svelte';

  interface Props {
    store: ReportStore;
    block: ReportBlock;
    at: number;
    read: BlockRead | null;
    editing: boolean;
    onedit: (on: boolean) => void;
    onadd: (at: number, block: ReportBlock) => void;
  }
  let { store, block, at, read, editing, onedit, onadd }: Props = $props();
  const text = $derived(block.block === 'text');
  const last = $derived((store.report?.blocks.length ?? 0) - 1);
  const what = $derived(text ? 'this text' : 'this exhibit');
  // A reading of another kind of block belongs to the report as it was.
  const own = $derived(read?.block === block.block ? read : null);
  let undone = true;

  $effect(() => {
    if (editing) undone = false;
  });

  function click(event: MouseEvent): void {
    const target = event.target as HTMLElement;
    if (!text || target.closest('a, button') || window.getSelection()?.toString()) return;
    onedit(true);
  }
  function write(next: string): void {
    // The first key begins a step that can be undone; those that follow belong to it.
    store.setBlock(at, { block: 'text', text: next }, undone);
    undone = true;
  }
</script>

<div class="piece" class:editing>
  <Margin sources={own?.sources ?? []} leads />
  <div class="body">
    <div class="tools not-printed" role="group" aria-label="Change {what}">
      <BlockAdder {store} onadd={(one) => onadd(at, one)} />
      {#if editing}
        <button title="Done" aria-label="Done with {what}" onclick={() => onedit(false)}
          ><Check size={15} /></button
        >
      {:else}
        <button title="Edit" aria-label="Edit {what}" onclick={() => onedit(true)}
          ><Pencil size={14} /></button
        >
      {/if}
      <button title="Up" aria-label="Move {what} up" disabled={at === 0} onclick={() => store.move(at, -1)}
        ><ArrowUp size={15} /></button
      >
      <button
        title="Down"
        aria-label="Move {what} down"
        disabled={at === last}
        onclick={() => store.move(at, 1)}><ArrowDown size={15} /></button
      >
      <button
        title="Delete; it can be undone"
        aria-label="Delete {what}"
        onclick={() => {
          onedit(false);
          store.remove(at);
        }}><Trash2 size={14} /></button
      >
    </div>
    {#if block.block === 'text' && editing}
      <TextEditor {store} value={block.text ?? ''} onchange={write} ondone={() => onedit(false)} />
      {#each own?.odd ?? [] as one (one)}<p class="odd">{one}</p>{/each}
    {:else}
      <!-- svelte-ignore a11y_click_events_have_key_events, a11y_no_static_element_interactions -->
      <div onclick={click} class:write={text} title={text ? 'Click to write' : undefined}>
        {#if own}
          <Exhibit read={own} />
          {#if block.block === 'text' && !(block.text ?? '').trim()}<p class="quiet">Write here.</p>{/if}
        {:else}<p class="quiet">Reading…</p>{/if}
      </div>
      {#if block.block !== 'text' && editing}
        <ExhibitForm
          {store}
          {block}
          onchange={(next) => store.setBlock(at, next)}
          ondone={() => onedit(false)}
        />
      {/if}
    {/if}
  </div>
</div>

<style>
  .tools {
    position: absolute;
    top: 4px;
    right: 6px;
    z-index: 3;
    display: flex;
    align-items: center;
    gap: 1px;
    padding: 1px 3px;
    border: 1px solid var(--line);
    border-radius: 7px;
    background: var(--paper);
    opacity: 0;
  }
  .piece:hover .tools,
  .piece:focus-within .tools,
  .editing .tools {
    opacity: 1;
  }
  .tools button,
  .tools :global(.adder) {
    display: grid;
    place-items: center;
    width: 25px;
    height: 24px;
    border-radius: 5px;
    color: var(--muted);
    cursor: pointer;
  }
  .tools :global(.adder) {
    border: 0;
    background: none;
    font-size: 16px;
  }
  .tools button:hover:not(:disabled),
  .tools :global(.adder:hover) {
    background: var(--damson-wash);
    color: var(--damson);
  }
  .tools button:disabled {
    opacity: 0.35;
    cursor: default;
  }
  .write {
    cursor: text;
    border-radius: 6px;
  }
  .editing > :global(.body) {
    background: var(--page);
  }
  @media (pointer: coarse) {
    .tools {
      opacity: 1;
      position: static;
      width: fit-content;
      margin-left: auto;
    }
  }
</style>
