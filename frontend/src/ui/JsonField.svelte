<!-- A JSON body, part by part or as text; the one follows the other. -->
<script lang="ts">
  import { readJson, writeJson } from '../api/json';
  import Braces from '@lucide/svelte/icons/braces';
  import Plus from '@lucide/svelte/icons/plus';
  import Trash2 from '@lucide/svelte/icons/trash-2';
  import { untrack } from 'svelte';
  import {
    addAt,
    asKind,
    dropAt,
    problemOfField,
    kindOf,
    renameAt,
    setAt,
    type Json,
    type JsonKind,
    type Step,
  } from '../domain/jsontree';

  interface Props {
    value: Json;
    /** Makes a parameter of a value; gives what then stands in its place. */
    onparameter: (name: string, value: Json) => string;
    /** Whether the text can be read as JSON. */
    fault: string;
  }
  let { value = $bindable(), onparameter, fault = $bindable() }: Props = $props();
  let view = $state<'parts' | 'text'>('parts');
  let text = $state(untrack(() => writeJson(value, 1)));

  const KINDS: JsonKind[] = ['text', 'number', 'yes/no', 'nothing', 'list', 'object'];

  function change(next: Json): void {
    value = next;
    text = writeJson(next, 1);
    fault = '';
  }

  function typed(now: string): void {
    text = now;
    fault = problemOfField(now);
    if (!fault) value = readJson(now) as Json;
  }

  const nameOf = (place: Step[]): string =>
    String([...place].reverse().find((step) => typeof step === 'string') ?? 'value');
</script>

{#snippet node(inner: Json, place: Step[])}
  {@const kind = kindOf(inner)}
  <div class="row" style="padding-left: {place.length * 14}px">
    {#if place.length}
      {@const step = place.at(-1)}
      {#if typeof step === 'string'}
        <input
          class="name"
          aria-label="Name"
          value={step}
          size={Math.max(4, step.length)}
          onchange={(event) => change(renameAt(value, place, event.currentTarget.value.trim() || step))}
        />
      {:else}
        <span class="muted">{(step ?? 0) + 1}.</span>
      {/if}
    {/if}
    {#if kind === 'text' || kind === 'number'}
      <input
        class="value"
        aria-label="Value of {nameOf(place)}"
        value={String(inner)}
        onchange={(event) => {
          const now = event.currentTarget.value;
          change(
            setAt(
              value,
              place,
              kind === 'number' && now.trim() !== '' && !Number.isNaN(Number(now)) ? Number(now) : now,
            ),
          );
        }}
      />
    {:else if kind === 'yes/no'}
      <select
        class="value"
        aria-label="Value of {nameOf(place)}"
        value={String(inner)}
        onchange={(event) => change(setAt(value, place, event.currentTarget.value === 'true'))}
      >
        <option value="true">yes</option><option value="false">no</option>
      </select>
    {:else}
      <span class="muted flex-1">{kind === 'list' ? `list of ${(inner as Json[]).length}` : kind}</span>
    {/if}
    <select
      class="kind"
      aria-label="Kind of {nameOf(place)}"
      value={kind}
      onchange={(event) => change(setAt(value, place, asKind(inner, event.currentTarget.value as JsonKind)))}
    >
      {#each KINDS as one (one)}<option>{one}</option>{/each}
    </select>
    {#if kind === 'list' || kind === 'object'}
      <button
        type="button"
        class="tool"
        aria-label="Add to {nameOf(place)}"
        onclick={() => change(addAt(value, place))}><Plus size={14} /></button
      >
    {/if}
    {#if place.length && !(typeof inner === 'string' && /^\{\w+\}$/.test(inner)) && kind !== 'object' && kind !== 'nothing'}
      <button
        type="button"
        class="tool"
        title="Make it a parameter"
        aria-label="Make {nameOf(place)} a parameter"
        onclick={() => change(setAt(value, place, onparameter(nameOf(place), inner)))}
        ><Braces size={14} /></button
      >
    {/if}
    {#if place.length}
      <button
        type="button"
        class="tool"
        aria-label="Remove {nameOf(place)}"
        onclick={() => change(dropAt(value, place))}><Trash2 size={14} /></button
      >
    {/if}
  </div>
  {#if Array.isArray(inner)}
    {#each inner as item, at (at)}{@render node(item, [...place, at])}{/each}
  {:else if inner !== null && typeof inner === 'object'}
    {#each Object.entries(inner) as [name, item] (name)}{@render node(item, [...place, name])}{/each}
  {/if}
{/snippet}

<div class="rounded-md border" style="border-color: var(--line)">
  <div class="flex gap-4 border-b px-2.5 py-1 text-[12.5px]" style="border-color: var(--hair)">
    <label><input type="radio" value="parts" bind:group={view} disabled={!!fault} /> part by part</label>
    <label><input type="radio" value="text" bind:group={view} /> as text</label>
  </div>
  {#if view === 'parts'}
    <div class="max-h-72 overflow-auto py-1">{@render node(value, [])}</div>
  {:else}
    <textarea
      class="text"
      rows={Math.min(14, text.split('\n').length + 1)}
      spellcheck="false"
      aria-label="Body as JSON text"
      value={text}
      oninput={(event) => typed(event.currentTarget.value)}></textarea>
  {/if}
  {#if fault}<p class="px-2.5 pb-1.5 text-[12.5px]" style="color: var(--straw-ink)">{fault}</p>{/if}
</div>

<style>
  .row {
    display: flex;
    align-items: center;
    gap: 6px;
    min-height: 28px;
    margin: 0 8px;
  }
  .name,
  .value,
  .kind {
    height: 25px;
    border: 1px solid transparent;
    border-radius: 5px;
    background: none;
    color: var(--ink);
    font-family: var(--mono);
    font-size: 12.5px;
    padding: 0 5px;
    min-width: 0;
  }
  .name {
    color: var(--link);
  }
  .value {
    flex: 1;
    border-color: var(--hair);
  }
  .kind {
    width: 84px;
    color: var(--muted);
    font-family: inherit;
  }
  .row input:hover,
  .row select:hover,
  .row input:focus {
    border-color: var(--line);
  }
  .tool {
    color: var(--muted);
    padding: 3px;
    border-radius: 4px;
    cursor: pointer;
  }
  .tool:hover {
    color: var(--damson);
    background: var(--damson-wash);
  }
  .text {
    display: block;
    width: 100%;
    padding: 7px 10px;
    background: none;
    color: var(--ink);
    font-family: var(--mono);
    font-size: 12.5px;
    outline: none;
    border: 0;
    resize: vertical;
  }
</style>
