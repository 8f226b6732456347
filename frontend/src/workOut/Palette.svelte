<!-- A new line: found by typing what one wants. -->
<script lang="ts">
  import type { Column, LineOffer } from '../api/client';
  import { choices } from '../domain/choices';
  import { foundOf } from './offersStore.svelte';
  import { findLines, type Found } from './palette';

  interface Props {
    columns: Column[];
    /** What the values of the table suggest. */
    offers: LineOffer[];
    onopen: () => void;
    onbegin: (found: Found) => void;
  }
  let { columns, offers, onopen, onbegin }: Props = $props();
  let text = $state('');
  let open = $state(false);
  let at = $state(0);
  let input = $state<HTMLInputElement>();
  const MOST = 8;
  const MOST_OFFERS = 3;
  /** What is offered while nothing is typed yet. */
  const suggested = $derived(text.trim() ? [] : offers.slice(0, MOST_OFFERS));
  const found = $derived<(Found & { label?: string; hint?: string })[]>(
    open
      ? [
          ...suggested.map((offer) => ({
            ...foundOf(offer),
            label: offer.column ? `${offer.column}: ${offer.label}` : offer.label,
            hint: offer.evidence,
          })),
          ...findLines(choices().lines, text, columns).slice(0, 20),
        ]
      : [],
  );
  let all = $state(false);
  const shown = $derived(all ? found : found.slice(0, MOST));

  function begin(one: Found | undefined): void {
    if (!one) return;
    open = false;
    text = '';
    all = false;
    onbegin(one);
  }

  function key(event: KeyboardEvent): void {
    if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      open = true;
      const by = event.key === 'ArrowDown' ? 1 : -1;
      if (at + by >= MOST && found.length > MOST) all = true;
      const size = all ? found.length : shown.length;
      at = (at + by + size) % Math.max(1, size);
    } else if (event.key === 'Enter') begin(shown[at]);
    else if (event.key === 'Escape' && open) open = false;
    else return;
    event.preventDefault();
    event.stopPropagation();
  }
</script>

<div class="palette">
  <input
    class="field"
    bind:this={input}
    bind:value={text}
    role="combobox"
    name="add-line"
    aria-label="Add a line"
    aria-expanded={open}
    aria-controls="lines-found"
    aria-autocomplete="list"
    aria-activedescendant={open && shown[at] ? `line-found-${at}` : undefined}
    placeholder="add a line: “top five”, “percent”"
    autocomplete="off"
    onfocus={() => {
      open = true;
      onopen();
    }}
    onclick={() => (open = true)}
    onblur={() => setTimeout(() => (open = document.activeElement === input), 120)}
    oninput={() => {
      open = true;
      at = 0;
    }}
    onkeydown={key}
  />
  {#if open}
    <div class="found">
      <div id="lines-found" role="listbox" aria-label="Lines">
        {#each shown as one, index (index)}
          <!-- svelte-ignore a11y_click_events_have_key_events -->
          <div
            id="line-found-{index}"
            class="one"
            class:at={index === at}
            role="option"
            tabindex="-1"
            aria-selected={index === at}
            onmousedown={(event) => event.preventDefault()}
            onmouseenter={() => (at = index)}
            onclick={() => begin(one)}
          >
            <b class:offer={one.label}>{one.label ?? one.kind.label}</b>
            <span class="muted">{one.hint ?? one.kind.hint}</span>
          </div>
        {/each}
      </div>
      {#if !shown.length}
        <p class="muted px-2 py-1">No line is found by “{text}”. Try “filter”, “sum” or “join”.</p>
      {/if}
      {#if found.length > shown.length}
        <button
          class="plain more"
          onmousedown={(event) => event.preventDefault()}
          onclick={() => (all = true)}>{found.length - shown.length} more</button
        >
      {/if}
    </div>
  {/if}
</div>

<style>
  .palette {
    position: relative;
    margin: 5px 0 2px;
  }
  .field {
    border-style: dashed;
    font-size: 13px;
  }
  .found {
    margin-top: 3px;
    padding: 4px;
    border: 1px solid var(--line);
    border-radius: 8px;
    background: var(--paper);
    box-shadow: var(--shadow);
    line-height: 17px;
  }
  .one {
    padding: 4px 7px;
    border-radius: 5px;
    font-size: 13px;
    cursor: pointer;
  }
  .one b {
    display: block;
    font-weight: 600;
  }
  .one b.offer {
    color: var(--damson);
  }
  .one .muted {
    font-size: 12px;
  }
  .one.at {
    background: var(--damson-wash);
  }
  .more {
    padding: 3px 7px;
    font-size: 12.5px;
  }
</style>
