<!-- Where a cell came from: its call, the place in the answer, what was done with it, and what it was before. -->
<script lang="ts">
  import { sameJson } from '../api/json';
  import {
    api,
    ask,
    problemOf,
    type Cell,
    type Column,
    type Problem,
    type TableRef,
    type Trace,
  } from '../api/client';
  import { cellText, count, counted, day, span, when } from '../domain/words/format';
  import { storyAddress } from '../history/links';
  import Card from '../ui/Card.svelte';

  interface Props {
    table: TableRef;
    /** The row's number in the table, and the column's. */
    row: number;
    column: number;
    columns: Column[];
    box: DOMRect;
    /** Whether it was opened by keyboard. */
    byKey: boolean;
    /** Whether the column's addresses are shown as pictures. */
    picture?: boolean;
    /** Whose row it is, and what says which row is which. */
    queryId?: number;
    match?: string[];
    onclose: () => void;
    onmove: (column: number) => void;
    oncall?: (number: number) => void;
    /** The rows behind the row are to be seen, of a line that counted them. */
    onbehind?: (line: number) => void;
  }
  let {
    table,
    row,
    column,
    columns,
    box,
    byKey,
    picture = false,
    queryId,
    match = [],
    onclose,
    onmove,
    oncall,
    onbehind,
  }: Props = $props();
  let trace = $state<Trace | null>(null);
  let problem = $state<Problem | null>(null);
  let card = $state<HTMLElement>();
  let copied = $state('');
  const heading = $derived(columns[column] as Column);

  $effect(() => {
    const body = { ...table, row, column };
    trace = null;
    problem = null;
    ask(api.POST('/api/table/trace', { body })).then(
      (found) => (trace = found),
      (error: unknown) => (problem = problemOf(error)),
    );
  });

  /** Where the story of its row is told. */
  let story = $state<string | null>(null);
  $effect(() => {
    const places = match.map((name) => columns.findIndex((one) => one.name === name));
    story = null;
    if (!queryId || !match.length || places.includes(-1) || table.preview !== null) return;
    const [own, names] = [queryId, match];
    const body = { ...table, view: { sort: [], where: [] }, start: row, count: 1 };
    ask(api.POST('/api/table/rows', { body })).then(
      (found) => {
        const cells = found.rows[0] as Cell[] | undefined;
        if (cells)
          story = storyAddress(
            own,
            names,
            places.map((at) => cells[at] ?? null),
          );
      },
      () => undefined,
    );
  });

  // Enter opened it, Tab goes through it, Escape closes it and leads back.
  const before = document.activeElement;
  $effect(() => {
    if (byKey) card?.focus();
    return () => {
      if (byKey) (before as HTMLElement | null)?.focus?.({ preventScroll: true });
    };
  });

  const value = $derived(trace ? cellText((trace.value ?? null) as Cell, heading) : '');
  const long = $derived(value.length > 120 || value.includes('\n'));
  const address = $derived(
    typeof trace?.value === 'string' && /^https?:\/\/\S+$/.test(trace.value) ? trace.value : '',
  );
  /** Earlier values, each with the last day on which it was so. */
  const differs = $derived(
    trace?.history.filter((one, at, all) => !sameJson(one.value, at ? all[at - 1]?.value : trace?.value)) ??
      [],
  );

  const STATES: Record<string, string> = {
    null: 'the answer says null here',
    missing: 'the answer has no such field here',
    'empty text': 'the answer has an empty text here',
  };

  async function copy(text: string): Promise<void> {
    try {
      await navigator.clipboard.writeText(text);
      copied = text;
    } catch {
      copied = '';
    }
  }
</script>

<Card {box} label="Where this cell came from" width={380} room={300} {onclose} bind:card>
  {#if trace}
    {@const told = trace}
    <p class="pr-6">
      <strong class="wrap-anywhere">{heading.name}{long ? '' : ` ${value || '(empty)'}`}</strong>
      <span class="muted">· row {count(row + 1)}</span>
    </p>
    {#if long}<pre class="excerpt complete">{value}</pre>{/if}
    {#if address && picture}
      <img src={address} alt={address} referrerpolicy="no-referrer" />
    {/if}
    {#if address}<p class="mt-1">
        <a class="plain wrap-anywhere" href={address} target="_blank" rel="noreferrer noopener"
          >Open the address</a
        >
      </p>{/if}
    {#each told.through as one (one)}<p class="mt-1">brought in from {one}</p>{/each}
    {#if told.worked}
      {@const made = told.worked}
      <p class="mt-1">
        {made.line ? `Line ${made.line}` : 'A line of its query'}: {made.sentence}
      </p>
      <pre class="excerpt">{made.expression}</pre>
      {#each made.inputs as one (one.name)}
        {@const at = columns.findIndex((own) => own.name === one.name)}
        <p class="mt-1">
          with {#if at >= 0}<button class="plain" onclick={() => onmove(at)}>{one.name}</button
            >{:else}{one.name}{/if}
          <code>{cellText((one.value ?? null) as Cell, columns[at] ?? heading) || '(empty)'}</code>
        </p>
      {/each}
      {#if made.behind}
        <p class="mt-1">
          {counted(made.behind, 'row')} counted here {#if onbehind && made.line}<button
              class="plain"
              onclick={() => onbehind(made.line)}>see {made.behind === 1 ? 'it' : 'them'}</button
            >{/if}
        </p>
      {/if}
    {:else if told.source === 'worked out'}
      {#if !told.through.length}<p class="mt-1">Nothing matched, so no value was brought in.</p>{/if}
    {:else if told.call}
      <p class="mt-1">
        {told.source === 'page'
          ? `Call ${count(told.call)} of ${count(told.calls)}`
          : told.source === 'for each'
            ? 'Asked for in call'
            : `Looked up as ${told.source}`}{told.label ? `, ${told.label}` : ''} · {when(told.sent)} · {span(
          told.ms,
        )}
        {#if told.from_memory}<span class="straw">saved, not asked again</span>{/if}
        {#if oncall && told.call_number}<button
            class="plain"
            onclick={() => oncall(told.call_number as number)}>the call</button
          >{/if}
      </p>
      {#if told.pointer !== null}
        <p class="mt-1 wrap-anywhere" style="color: var(--link)">
          <code>{told.pointer || '(the whole answer)'}</code>
          <button class="plain ml-1 text-[12.5px]" onclick={() => copy(told.pointer ?? '')}
            >{copied === told.pointer ? 'copied' : 'copy'}</button
          >
        </p>
      {/if}
    {:else}
      <p class="mt-1">No call was made for this cell: the value it is looked up by is empty.</p>
    {/if}
    {#if told.excerpt}
      <pre class="excerpt">{told.excerpt.before}{#if told.excerpt.lit}<mark>{told.excerpt.lit}</mark
          >{/if}{told.excerpt.after}</pre>
    {:else if told.call && !told.kept}
      <p class="muted mt-2">
        {typeof told.value === 'object' && told.value !== null
          ? 'The service has nothing under this code.'
          : 'The raw answer of this run is no longer kept.'}
      </p>
    {/if}
    {#if STATES[told.state]}<p class="muted mt-1">{STATES[told.state]}</p>{/if}
    {#each told.steps as step (step)}<p class="mt-1">→ {step}</p>{/each}
    {#each told.made_with as one (one.column)}
      <p class="mt-1">
        asked with <button class="plain" onclick={() => onmove(one.column)}>{one.name}</button>
        <code>{cellText((one.value ?? null) as Cell, columns[one.column] ?? heading) || '(empty)'}</code>
      </p>
    {/each}
    {#if told.history.length}
      <div class="history">
        <span class="muted">before</span>
        {#if differs.length}
          {#each differs.slice(0, 5) as one (one.snapshot)}
            <span
              >until {day(one.taken)}
              <b>{cellText((one.value ?? null) as Cell, heading) || '(empty)'}</b></span
            >
          {/each}
        {:else}
          <span>the same in the {counted(told.history.length, 'snapshot')} before</span>
        {/if}
      </div>
    {/if}
    {#if story}<p class="mt-1"><a class="plain" href={story}>The story of this row</a></p>{/if}
  {:else if problem}
    <p class="pr-6">{problem.what} {problem.do}</p>
  {:else}
    <p class="muted">Looking…</p>
  {/if}
</Card>

<style>
  img {
    margin-top: 7px;
    max-height: 200px;
    border-radius: 6px;
  }
  .excerpt {
    margin-top: 7px;
    padding: 6px 9px;
    border-radius: 6px;
    background: var(--band);
    font-family: var(--mono);
    font-size: 12.5px;
    white-space: pre-wrap;
    overflow-wrap: anywhere;
  }
  .complete {
    max-height: 130px;
    overflow: auto;
  }
  mark {
    background: var(--straw);
    color: inherit;
    border-radius: 3px;
  }
  .straw {
    background: var(--straw-wash);
    padding: 0 4px;
    border-radius: 3px;
  }
  .history {
    display: flex;
    flex-wrap: wrap;
    gap: 2px 10px;
    margin-top: 8px;
    padding-top: 6px;
    border-top: 1px solid var(--hair);
  }
</style>
