<!-- A search box with the number of finds, and the way from one to the next. -->
<script lang="ts">
  import ChevronDown from '@lucide/svelte/icons/chevron-down';
  import ChevronUp from '@lucide/svelte/icons/chevron-up';
  import Search from '@lucide/svelte/icons/search';
  import { count } from '../domain/words/format';

  interface Props {
    text: string;
    label: string;
    placeholder: string;
    /** What was found: how many, and which of them is in sight, from 0. */
    found: { total: number; at: number } | null;
    ontype?: () => void;
    /** Enter, or a click on an arrow. */
    onstep: (by: number) => void;
    onclear?: () => void;
  }
  let { text = $bindable(), label, placeholder, found, ontype, onstep, onclear }: Props = $props();
  let box = $state<HTMLInputElement>();

  /** Put the cursor into it. */
  export function focus(): void {
    box?.focus();
    box?.select();
  }

  function key(event: KeyboardEvent): void {
    if (event.key === 'Enter') onstep(event.shiftKey ? -1 : 1);
    else if (event.key === 'Escape' && onclear) onclear();
    else return;
    event.preventDefault();
  }
</script>

<label class="find">
  <Search size={13} aria-hidden="true" />
  <input
    bind:this={box}
    bind:value={text}
    oninput={ontype}
    onkeydown={key}
    {placeholder}
    aria-label={label}
  />
  {#if found}
    <span class="muted" role="status"
      >{found.total ? `${count(found.at + 1)} of ${count(found.total)}` : 'none'}</span
    >
    <button aria-label="The one before" disabled={!found.total} onclick={() => onstep(-1)}
      ><ChevronUp size={14} /></button
    >
    <button aria-label="The next one" disabled={!found.total} onclick={() => onstep(1)}
      ><ChevronDown size={14} /></button
    >
  {/if}
</label>

<style>
  .find {
    display: flex;
    align-items: center;
    gap: 4px;
    flex: none;
    color: var(--muted);
  }
  input {
    width: 140px;
    height: 24px;
    padding: 0 6px;
    border: 1px solid var(--line);
    border-radius: 6px;
    background: var(--paper);
    color: var(--ink);
  }
  button {
    cursor: pointer;
  }
  button:disabled {
    opacity: 0.4;
  }
</style>
