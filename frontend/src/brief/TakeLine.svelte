<script lang="ts">
  import { ArrowDown, ArrowUp } from '@lucide/svelte';
  import type { Brief, Column, Trial } from '../lib/api/client';
  import { chosenColumns, nameOf, withColumns, type Chosen } from '../lib/columns';
  import { count, counted } from '../lib/format';
  import Sheet from '../parts/Sheet.svelte';
  import Line from './Line.svelte';

  interface Props {
    brief: Brief;
    trial: Trial | null;
    /** The columns that are taken now, lookups left out. */
    columns: Column[];
    note: string;
    onchange: (brief: Brief) => void;
  }
  let { brief, trial, columns, note, onchange }: Props = $props();

  type Choice = Chosen & { on: boolean };
  let choices = $state<Choice[]>([]);
  let records = $state('');
  let rowsFor = $state('');
  let search = $state('');

  const guess = $derived(
    trial && brief.take.records === '$' && trial.row_guesses[0]?.path !== '$'
      ? trial.row_guesses[0]
      : undefined,
  );
  const lists = $derived(Object.entries(trial?.lists ?? {}).filter(([place]) => !place.includes('[*]')));
  const isAll = $derived(!brief.take.columns);
  const total = $derived(columns.length + (trial?.fresh.length ?? 0));
  const found = $derived(
    choices.filter((one) => `${one.name} ${one.place}`.toLowerCase().includes(search.toLowerCase())),
  );

  function begin(): void {
    search = '';
    records = brief.take.records;
    rowsFor = brief.take.rows_for ?? '';
    const taken = chosenColumns(brief, columns).map((one) => ({ ...one, on: true }));
    const rest = (trial?.fresh ?? []).map((place) => ({
      place,
      name: nameOf(place),
      kind: null,
      unit: '',
      on: false,
    }));
    choices = [...taken, ...rest];
  }

  function keep(close: () => void): void {
    const chosen = choices.filter((one) => one.on);
    onchange(withColumns(brief, chosen));
    close();
  }

  function move(at: number, by: number): void {
    const one = choices[at];
    const other = choices[at + by];
    if (one && other) [choices[at], choices[at + by]] = [other, one];
  }

  function setRecords(path: string, close?: () => void): void {
    onchange({ ...brief, take: { records: path.trim() || '$', rows_for: null, columns: null } });
    close?.();
  }
</script>

<Line verb="Take" {note}>
  each item of
  <Sheet label="Where the records are" look="phrase code" onopen={begin}>
    {#snippet trigger()}{brief.take.records}{/snippet}
    {#snippet children(close)}
      <form
        class="space-y-3"
        onsubmit={(event) => {
          event.preventDefault();
          setRecords(records, close);
        }}
      >
        <label class="block">
          <span class="label">JSONPath to the records</span>
          <input class="field mono" name="records" bind:value={records} />
        </label>
        {#each trial?.row_guesses ?? [] as one (one.path)}
          <button type="button" class="press small mr-1" onclick={() => setRecords(one.path, close)}>
            <code>{one.path}</code> <span class="muted font-normal">{one.why}</span>
          </button>
        {/each}
        <p class="muted text-[13px]">Columns are chosen anew when the place changes.</p>
        <button class="press main small">Done</button>
      </form>
    {/snippet}
  </Sheet>{#if brief.take.rows_for || lists.length},
    {brief.take.rows_for ? 'a row for every' : 'a row for'}
    <Sheet label="What is a row" look={brief.take.rows_for ? 'phrase code' : 'phrase'} onopen={begin}>
      {#snippet trigger()}{brief.take.rows_for
          ? brief.take.rows_for.replace(/^\$\./, '')
          : 'every record'}{/snippet}
      {#snippet children(close)}
        <div class="space-y-2">
          <label class="flex items-center gap-2">
            <input type="radio" value="" bind:group={rowsFor} /> Every record is a row
          </label>
          {#each lists as [place, items] (place)}
            <label class="flex items-center gap-2">
              <input type="radio" value={place} bind:group={rowsFor} />
              Every item of <code>{place}</code>
              <span class="muted">
                {counted(items, 'item')}{trial && trial.pages_read < trial.pages ? ' on the first page' : ''}
              </span>
            </label>
          {/each}
          <p class="muted text-[13px]">
            The record’s other values are repeated. Lists that are not made rows stay as text.
          </p>
          <button
            class="press main small"
            onclick={() => {
              onchange({ ...brief, take: { ...brief.take, rows_for: rowsFor || null, columns: null } });
              close();
            }}>Done</button
          >
        </div>
      {/snippet}
    </Sheet>{/if};
  <Sheet label="Columns" onopen={begin} width={430}>
    {#snippet trigger()}{isAll
        ? `all${columns.length ? ` ${count(columns.length)}` : ''}`
        : `${count(columns.length)} of ${count(total)}`} columns{/snippet}
    {#snippet children(close)}
      <div class="space-y-2">
        {#if choices.length > 12}<input class="field" placeholder="Find a field…" bind:value={search} />{/if}
        <div class="max-h-72 overflow-auto">
          {#each found as choice (choice.place)}
            {@const at = choices.indexOf(choice)}
            <div class="flex items-center gap-2 py-0.5">
              <input type="checkbox" bind:checked={choice.on} aria-label={choice.place} />
              <input
                class="field"
                style="height: 25px; flex: 1"
                bind:value={choice.name}
                aria-label="Name of {choice.place}"
              />
              <code class="muted truncate text-[12px]" style="max-width: 130px" title={choice.place}
                >{choice.place}</code
              >
              <button class="cursor-pointer" aria-label="Up" onclick={() => move(at, -1)}
                ><ArrowUp size={14} /></button
              >
              <button class="cursor-pointer" aria-label="Down" onclick={() => move(at, 1)}
                ><ArrowDown size={14} /></button
              >
            </div>
          {/each}
        </div>
        <div class="flex items-center gap-2">
          <button class="press main small" onclick={() => keep(close)}>Take these</button>
          <button
            class="press small"
            onclick={() => {
              onchange({ ...brief, take: { ...brief.take, columns: null } });
              close();
            }}>Take all there are</button
          >
          <button class="plain text-[13px]" onclick={() => choices.forEach((one) => (one.on = false))}
            >none</button
          >
        </div>
      </div>
    {/snippet}
  </Sheet>.
</Line>
{#if guess}
  <div class="seen mb-2">
    <strong>Seen in the answer:</strong>
    {guess.why} at <code>{guess.path}</code>.
    <button class="press small main mt-1.5" onclick={() => setRecords(guess.path)}
      >Take its items as rows</button
    >
  </div>
{/if}
