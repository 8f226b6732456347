<!-- The answers of a preview or a run, one at a time: a tree with the table beside it, or the text as it came. -->
<script lang="ts">
  import { untrack, type Snippet } from 'svelte';
  import {
    answerText,
    problemOf,
    type AnswerAt,
    type AnswerText,
    type Call,
    type Column,
    type Problem,
    type RecordsGuess,
    type ColumnSpec,
  } from '../api/client';
  import { bytes, counted, span } from '../domain/words/format';
  import { parsePlace } from '../domain/jsonpath';
  import { AnswerTree as Tree } from './tree.svelte';
  import AnswerTree from './AnswerTree.svelte';
  import FindBox from '../ui/FindBox.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';

  interface Props {
    calls: Call[];
    /** What they are the answers of, and when. */
    of: string;
    at: (index: number) => AnswerAt;
    records: string;
    rowsFor: string[];
    columns: Column[];
    guesses: RecordsGuess[];
    ontake: (column: ColumnSpec) => void;
    onrecords: (guess: Partial<RecordsGuess> & { path: string }) => void;
    onrows: (place: string, on: boolean, keyed: boolean) => void;
    onown: (place: string) => void;
    /** The problem that the page shows already. */
    said: Problem | null;
    /** Index of the call to show first. */
    chosen?: number;
    /** The table; it is told which column is pointed at, and tells. */
    table: Snippet<[number | null, (column: number | null) => void]>;
  }
  let {
    calls,
    of,
    at,
    records,
    rowsFor,
    columns,
    guesses,
    ontake,
    onrecords,
    onrows,
    onown,
    said,
    chosen = 0,
    table,
  }: Props = $props();

  let index = $derived(chosen);
  let raw = $state(false);
  let text = $state.raw<AnswerText | null>(null);
  let textProblem = $state.raw<Problem | null>(null);
  let search = $state('');
  let drawn = $state<ReturnType<typeof AnswerTree>>();
  let pointed = $state.raw<{ place: string; of: string } | null>(null);
  let pointedFromTable = $state.raw<{ place: string; of: string } | null>(null);
  let share = $state(0.54);
  let whole = $state<HTMLElement>();

  const call = $derived(calls[Math.min(index, calls.length - 1)]);
  const place = $derived(call?.has_answer ? at(calls.indexOf(call)) : null);
  const tree = $derived(place ? Tree.of(place) : null);
  const live = $derived(call?.stage === 'pages');
  const taken = $derived(
    new Set(
      columns
        .filter((one) => one.origin === 'taken')
        .map((one) => `${one.list_words ? 'list of ' : ''}${one.of} ${one.place}`),
    ),
  );
  const lit = $derived.by(() => {
    const own = pointed;
    if (!own) return null;
    const found = columns.findIndex(
      (one) => one.origin === 'taken' && one.place === own.place && one.of === own.of,
    );
    return found < 0 ? null : found;
  });
  const treeProblem = $derived(tree?.problem ? problemOf(tree.problem) : null);

  // The way to the records is opened when an answer comes, not at each change of the brief.
  $effect(() => {
    const own = tree;
    const live_ = live;
    text = null;
    textProblem = null;
    search = '';
    untrack(() => own && void own.begin(live_ ? parsePlace(records) : []));
  });

  $effect(() => {
    if ((raw || treeProblem?.kind === 'not-json') && place && !text) void more();
  });

  async function more(): Promise<void> {
    if (!place) return;
    try {
      const found = await answerText(place, text?.text.length ?? 0);
      text = { ...found, text: (text?.text ?? '') + found.text };
    } catch (error) {
      textProblem = problemOf(error);
    }
  }

  /** The next find; the first one of a text that was not looked for yet. */
  async function find(by: number): Promise<void> {
    if (!tree) return;
    drawn?.show(tree.found?.text === search ? await tree.step(by) : await tree.search(search));
  }

  function drag(event: PointerEvent): void {
    const bar = event.currentTarget as HTMLElement;
    bar.setPointerCapture(event.pointerId);
    bar.onpointermove = (moving) => {
      const box = whole?.getBoundingClientRect();
      if (box) share = Math.max(0.2, Math.min(0.85, (moving.clientX - box.left) / box.width));
    };
    bar.onpointerup = () => (bar.onpointermove = null);
  }

  function fromTable(column: number | null): void {
    const one = column === null ? undefined : columns[column];
    pointedFromTable = one?.origin === 'taken' ? { place: one.place, of: one.of } : null;
  }
</script>

{#if call}
  <div class="flex h-full flex-col">
    <div class="flex items-center gap-3 border-b px-3 py-1 text-[13px]" style="border-color: var(--line)">
      <select class="field" style="width: 190px; height: 27px" bind:value={index} aria-label="Which answer">
        {#each calls as one, number (one.number)}
          <option value={number}>
            {one.stage === 'pages'
              ? one.label || 'the answer'
              : `${one.stage.replace('look up ', '')} ${one.label}`}
          </option>
        {/each}
      </select>
      <span class="muted truncate">
        {of} · {call.status ? `status ${call.status}` : 'no answer'} · {span(call.ms)} · {bytes(call.size)}
        {#if call.records}· {counted(call.records, 'record')}{/if}
        {#if call.saved}· saved{/if}
      </span>
      <span class="ml-auto"></span>
      {#if !raw}
        <FindBox
          bind:text={search}
          label="Find in the answer"
          placeholder="Find a name or value"
          found={tree?.found ?? null}
          onstep={find}
        />
      {/if}
      <button class="plain" onclick={() => (raw = !raw)}>{raw ? 'Tree' : 'Raw'}</button>
    </div>
    <div class="flex min-h-0 flex-1" bind:this={whole}>
      <div class="relative min-w-0" style="width: {columns.length ? share * 100 : 100}%">
        {#if call.problem && call.problem.what !== said?.what}
          <div class="p-3"><ProblemNote problem={call.problem} /></div>
        {/if}
        {#if textProblem}
          <div class="p-3"><ProblemNote problem={textProblem} /></div>
        {:else if raw || treeProblem?.kind === 'not-json'}
          <div class="h-full overflow-auto p-3">
            <pre
              class="text-[13px] break-all whitespace-pre-wrap"
              style="font-family: var(--mono)">{text?.text ?? ''}</pre>
            {#if text?.more}<button class="press small mt-2" onclick={more}>Show more of it</button>{/if}
          </div>
        {:else if treeProblem}
          <div class="p-3"><ProblemNote problem={treeProblem} /></div>
        {:else if tree}
          <AnswerTree
            bind:this={drawn}
            {tree}
            {records}
            {rowsFor}
            {taken}
            guesses={live ? guesses : []}
            {live}
            lit={pointedFromTable}
            {ontake}
            {onrecords}
            {onrows}
            {onown}
            onpoint={(one) => (pointed = one)}
          />
        {/if}
      </div>
      {#if columns.length}
        <!-- svelte-ignore a11y_no_static_element_interactions -->
        <div class="bar" onpointerdown={drag}></div>
        <div class="min-w-0 flex-1">{@render table(lit, fromTable)}</div>
      {/if}
    </div>
  </div>
{:else}
  <p class="muted p-6">No answer is kept here. Ask once to see one.</p>
{/if}

<style>
  .bar {
    width: 7px;
    flex: none;
    border-left: 1px solid var(--line);
    background: var(--page);
    cursor: col-resize;
    touch-action: none;
  }
  .bar:hover {
    background: var(--damson-wash);
  }
</style>
