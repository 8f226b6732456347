<script lang="ts">
  import { sameJson } from '../../api/json';
  import type { Brief, Column, RecordsGuess, Preview } from '../../api/client';
  import { withRecords, withRows } from '../../domain/columns';
  import { nameOf, recordsWords } from '../../domain/jsonpath';
  import { count, counted } from '../../domain/words/format';
  import Popover from '../../ui/Popover.svelte';
  import { keepTyped } from '../../ui/typed.svelte';
  import { rowsFound } from '../steps';
  import EditorRow from './EditorRow.svelte';

  interface Props {
    brief: Brief;
    preview: Preview | null;
    /** The columns that are taken now, lookups left out. */
    columns: Column[];
    note: string;
    /** Number of the query. */
    id: number;
    /** Whether what the rows are is to be said next. */
    next: boolean;
    onchange: (brief: Brief) => void;
    oncolumns: () => void;
  }
  let { brief, preview, columns, note, id, next, onchange, oncolumns }: Props = $props();

  let records = $state('');
  let heads = $state<'none' | 'first row' | 'given' | 'place'>('none');
  let names = $state('');
  let beside = $state('');
  let most = $state<number | null>(null);

  const keep = $derived(`records of query ${id}`);
  keepTyped(
    () => `${keep}, rows`,
    () => most,
    (held) => (most = held),
  );
  keepTyped(
    () => keep,
    () => ({ records, heads, names, beside }),
    (held) => ({ records, heads, names, beside } = held),
  );

  const take = $derived(brief.take);
  const where = $derived(recordsWords(take.records));
  const guess = $derived(rowsFound(brief, preview));
  const lists = $derived(
    [...new Set([...Object.keys(preview?.lists ?? {}), ...take.rows_for])].map(
      (place): [string, number | undefined] => [place, preview?.lists[place]],
    ),
  );
  const isAll = $derived(!take.columns);
  const total = $derived(columns.length + (preview?.fresh.length ?? 0));
  const columnWords = $derived.by(() => {
    const [here, all] = [columns.length, total];
    if (!here) return isAll || !all ? 'all columns' : 'no columns';
    if (!isAll && here < all) return `${count(here)} of ${counted(all, 'column')}`;
    if (isAll && preview?.fresh.length) return `the first ${counted(here, 'column')}`;
    return here === 1 ? 'its one column' : `all ${count(here)} columns`;
  });
  const rowsWords = $derived(
    take.rows_for.map((place) => place.replace(/^\$\.?/, '').replaceAll('[*]', '')).join(', '),
  );

  function begin(): void {
    records = take.records;
    heads = take.heads?.by ?? 'none';
    names = take.heads?.by === 'given' ? take.heads.names.join(', ') : '';
    beside = take.heads?.by === 'place' ? take.heads.place : '';
  }

  function headsNow(): Brief['take']['heads'] {
    if (heads === 'first row') return { by: 'first row' };
    if (heads === 'given')
      return {
        by: 'given',
        names: names
          .split(',')
          .map((name) => name.trim())
          .filter(Boolean),
      };
    return heads === 'place' ? { by: 'place', place: beside.trim() } : null;
  }

  function done(close: () => void): void {
    const path = records.trim() || '$';
    const own = headsNow();
    if (path !== take.records || !sameJson(own, take.heads ?? null))
      onchange(withRecords(brief, { path, heads: own, rows_for: [] }));
    close();
  }

  function setRecords(one: RecordsGuess, close?: () => void): void {
    onchange(withRecords(brief, one));
    close?.();
  }
</script>

<EditorRow verb="Take" {note}>
  {where.lead}
  <Popover label="Where the records are" look={where.plain ? 'phrase' : 'phrase code'} onopen={begin} {keep}>
    {#snippet trigger()}<span title={take.records}>{where.name}</span>{/snippet}
    {#snippet children(close)}
      <form
        class="space-y-3"
        onsubmit={(event) => {
          event.preventDefault();
          done(close);
        }}
      >
        <label class="block">
          <span class="label">JSONPath to the records</span>
          <input class="field mono" name="records" bind:value={records} />
        </label>
        {#each preview?.records_guesses ?? [] as one (one.path + one.why)}
          <button type="button" class="press small mr-1 max-w-full" onclick={() => setRecords(one, close)}>
            <code>{one.path}</code> <span class="muted truncate font-normal">{one.why}</span>
          </button>
        {/each}
        <label class="block">
          <span class="label">When the records are lists of values, their names are</span>
          <select class="field" bind:value={heads}>
            <option value="none">not given: they are no lists</option>
            <option value="first row">in the first row</option>
            <option value="place">elsewhere in the answer</option>
            <option value="given">written here</option>
          </select>
        </label>
        {#if heads === 'given'}
          <input class="field" bind:value={names} placeholder="month, route, passengers" aria-label="Names" />
        {:else if heads === 'place'}
          <input
            class="field mono"
            bind:value={beside}
            placeholder="$.columns[*].name"
            aria-label="Place of the names"
          />
        {/if}
        <p class="muted text-[13px]">Changing the place resets the columns.</p>
        <button class="press main small">Done</button>
      </form>
    {/snippet}
  </Popover>{#if take.heads}
    with names {take.heads.by === 'first row'
      ? 'in the first row'
      : take.heads.by === 'given'
        ? 'as given'
        : 'beside them'}{/if}{#if take.rows_for.length || lists.length},
    {take.rows_for.length ? 'a row for each of' : 'a row for'}
    <Popover label="What is a row" look={take.rows_for.length ? 'phrase code' : 'phrase'} onopen={begin}>
      {#snippet trigger()}{rowsWords || 'every record'}{/snippet}
      {#snippet children(close)}
        <div class="space-y-2">
          <p class="muted text-[13px]">
            A record is a row, unless it has a list whose items are rows: its other values are repeated then.
          </p>
          {#each lists as [place, items] (place)}
            <label class="flex items-center gap-2">
              <input
                type="checkbox"
                checked={take.rows_for.includes(place)}
                onchange={(event) => onchange(withRows(brief, columns, place, event.currentTarget.checked))}
              />
              Every item of <strong title={place}>{nameOf(place)}</strong>
              {#if items !== undefined}
                <span class="muted">{counted(items, 'item')}{preview?.partial ? ' so far' : ''}</span>
              {/if}
            </label>
          {/each}
          {#if take.rows_for.length}
            <label class="flex items-center gap-2">
              <input
                type="checkbox"
                name="leave-out"
                checked={take.without_items === 'leave out'}
                onchange={(event) =>
                  onchange({
                    ...brief,
                    take: { ...take, without_items: event.currentTarget.checked ? 'leave out' : 'keep' },
                  })}
              />
              Leave out records without an item
            </label>
          {/if}
          {#if take.together}
            <label class="block">
              <span class="label">Several lists of one record stand</span>
              <select
                class="field"
                value={take.together}
                onchange={(event) =>
                  onchange({
                    ...brief,
                    take: { ...take, together: event.currentTarget.value as 'product' | 'side by side' },
                  })}
              >
                <option value="product">every item with every other</option>
                <option value="side by side">side by side, by their numbers</option>
              </select>
            </label>
          {/if}
          <p class="muted text-[13px]">
            For the other ways (joined, counted, picked by a condition, a table of its own) click the list in
            Answers.
          </p>
          <button class="press main small" onclick={close}>Done</button>
        </div>
      {/snippet}
    </Popover>{/if};
  <button class="phrase" {...{ 'aria-description': 'Columns' }} onclick={oncolumns}>{columnWords}</button>,
  <Popover label="How many rows" onopen={() => (most = take.most_rows ?? null)} keep="{keep}, rows">
    {#snippet trigger()}{take.most_rows
        ? take.most_rows === 1
          ? 'the first row only'
          : `the first ${count(take.most_rows)} rows only`
        : 'all rows'}{/snippet}
    {#snippet children(close)}
      <form
        class="space-y-3"
        onsubmit={(event) => {
          event.preventDefault();
          onchange({ ...brief, take: { ...take, most_rows: most || null } });
          close();
        }}
      >
        <label class="block">
          <span class="label">Only so many rows, from the first</span>
          <input
            class="field"
            type="number"
            name="most-rows"
            min="1"
            step="1"
            bind:value={most}
            placeholder="all of them"
          />
        </label>
        <p class="muted text-[13px]">
          No page, and no lookup, is asked for behind these rows. Leave it empty for all rows.
        </p>
        <button class="press main small">Done</button>
      </form>
    {/snippet}
  </Popover>.
</EditorRow>
{#if guess}
  <div class="seen mb-2">
    <strong>Seen in the answer:</strong>
    {guess.why}{guess.path === '$' || guess.path === '$[*]'
      ? ''
      : ' at '}{#if guess.path !== '$' && guess.path !== '$[*]'}<strong title={guess.path}
        >{nameOf(guess.path)}</strong
      >{/if}.
    <button class="press small main mt-1.5" data-next={next || undefined} onclick={() => setRecords(guess)}
      >{guess.rows_for.length > 1
        ? 'Take its lists side by side'
        : guess.why.includes('members')
          ? 'Take its members as rows'
          : 'Take its items as rows'}</button
    >
  </div>
{/if}
