<script lang="ts">
  import { untrack } from 'svelte';
  import { push } from 'svelte-spa-router';
  import BriefColumn from './editor/BriefColumn.svelte';
  import {
    dropColumn,
    editColumn,
    moveBefore,
    moveColumn,
    newColumn,
    toggleField,
    withRecords,
    withRows,
  } from '../domain/columns';
  import { nameOf } from '../domain/jsonpath';
  import { count, counted, when, whyEnded } from '../domain/format';
  import { QueryStore } from './queryStore.svelte';
  import { api, ask, type Column } from '../api/client';
  import AnswersView from '../answers/AnswersView.svelte';
  import CallStrip from './CallStrip.svelte';
  import CallsView from '../answers/CallsView.svelte';
  import ColumnsDialog from '../table/columns/ColumnsDialog.svelte';
  import ColumnPopover from '../table/columns/ColumnPopover.svelte';
  import Grid from '../table/Grid.svelte';
  import KeyForm from '../parts/KeyForm.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import QueryHead from './QueryHead.svelte';
  import TraceCard from '../table/TraceCard.svelte';
  import ViewBar from '../table/ViewBar.svelte';
  import WaitingNote from './WaitingNote.svelte';
  import Dialog from '../ui/Dialog.svelte';

  interface Props {
    params: { id: string };
  }
  let { params }: Props = $props();

  const work = $derived(new QueryStore(Number(params.id)));
  let tab = $state<'table' | 'answers' | 'calls'>('table');
  let chosenAnswer = $state(0);
  let chosenCall = $state<number | null>(null);
  let trace = $state<{ row: number; number: number; column: number; box: DOMRect; byKey: boolean } | null>(
    null,
  );
  let choosing = $state(false);
  let bar = $state<ReturnType<typeof ViewBar>>();
  let confirming = $state(false);

  $effect(() => {
    const own = work;
    untrack(() => {
      tab = 'table';
      trace = null;
      void own.load(true);
    });
    return () => own.leave();
  });

  $effect(() => {
    document.title = `${work.detail?.brief.name ?? 'Query'} · Tin Bucket`;
  });

  $effect(() => {
    void work.draft;
    void work.given;
    untrack(() => void work.foresee());
  });

  // A trace belongs to the snapshot that is in sight.
  $effect(() => {
    void work.source;
    trace = null;
  });

  // What is looked at in these is what the reading is changed with.
  $effect(() => {
    if (tab === 'answers' || choosing) work.prepare();
  });

  const requiredKey = $derived(
    work.detail?.service?.key && work.detail.key && !work.detail.key.ready ? work.detail.service : null,
  );
  const keyRefused = $derived(
    ['key-refused', 'key-missing', 'key-bound-elsewhere', 'token-wanted'].includes(work.problem?.kind ?? ''),
  );

  // A run that stopped, or whose table is incomplete.
  const unwhole = $derived.by(() => {
    const run = work.detail?.last_run;
    if (!run || work.run.running || work.previews.asked || work.previews.shown) return null;
    return run.can_go_on || run.state === 'incomplete' ? run : null;
  });
  const canGoOn = $derived(!work.dirty && !!unwhole?.can_go_on);
  const lacks = $derived(unwhole?.report.gaps ?? []);
  const oddities = $derived(work.previews.shown?.notes ?? work.detail?.last_run?.report.oddities ?? []);

  async function askOnce(): Promise<void> {
    chosenAnswer = 0;
    if (!(await work.askOnce())) return;
    if (work.draft?.take.records === '$' && (work.previews.current?.rows ?? 0) <= 1) tab = 'answers';
  }

  const drift = $derived(
    work.previews.shown || work.run.running ? null : (work.detail?.last_run?.report.drift ?? null),
  );
  const freshNow = $derived(
    drift?.new.filter((place) => !work.draft?.take.columns?.some((column) => column.place === place)) ?? [],
  );
  const short = (places: string[]): string =>
    places
      .slice(0, 4)
      .map((place) => place.replace(/^\$\.?/, ''))
      .join(', ') + (places.length > 4 ? ` and ${count(places.length - 4)} more` : '');

  /** How old the table is, and what of it was not asked for anew. */
  const age = $derived.by(() => {
    const latest = work.latest;
    if (!latest) return '';
    const run = work.detail?.last_run;
    const own = run?.snapshot_id === latest.id ? run : null;
    const from = own?.report.from_saved;
    const saved = own?.report.tally.saved ?? 0;
    const parts = [from ? `read from saved answers of ${when(from)}` : `refreshed ${when(latest.taken)}`];
    if (!from && saved) parts.push(`${counted(saved, 'answer')} saved before`);
    if (latest.rebuilt) parts.push(`rebuilt ${when(latest.rebuilt)}`);
    return parts.join(' · ');
  });

  async function own(place: string): Promise<void> {
    const made = await work.ownTable(place);
    if (made !== null) await push(`/query/${made}`);
  }

  async function openTrace(row: number, column: number, box: DOMRect, byKey: boolean): Promise<void> {
    if (work.table.preview === null && !work.latest) return;
    let number = row;
    if (!work.look.plain) {
      const body = { ...work.table, view: work.look.spec, start: row, count: 1 };
      const found = await ask(api.POST('/api/table/rows', { body })).catch(() => null);
      number = found?.numbers[0] ?? row;
    }
    trace = { row, number, column, box, byKey };
  }

  function openAnswer(index: number): void {
    chosenAnswer = index;
    tab = 'answers';
  }

  /** What stands below a column's name. */
  function sub(column: Column): string {
    const source = column.origin === 'for each' ? 'asked for' : 'looked up';
    const words = column.unit || (column.origin === 'taken' ? column.kind : source);
    return work.draft?.keep.match.includes(column.name) ? `${words} · match` : words;
  }

  /** How the brief takes a column. */
  function chosenOf(column: Column) {
    if (column.origin === 'taken') return work.draft?.take.columns?.find((one) => one.name === column.name);
    const look_up = work.draft?.look_up.find((one) => one.name === column.origin);
    return look_up?.take.find((one) => one.name === column.name);
  }

  function unfitOf(column: Column): number {
    const own = work.previews.shown?.unfit ?? work.detail?.last_run?.report.reading.unfit;
    return own?.[column.name] ?? 0;
  }

  function matchBy(column: Column, on: boolean): void {
    const brief = work.draft;
    if (!brief) return;
    const others = brief.keep.match.filter((name) => name !== column.name);
    void work.change({ ...brief, keep: { ...brief.keep, match: on ? [...others, column.name] : others } });
  }

  const ENDS: Record<string, string> = {
    complete: 'was complete',
    incomplete: 'was incomplete',
    failed: 'failed',
    cancelled: 'was stopped',
    'broken off': 'broke off',
    running: 'goes on',
  };
  const stripWords = $derived.by(() => {
    if (work.previews.asked)
      return `one call to look, ${when(work.previews.asked.asked)}; nothing is kept of it`;
    const run = work.detail?.last_run;
    if (!run) return 'No call has been made yet. Ask once to look, or refresh to fetch the whole table.';
    const seconds = run.ended ? (new Date(run.ended).getTime() - new Date(run.started).getTime()) / 1000 : 0;
    const took = seconds > 0 ? ` in ${seconds.toFixed(1)} s` : '';
    const why = whyEnded(run);
    return `the last run ${ENDS[run.state] ?? run.state}, ${when(run.started)}${took}${why && ` · ${why}`}`;
  });
</script>

{#snippet grid(lit: number | null, onpoint: ((column: number | null) => void) | undefined)}
  {@const draft = work.draft}
  {#if draft}
    <Grid
      columns={work.columns}
      source={work.source}
      look={work.look}
      label="Table of {draft.name}"
      opened={trace}
      {lit}
      {onpoint}
      {sub}
      onopen={openTrace}
      onfind={() => bar?.focus()}
    >
      {#snippet heading(column, at)}
        <ColumnPopover
          {column}
          chosen={chosenOf(column)}
          {at}
          rows={work.height}
          table={work.table}
          look={work.look}
          sub={sub(column)}
          unfit={unfitOf(column)}
          isKey={draft.keep.match.includes(column.name)}
          onchange={(edit) => {
            if (edit.name) work.look.renamed(column.name, edit.name);
            return work.change(editColumn(draft, work.columns, column, edit));
          }}
          ondrop={() => work.change(dropColumn(draft, work.columns, column))}
          onmove={(by) => work.change(moveColumn(draft, work.columns, column, by))}
          onplace={(name) => work.change(moveBefore(draft, work.columns, name, column.name))}
          onopen={work.prepare}
          onkey={(on) => matchBy(column, on)}
        />
      {/snippet}
    </Grid>
  {/if}
{/snippet}

{#if work.detail && work.draft}
  {@const detail = work.detail}
  {@const draft = work.draft}
  {@const latest = work.latest}
  <div class="flex h-full flex-col">
    <QueryHead
      {work}
      {detail}
      {draft}
      onask={askOnce}
      oncopy={async () => {
        const made = await work.copy();
        if (made !== null) await push(`/query/${made}`);
      }}
      ondelete={() => (confirming = true)}
    />
    <div class="flex min-h-0 flex-1">
      <BriefColumn {work} {detail} {draft} oncolumns={() => (choosing = true)} />
      <section class="flex min-w-0 flex-1 flex-col" style="background: var(--paper)">
        <div class="tabs" role="tablist">
          {#each [['table', 'Table'], ['answers', 'Answers'], ['calls', 'Calls']] as const as [key, words] (key)}
            <button role="tab" aria-selected={tab === key} class:on={tab === key} onclick={() => (tab = key)}
              >{words}</button
            >
          {/each}
          <span class="muted ml-auto truncate text-[13px]">
            {#if work.previews.shown && work.columns.length}
              {@const preview = work.previews.shown}
              {preview.run_id
                ? `rebuilt from the saved answers of ${when(preview.asked)}, no call made`
                : `one call, ${when(preview.asked)}`}
              · {preview.total_gap && preview.run_id === null
                ? `${count(preview.total_gap.here)} of ${count(preview.total_gap.total)} rows`
                : counted(preview.rows, 'row')}{preview.partial ? ' so far, the others follow' : ''}
              {#if latest}<button class="plain ml-1" onclick={() => (work.previews.shows = false)}
                  >show the snapshot</button
                >{/if}
            {:else if latest}
              {counted(latest.rows, 'row')} · {age}
            {/if}
          </span>
        </div>
        {#if work.run.waiting}
          <WaitingNote waiting={work.run.waiting} onstop={() => work.stop()} />
        {/if}
        {#if work.problem && !work.run.waiting}
          <div class="m-3">
            <ProblemNote problem={work.problem}>
              {#if keyRefused && detail.service?.key && !requiredKey}
                <div class="mt-2 max-w-md">
                  <KeyForm
                    service={detail.service}
                    wants={detail.key?.wants ?? []}
                    asksEnd={false}
                    onstored={() => {
                      work.problem = null;
                      void work.load();
                    }}
                  />
                </div>
              {/if}
            </ProblemNote>
          </div>
        {/if}
        {#if unwhole && !work.run.waiting}
          <div class="seen mx-3 mt-3 mb-2 flex items-center gap-3">
            <p class="min-w-0 flex-1">
              {#if unwhole.snapshot_id}
                <strong>The table is incomplete:</strong> {lacks.join('; ')}.
              {:else}
                <strong>The last run {ENDS[unwhole.state] ?? unwhole.state}.</strong>
                {counted(unwhole.records, 'record')} of it {unwhole.records === 1 ? 'is' : 'are'} saved.
              {/if}
              {#if canGoOn}Calls that were answered are not repeated.{/if}
            </p>
            {#if canGoOn}
              <button class="press small main" disabled={work.busy} onclick={() => work.goOn()}
                >{unwhole.snapshot_id ? 'Retry what failed' : 'Resume'}</button
              >
            {/if}
          </div>
        {/if}
        {#if drift && (freshNow.length || drift.missing.length || drift.changed.length)}
          <div class="seen mx-3 mt-3 mb-2 flex items-center gap-3">
            <p class="min-w-0 flex-1">
              <strong>The answers are not as they were:</strong>
              {#if freshNow.length}new <code>{short(freshNow)}</code>{/if}
              {#if drift.missing.length}{freshNow.length ? '; ' : ''}no longer there
                <code>{short(drift.missing)}</code>{/if}
              {#if drift.changed.length}{freshNow.length || drift.missing.length ? '; ' : ''}of another kind
                <code>{short(drift.changed.map((one) => `${one.place} (${one.was} → ${one.now})`))}</code
                >{/if}
            </p>
            {#if freshNow.length && draft.take.columns}
              <button
                class="press small main"
                onclick={() => {
                  let next = draft;
                  for (const place of freshNow)
                    next = toggleField(next, work.columns, newColumn(place, nameOf(place)));
                  void work.change(next);
                }}>Take {freshNow.length === 1 ? 'it' : `these ${count(freshNow.length)}`}</button
              >
            {/if}
          </div>
        {/if}
        {#each oddities as words (words)}<p class="seen mx-3 mt-3 mb-2">{words}</p>{/each}
        <div class="min-h-0 flex-1">
          {#if tab === 'table'}
            {#if work.columns.length}
              <div class="flex h-full flex-col">
                <ViewBar
                  bind:this={bar}
                  look={work.look}
                  table={work.table}
                  rowFlow={work.rowFlow}
                  seen={work.source.total}
                  total={work.height}
                  columns={work.columns.length}
                  hidden={work.columns.filter((column) => column.hidden).length}
                  oncolumns={() => (choosing = true)}
                />
                <div class="min-h-0 flex-1">{@render grid(null, undefined)}</div>
              </div>
            {:else if !work.problem}
              <div class="p-10 text-center">
                {#if work.run.running}
                  <p class="text-lg font-semibold">On its way</p>
                  <p class="muted mt-1">The table stands here when all pages are read.</p>
                {:else if latest}
                  <p class="text-lg font-semibold">The table is empty</p>
                  <p class="muted mt-1">
                    The service answered, and its list has no rows for these parameters.
                  </p>
                {:else}
                  <p class="text-lg font-semibold">No table yet</p>
                  <p class="muted mx-auto mt-1 max-w-md">
                    <strong>Ask once</strong> makes one call, so that you can look at the answer and say where
                    the rows are. <strong>Refresh</strong> fetches everything and keeps a snapshot.
                  </p>
                {/if}
              </div>
            {/if}
          {:else if tab === 'answers'}
            <AnswersView
              calls={work.calls}
              at={work.answer}
              records={draft.take.records}
              rowsFor={draft.take.rows_for}
              columns={work.columns}
              guesses={work.previews.current?.records_guesses ?? []}
              said={work.problem}
              chosen={chosenAnswer}
              ontake={(column) => work.change(toggleField(draft, work.columns, column))}
              onrecords={(guess) => work.change(withRecords(draft, guess))}
              onrows={(place, on, keyed) => work.change(withRows(draft, work.columns, place, on, keyed))}
              onown={own}
              table={grid}
            />
          {:else}
            <CallsView
              calls={work.calls}
              firstCall={work.plan?.first_call ?? null}
              bind:chosen={chosenCall}
              run={work.previews.asked ? null : (detail.last_run?.id ?? null)}
              onretry={canGoOn ? () => work.goOn() : undefined}
              onopen={openAnswer}
            />
          {/if}
        </div>
      </section>
    </div>
    <CallStrip
      tiles={work.tiles}
      progress={work.run.progress}
      summary={stripWords}
      cost={work.plan?.cost ?? null}
      onstop={() => work.stop()}
      onpick={(tile) => {
        chosenCall = tile.number;
        tab = 'calls';
      }}
    />
  </div>
  <ColumnsDialog
    open={choosing}
    brief={draft}
    columns={work.columnSpecs}
    fresh={work.previews.current?.fresh ?? []}
    rows={work.height}
    onchange={work.change}
    onclose={() => (choosing = false)}
  />
  {#if trace && work.columns[trace.column]}
    {@const own = trace}
    {#key `${own.number}/${own.column}`}
      <TraceCard
        table={work.table}
        row={own.number}
        column={own.column}
        columns={work.columns}
        box={own.box}
        byKey={own.byKey}
        picture={work.look.pictures.includes(work.columns[own.column]?.name ?? '')}
        onclose={() => (trace = null)}
        onmove={(column) => (trace = { ...own, column })}
        oncall={work.previews.asked
          ? undefined
          : (number) => {
              chosenCall = number;
              tab = 'calls';
              trace = null;
            }}
      />
    {/key}
  {/if}
  <Dialog
    title="Delete “{detail.brief.name}”?"
    open={confirming}
    onclose={() => (confirming = false)}
    width={440}
  >
    <p>
      Its {counted(detail.snapshots.length, 'snapshot')}, its history of runs and its saved answers go with
      it. This cannot be undone.
    </p>
    <div class="mt-4 flex gap-2">
      <button class="press main" onclick={async () => (await work.remove()) && push('/')}
        >Delete it all</button
      >
      <button class="press" onclick={() => (confirming = false)}>Keep it</button>
    </div>
  </Dialog>
{:else if work.problem}
  <div class="p-6">
    <ProblemNote problem={work.problem}><a class="plain" href="#/">To the desk</a></ProblemNote>
  </div>
{/if}

<style>
  .tabs {
    display: flex;
    align-items: center;
    gap: 18px;
    height: 36px;
    flex: none;
    padding: 0 14px;
    border-bottom: 1px solid var(--line);
    background: var(--page);
  }
  .tabs button[role='tab'] {
    height: 36px;
    color: var(--muted);
    border-bottom: 3px solid transparent;
    padding-top: 3px;
    cursor: pointer;
  }
  .tabs button.on {
    color: var(--damson);
    border-bottom-color: var(--damson);
    font-weight: 600;
  }
</style>
