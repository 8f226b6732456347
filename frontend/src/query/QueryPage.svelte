<script lang="ts">
  import { tick, untrack } from 'svelte';
  import { innerWidth } from 'svelte/reactivity/window';
  import { push, replace, router } from 'svelte-spa-router';
  import { api, ask, problemOf } from '../api/client';
  import { readJson } from '../api/json';
  import AnswersView from '../answers/AnswersView.svelte';
  import ChartView from '../chart/ChartView.svelte';
  import CallsView from '../answers/CallsView.svelte';
  import { toggleField, withRecords, withRows } from '../domain/columns';
  import { eachNoun } from '../domain/fanOut';
  import { counted, when } from '../domain/words/format';
  import { runWords } from '../domain/words/runs';
  import ColumnsDialog from '../table/columns/ColumnsDialog.svelte';
  import FeedDialog from './handOver/FeedDialog.svelte';
  import TraceCard from '../table/TraceCard.svelte';
  import ViewBar from '../table/ViewBar.svelte';
  import Confirm from '../ui/Confirm.svelte';
  import { focusNext } from '../ui/focus';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import Tabs from '../ui/Tabs.svelte';
  import CallStrip from './CallStrip.svelte';
  import BriefColumn from './editor/BriefColumn.svelte';
  import DateBand from './dates/DateBand.svelte';
  import DraftNotices from './DraftNotices.svelte';
  import EmptyTable from './EmptyTable.svelte';
  import QueryHead from './QueryHead.svelte';
  import { QueryStore } from './queryStore.svelte';
  import QueryTable from './QueryTable.svelte';
  import RunNotices from './RunNotices.svelte';
  import TableAge from './TableAge.svelte';
  import LookNote from '../workOut/LookNote.svelte';

  interface Props {
    params: { id: string };
  }
  let { params }: Props = $props();

  const id = $derived(Number(params.id));
  const work = $derived(new QueryStore(id));
  type TabName = 'brief' | 'table' | 'chart' | 'answers' | 'calls';
  /** Pixels below which the brief and the table do not fit side by side. */
  const NARROW = 700;
  const narrow = $derived((innerWidth.current ?? 1280) < NARROW);
  const tabs = $derived<[TabName, string][]>([
    ...(narrow ? ([['brief', 'Brief']] as [TabName, string][]) : []),
    ['table', 'Table'],
    ['chart', 'Chart'],
    // What starts from tables has no answers of its own.
    ...(work.draft?.start
      ? []
      : ([
          ['answers', 'Answers'],
          ['calls', 'Calls'],
        ] as [TabName, string][])),
  ]);
  let tab = $state<TabName>('table');
  $effect(() => {
    if (tab === 'brief' && !narrow) tab = 'table';
  });
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
      void own
        .load(true)
        .then(() => filterBy(own, whereInAddress))
        .then(tick)
        .then(() => document.activeElement === document.body && focusNext());
    });
    return () => own.leave();
  });

  // Somebody comes from a figure to the rows that it is of.
  const whereInAddress = $derived(new URLSearchParams(router.querystring ?? '').get('where') ?? '');
  $effect(() => {
    const text = whereInAddress;
    untrack(() => work.ready && filterBy(work, text));
  });
  function filterBy(own: QueryStore, text: string): void {
    if (!text) return;
    try {
      own.look.where = readJson(text) as typeof own.look.where;
      own.look.sort = [];
    } catch {
      // An address that was cut: the table is seen whole.
    }
  }

  // The date in sight stands in the address: it can be kept, sent, and gone back to.
  const inAddress = $derived(new URLSearchParams(router.querystring ?? '').get('as-of') ?? '');
  $effect(() => {
    const text = inAddress;
    const { dates } = work;
    untrack(() => void dates.seeAddress(text));
  });
  $effect(() => {
    const text = work.dates.address;
    untrack(() => {
      if (text === inAddress) return;
      const place = `/query/${work.id}${text ? `?as-of=${encodeURIComponent(text)}` : ''}`;
      void (text && inAddress ? replace(place) : push(place));
    });
  });

  // Whoever sees the newest table for a moment has looked at it.
  $effect(() => {
    const latest = work.latest?.id;
    if (latest === undefined || work.dates.at || !work.detail) return;
    const path = { query_id: work.id };
    const timer = setTimeout(() => {
      ask(api.POST('/api/queries/{query_id}/looked', { params: { path } })).catch(() => undefined);
    }, 1500);
    return () => clearTimeout(timer);
  });

  $effect(() => {
    document.title = `${work.detail?.brief.name ?? 'Query'} · Tin Bucket`;
  });

  $effect(() => {
    void work.draft;
    void work.given;
    untrack(() => void work.foresee());
  });

  // The lines are done again when the table or a line is another one.
  $effect(() => {
    void work.baseTable;
    void work.draft;
    void work.workOut.editing;
    untrack(() => work.followLines());
  });

  // A trace belongs to the snapshot that is in sight.
  $effect(() => {
    void work.source;
    void work.table;
    trace = null;
  });

  // What is looked at in these is what the reading is changed with.
  $effect(() => {
    if (tab === 'answers' || choosing) work.prepare();
  });

  /** Whether the answers came into sight by themselves; the table does so again, when there is one. */
  let looksOnly = false;
  $effect(() => {
    if (!work.latest) return;
    untrack(() => {
      if (looksOnly && tab === 'answers') tab = 'table';
      looksOnly = false;
    });
  });

  async function askOnce(): Promise<void> {
    chosenAnswer = 0;
    if (!(await work.askOnce())) return;
    if (work.draft?.take.records === '$' && (work.previews.current?.rows ?? 0) <= 1) {
      tab = 'answers';
      looksOnly = true;
    }
  }

  async function own(place: string): Promise<void> {
    const made = await work.ownTable(place);
    if (made !== null) await push(`/query/${made}`);
  }

  async function openTrace(row: number, column: number, box: DOMRect, byKey: boolean): Promise<void> {
    if (work.baseTable.preview === null && !work.latest && !work.draft?.start) return;
    let number = row;
    if (!work.look.plain) {
      const body = { ...work.table, view: work.look.spec, start: row, count: 1 };
      const found = await ask(api.POST('/api/table/rows', { body })).catch(() => null);
      number = found?.numbers[0] ?? row;
    }
    trace = { row, number, column, box, byKey };
  }

  async function report(): Promise<void> {
    try {
      const made = await ask(api.POST('/api/reports/begin', { body: { query_id: work.id } }));
      await push(`/report/${made.id}`);
    } catch (error) {
      work.problem = problemOf(error);
    }
  }

  const toTable = (): void => {
    tab = 'table';
  };

  function openAnswer(index: number): void {
    chosenAnswer = index;
    tab = 'answers';
  }

  const stripWords = $derived.by(() => {
    if (work.previews.asked)
      return `one call to look, ${when(work.previews.asked.asked)}; nothing is kept of it`;
    return runWords(work.detail?.last_run);
  });
</script>

{#snippet table(lit: number | null, onpoint: ((column: number | null) => void) | undefined)}
  {@render grid(lit, onpoint, true)}
{/snippet}

{#snippet grid(lit: number | null, onpoint: ((column: number | null) => void) | undefined, taken: boolean)}
  {#if work.draft}
    <QueryTable
      {work}
      {taken}
      draft={work.draft}
      opened={trace}
      {lit}
      {onpoint}
      onopen={openTrace}
      onfind={() => bar?.focus()}
    />
  {/if}
{/snippet}

{#if work.ready && work.detail && work.draft}
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
      onstart={async (of) => {
        const made = await work.startFrom(of);
        if (made !== null) await push(`/query/${made}`);
      }}
      onreport={report}
      ondelete={() => (confirming = true)}
    />
    <div class="flex min-h-0 flex-1">
      {#if !narrow}
        {#key work.id}<BriefColumn {work} {detail} {draft} oncolumns={() => (choosing = true)} />{/key}
      {/if}
      <section class="flex min-w-0 flex-1 flex-col" style="background: var(--paper)">
        <Tabs bind:value={tab} {tabs}>
          {#snippet aside()}<TableAge {work} {detail} />{/snippet}
          {#snippet above()}<DateBand {work} /><DraftNotices {work} {detail} /><RunNotices
              {work}
              {detail}
              {draft}
            />{/snippet}
          {#snippet children(tab)}
            {#if tab === 'brief'}
              {#key work.id}
                <BriefColumn {work} {detail} {draft} whole oncolumns={() => (choosing = true)} />
              {/key}
            {:else if tab === 'table'}
              {#if work.seen.length}
                <div class="flex h-full flex-col">
                  <LookNote store={work.workOut} rows={work.source.total} />
                  <ViewBar
                    bind:this={bar}
                    look={work.look}
                    table={work.table}
                    rowFlow={work.flow}
                    seen={work.source.total}
                    total={work.seenHeight}
                    columns={work.seen.length}
                    hidden={work.seen.filter((column) => column.hidden).length}
                    oncolumns={() => (choosing = true)}
                  />
                  <div class="min-h-0 flex-1">{@render grid(null, undefined, false)}</div>
                </div>
              {:else if !work.problem}
                <EmptyTable running={work.run.running} kept={!!latest} />
              {/if}
            {:else if tab === 'chart'}
              {#key work.id}
                <ChartView
                  brief={draft}
                  table={work.table}
                  there={work.seen.length > 0 &&
                    (work.table.snapshot !== null || work.table.preview !== null)}
                  look={work.look}
                  columns={work.seen}
                  asOf={(work.dates.at ?? work.latest)?.taken.slice(0, 10) ?? ''}
                  onchange={work.change}
                  onrows={toTable}
                />
              {/key}
            {:else if tab === 'answers'}
              <AnswersView
                calls={work.calls}
                of={work.previews.asked
                  ? `of one call, ${when(work.previews.asked.asked)}`
                  : `of the refresh, ${detail.last_run ? when(detail.last_run.started) : ''}`}
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
                {table}
              />
            {:else}
              <CallsView
                calls={work.calls}
                firstCall={work.plan?.first_call ?? null}
                bind:chosen={chosenCall}
                run={work.previews.asked ? null : (detail.last_run?.id ?? null)}
                onretry={work.canResume ? () => work.resume() : undefined}
                onopen={openAnswer}
              />
            {/if}
          {/snippet}
        </Tabs>
      </section>
    </div>
    <CallStrip
      tiles={work.tiles}
      progress={work.run.progress}
      noun={eachNoun(draft.each)}
      summary={draft.start
        ? work.ofSheets
          ? `It is made of sheets alone, which are as they were dropped in: ${draft.hand_over.length ? 'a refresh hands its table over' : 'there is nothing to refresh'}.`
          : 'It asks nothing itself: a refresh refreshes what it starts from, each once and in order.'
        : stripWords}
      cost={draft.start ? null : (work.plan?.cost ?? null)}
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
  {#if work.handOver.editing}
    <FeedDialog
      queryId={work.id}
      brief={draft}
      feed={work.handOver.editing.feed}
      columns={work.columns.map((column) => column.name)}
      onclose={() => (work.handOver.editing = null)}
      ondone={(feed, now) => work.handOver.done(draft, feed, now)}
    />
  {/if}
  {#if trace && work.seen[trace.column]}
    {@const own = trace}
    {#key `${own.number}/${own.column}`}
      <TraceCard
        table={work.table}
        row={own.number}
        column={own.column}
        columns={work.seen}
        box={own.box}
        byKey={own.byKey}
        queryId={draft.start ? undefined : work.id}
        match={draft.keep.match}
        picture={work.look.pictures.includes(work.seen[own.column]?.name ?? '')}
        onbehind={(line) => {
          work.workOut.lookAt({ line, what: 'behind', row: own.number });
          trace = null;
        }}
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
  {#if confirming}
    <Confirm
      title="Delete “{detail.brief.name}”?"
      yes="Delete it all"
      onyes={async () => {
        confirming = false;
        if (await work.remove()) await push('/');
      }}
      onno={() => (confirming = false)}
    >
      Its {counted(detail.dates, 'snapshot')}, its history of runs and its saved answers are deleted with it.
      This cannot be undone.
    </Confirm>
  {/if}
{:else if work.problem}
  <div class="p-6">
    <ProblemNote problem={work.problem}><a class="plain" href="#/">To the desk</a></ProblemNote>
  </div>
{/if}
