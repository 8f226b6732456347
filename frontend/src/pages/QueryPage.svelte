<script lang="ts">
  import { Download, GitCompareArrows, MoreHorizontal } from '@lucide/svelte';
  import { onMount, untrack } from 'svelte';
  import { push } from 'svelte-spa-router';
  import AskLine from '../brief/AskLine.svelte';
  import KeepLine from '../brief/KeepLine.svelte';
  import LookUpLine from '../brief/LookUpLine.svelte';
  import PagesLine from '../brief/PagesLine.svelte';
  import ParameterBar from '../brief/ParameterBar.svelte';
  import TakeLine from '../brief/TakeLine.svelte';
  import {
    api,
    ask,
    follow,
    problemOf,
    runAnswer,
    trialAnswer,
    type Brief,
    type Call,
    type CallPreview,
    type Cell,
    type Column,
    type Kind,
    type Problem,
    type Progress,
    type QueryDetail,
    type ServiceInfo,
    type Tile,
    type Trial,
    type Values,
  } from '../lib/api/client';
  import { count, counted, when } from '../lib/format';
  import { RowSource } from '../lib/rows.svelte';
  import AnswersView from '../parts/AnswersView.svelte';
  import BucketMark from '../parts/BucketMark.svelte';
  import CallStrip from '../parts/CallStrip.svelte';
  import CallsView from '../parts/CallsView.svelte';
  import ColumnSheet from '../parts/ColumnSheet.svelte';
  import Grid from '../parts/Grid.svelte';
  import KeyForm from '../parts/KeyForm.svelte';
  import ProblemNote from '../parts/ProblemNote.svelte';
  import Sheet from '../parts/Sheet.svelte';
  import TraceCard from '../parts/TraceCard.svelte';
  import Window from '../parts/Window.svelte';

  interface Props {
    params: { id: string };
  }
  let { params }: Props = $props();
  const id = $derived(Number(params.id));

  let detail = $state<QueryDetail | null>(null);
  let services = $state<ServiceInfo[]>([]);
  let draft = $state.raw<Brief | null>(null);
  let given = $state<Values>({});
  let trial = $state.raw<Trial | null>(null);
  /** Whether the table shows the trial's rows instead of the newest snapshot's. */
  let showsTrial = $state(false);
  let tab = $state<'table' | 'answers' | 'calls'>('table');
  let runCalls = $state.raw<Call[]>([]);
  let preview = $state.raw<CallPreview | null>(null);
  let progress = $state<Progress | null>(null);
  let tiles = $state.raw<Tile[]>([]);
  let problem = $state<Problem | null>(null);
  let busy = $state(false);
  let chosenAnswer = $state(0);
  let trace = $state<{ row: number; column: number; box: DOMRect } | null>(null);
  let confirming = $state(false);
  let stopFollowing = (): void => {};

  const latest = $derived(detail?.snapshots.at(-1) ?? null);
  const dirty = $derived(!!detail && !!draft && JSON.stringify(detail.brief) !== JSON.stringify(draft));
  const running = $derived(progress?.state === 'running');
  const columns = $derived<Column[]>(showsTrial && trial ? trial.columns : (detail?.columns ?? []));
  const takenColumns = $derived(columns.filter((column) => column.origin === 'taken'));
  const height = $derived(showsTrial && trial ? trial.rows : (latest?.rows ?? 0));
  const source = $derived.by(() => {
    const of = showsTrial && trial ? { trial: trial.id } : { snapshot: latest?.id ?? 0 };
    const rows = height;
    return new RowSource<Cell[]>(rows, async (start, size) => {
      const query = { start, count: size };
      const window =
        of.trial !== undefined
          ? await ask(api.GET('/api/trials/{number}/rows', { params: { path: { number: of.trial }, query } }))
          : await ask(
              api.GET('/api/snapshots/{snapshot_id}/rows', {
                params: { path: { snapshot_id: of.snapshot ?? 0 }, query },
              }),
            );
      return window.rows as Cell[][];
    });
  });
  /** A trial that made a call of its own; one that was read anew shows the run's calls. */
  const asked = $derived(trial && trial.run_id === null ? trial : null);
  const calls = $derived(asked ? asked.calls : runCalls);
  const taken = $derived(new Set(takenColumns.map((column) => column.place)));
  const keyService = $derived(detail?.service?.key && !detail.key_stored ? detail.service : null);
  const keyRefused = $derived(
    problem?.kind === 'key-refused' ||
      problem?.kind === 'key-missing' ||
      problem?.kind === 'key-bound-elsewhere',
  );
  const lookupNotes = $derived(
    (detail?.last_run?.notes.lookups ?? {}) as Record<
      string,
      { calls: number; rows: number; none: number; failed: number }
    >,
  );

  onMount(() => {
    ask(api.GET('/api/services')).then((found) => (services = found), fail);
    return () => stopFollowing();
  });

  // Another query in the same place begins from nothing.
  $effect(() => {
    void id;
    untrack(() => {
      stopFollowing();
      detail = draft = trial = trace = progress = problem = null;
      given = {};
      tiles = [];
      runCalls = [];
      tab = 'table';
      void load(true);
    });
  });

  function fail(error: unknown): void {
    problem = problemOf(error);
  }

  async function load(first = false): Promise<void> {
    try {
      const found = await ask(api.GET('/api/queries/{query_id}', { params: { path: { query_id: id } } }));
      detail = found;
      document.title = `${found.brief.name} · Tin Bucket`;
      if (first || !dirty) draft = found.brief;
      if (found.running !== null && found.running !== undefined) watch(found.running);
      else if (found.last_run) {
        problem =
          found.last_run.problem && found.last_run.state !== 'cancelled' ? found.last_run.problem : null;
        await loadCalls(found.last_run.id);
        if (first) await reread(found.brief);
      }
    } catch (error) {
      fail(error);
    }
  }

  async function loadCalls(run: number): Promise<void> {
    runCalls = await ask(api.GET('/api/runs/{run_id}/calls', { params: { path: { run_id: run } } }));
    tiles = runCalls.map((call) => ({
      number: call.number,
      stage: call.stage,
      label: call.label,
      state: call.problem ? 'failed' : call.status === 404 ? 'missing' : 'answered',
      status: call.status,
      ms: call.ms,
      records: call.records,
    }));
  }

  $effect(() => {
    const body = { brief: draft, values: $state.snapshot(given) };
    if (!body.brief) return;
    const wanted = body as { brief: Brief; values: Values };
    ask(api.POST('/api/call', { body: wanted })).then(
      (found) => (preview = found),
      () => (preview = null),
    );
  });

  // Editing: a change is read from the saved answers at once, and costs no call.
  async function change(brief: Brief): Promise<void> {
    draft = brief;
    problem = null;
    trace = null;
    await reread(brief);
  }

  /** Read the answers that are here as a brief says: the first pages at once, then all of them. */
  async function reread(brief: Brief): Promise<void> {
    const changed = JSON.stringify(brief) !== JSON.stringify(detail?.brief);
    try {
      const found = await readPages(brief, changed ? 10 : 1);
      if (!found || draft !== brief) return;
      trial = found;
      showsTrial = changed || !latest;
      if (changed) problem = found.problem ?? null;
      if (changed && found.pages_read < found.pages) {
        const whole = await readPages(brief, null);
        if (whole && draft === brief) trial = whole;
      }
    } catch (error) {
      if (changed) fail(error);
    }
  }

  function readPages(brief: Brief, most: number | null): Promise<Trial | null> {
    const path = { query_id: id };
    const body = { brief, values: {}, trial: trial?.id ?? null, most };
    return ask(
      api.POST('/api/queries/{query_id}/reread', { params: { path }, body }),
    ) as Promise<Trial | null>;
  }

  async function askOnce(): Promise<void> {
    if (!draft) return;
    busy = true;
    problem = null;
    try {
      const found = await ask(
        api.POST('/api/ask-once', { body: { brief: draft, values: $state.snapshot(given) } }),
      );
      trial = found;
      showsTrial = true;
      chosenAnswer = 0;
      problem = found.problem ?? null;
      if (draft.take.records === '$' && found.rows <= 1) tab = 'answers';
    } catch (error) {
      fail(error);
    }
    busy = false;
  }

  async function save(): Promise<boolean> {
    if (!draft || !detail) return false;
    try {
      const path = { query_id: id };
      const body = { brief: draft, based_on: detail.brief_id };
      detail = await ask(api.PUT('/api/queries/{query_id}', { params: { path }, body }));
      draft = detail.brief;
      problem = null;
      return true;
    } catch (error) {
      fail(error);
      return false;
    }
  }

  function undo(): void {
    if (!detail) return;
    draft = detail.brief;
    problem = null;
    void reread(detail.brief);
  }

  async function refresh(): Promise<void> {
    if (dirty && !(await save())) return;
    busy = true;
    problem = null;
    try {
      const path = { query_id: id };
      const body = { values: $state.snapshot(given) };
      const started = await ask(api.POST('/api/queries/{query_id}/refresh', { params: { path }, body }));
      watch(started.run_id);
    } catch (error) {
      fail(error);
    }
    busy = false;
  }

  function watch(run: number): void {
    stopFollowing();
    tiles = [];
    trial = null;
    stopFollowing = follow(run, (told) => {
      tiles = [...tiles, ...told.tiles];
      progress = told;
      if (told.state === 'running') return;
      if (told.snapshot_id !== null) showsTrial = false;
      void load().then(async () => {
        if (told.problem && told.state !== 'cancelled') problem = told.problem;
        if (draft) await reread(draft);
      });
    });
  }

  async function stop(): Promise<void> {
    if (progress)
      await ask(api.POST('/api/runs/{run_id}/cancel', { params: { path: { run_id: progress.run_id } } }));
  }

  async function remove(): Promise<void> {
    try {
      await ask(api.DELETE('/api/queries/{query_id}', { params: { path: { query_id: id } } }));
      await push('/');
    } catch (error) {
      fail(error);
    }
  }

  async function duplicate(): Promise<void> {
    if (!draft) return;
    try {
      const made = await ask(
        api.POST('/api/queries', { body: { brief: { ...draft, name: `${draft.name}, copy` } } }),
      );
      await push(`/query/${made.id}`);
    } catch (error) {
      fail(error);
    }
  }

  // Columns -----------------------------------------------------------------------------------------------

  /** The brief's columns as a list, even when it takes all there are. */
  function chosenColumns(): NonNullable<Brief['take']['columns']> {
    return (
      draft?.take.columns ??
      takenColumns.map((column) => ({
        place: column.place,
        name: column.name,
        kind: null,
        unit: column.unit,
      }))
    );
  }

  function editColumn(
    column: Column,
    edit: { name?: string; kind?: Kind | null; unit?: string } | null,
    by = 0,
  ): void {
    if (!draft) return;
    const brief = draft;
    const rename = edit?.name && edit.name !== column.name ? edit.name : null;
    const match = brief.keep.match.map((name) => (rename && name === column.name ? rename : name));
    if (column.origin !== 'taken') {
      const look_up = brief.look_up.map((one) =>
        one.name !== column.origin
          ? one
          : {
              ...one,
              take: edit
                ? one.take.map((field) => (field.name === column.name ? { ...field, ...edit } : field))
                : one.take.filter((field) => field.name !== column.name),
            },
      );
      void change({
        ...brief,
        keep: { ...brief.keep, match },
        look_up: look_up.filter((one) => one.take.length),
      });
      return;
    }
    let list = chosenColumns();
    const at = list.findIndex((one) => one.name === column.name);
    if (by && list[at + by]) {
      list = [...list];
      const other = list[at + by];
      const own = list[at];
      if (own && other) [list[at], list[at + by]] = [other, own];
    } else if (edit) list = list.map((one, index) => (index === at ? { ...one, ...edit } : one));
    else if (!by) list = list.filter((_, index) => index !== at);
    const look_up = brief.look_up.map((one) => ({
      ...one,
      with: Object.fromEntries(
        Object.entries(one.with).map(([name, from]) => [
          name,
          rename && from === column.name ? rename : from,
        ]),
      ),
    }));
    void change({
      ...brief,
      take: { ...brief.take, columns: list },
      look_up,
      keep: { ...brief.keep, match },
    });
  }

  /** What stands below a column's name. */
  function sub(column: Column): string {
    const words = column.unit || (column.origin === 'taken' ? column.kind : 'looked up');
    return draft?.keep.match.includes(column.name) ? `${words} · match` : words;
  }

  function matchBy(column: Column, on: boolean): void {
    if (!draft) return;
    const match = on
      ? [...draft.keep.match, column.name]
      : draft.keep.match.filter((name) => name !== column.name);
    void change({ ...draft, keep: { ...draft.keep, match } });
  }

  function toggleField(place: string): void {
    if (!draft) return;
    const list = chosenColumns();
    const has = list.some((one) => one.place === place);
    const names = new Set(list.map((one) => one.name));
    let name = place.replace(/^\$\.?/, '').replace(/\['([^']*)'\]/g, '.$1') || 'value';
    while (names.has(name)) name += ' 2';
    void change({
      ...draft,
      take: {
        ...draft.take,
        columns: has
          ? list.filter((one) => one.place !== place)
          : [...list, { place, name, kind: null, unit: '' }],
      },
    });
  }

  function sample(column: string): string | null {
    const at = columns.findIndex((one) => one.name === column);
    for (const row of source.sample(50)) {
      const cell = row[at];
      if (cell !== null && cell !== undefined && typeof cell !== 'object') return String(cell);
    }
    return null;
  }

  function loadAnswer(index: number) {
    const call = calls[index];
    if (asked) return trialAnswer(asked.id, index);
    return runAnswer(detail?.last_run?.id ?? 0, call?.number ?? 0);
  }

  function openAnswer(index: number): void {
    chosenAnswer = index;
    tab = 'answers';
  }

  // Words -------------------------------------------------------------------------------------------------

  const wholeness = $derived.by(() => {
    if (!latest) return '';
    const records = detail?.last_run?.snapshot_id === latest.id ? detail.last_run.records : null;
    const made =
      records !== null && records !== latest.rows ? `, ${counted(latest.rows, 'row')} of them` : '';
    const have = records ?? latest.rows;
    if (latest.stated_total === null || latest.stated_total === undefined)
      return `${counted(latest.rows, 'row')}, no total stated`;
    if (made) return `${count(have)} of ${count(latest.stated_total)} records${made}`;
    return `${count(latest.rows)} of ${count(latest.stated_total)} rows`;
  });

  const takeNote = $derived.by(() => {
    if (showsTrial && trial)
      return trial.records !== trial.rows
        ? `${counted(trial.records, 'record')} → ${counted(trial.rows, 'row')}`
        : '';
    const run = detail?.last_run;
    return run?.snapshot_id && run.records !== run.rows
      ? `${counted(run.records, 'record')} → ${counted(run.rows, 'row')}`
      : '';
  });

  function lookupNote(name: string): string {
    const note = lookupNotes[name];
    if (!note || dirty) return '';
    const parts = [`${counted(note.calls, 'call')} for ${counted(note.rows, 'row')}`];
    if (note.none) parts.push(`${count(note.none)} not there`);
    if (note.failed) parts.push(`${count(note.failed)} failed`);
    return parts.join(' · ');
  }

  const ENDS: Record<string, string> = {
    whole: 'was whole',
    short: 'was not whole',
    failed: 'failed',
    cancelled: 'was stopped',
    'broken off': 'broke off',
    running: 'goes on',
  };
  const stripWords = $derived.by(() => {
    const run = detail?.last_run;
    if (!run) return 'No call has been made yet. Ask once to look, or refresh to fetch the whole table.';
    const seconds = run.ended ? (new Date(run.ended).getTime() - new Date(run.started).getTime()) / 1000 : 0;
    const took = seconds > 0 ? ` in ${seconds.toFixed(1)} s` : '';
    const why = run.stop ? ` · ${run.stop}` : '';
    return `the last run ${ENDS[run.state] ?? run.state}, ${when(run.started)}${took}${why}`;
  });
</script>

{#if detail && draft}
  <div class="flex h-full flex-col">
    <header class="border-b px-4 pt-2.5 pb-2" style="border-color: var(--line)">
      <div class="flex items-center gap-3">
        <BucketMark
          level={latest ? 0.9 : 0}
          dented={detail.last_run?.state === 'failed'}
          busy={running}
          size={27}
        />
        <div class="min-w-0 flex-1">
          <Sheet label="Name and note" look="title" width={420}>
            {#snippet trigger()}{draft?.name}{/snippet}
            {#snippet children()}
              <div class="space-y-3">
                <label class="block">
                  <span class="label">Name</span>
                  <input
                    class="field"
                    value={draft?.name}
                    onchange={(event) =>
                      draft &&
                      event.currentTarget.value.trim() &&
                      (draft = { ...draft, name: event.currentTarget.value.trim() })}
                  />
                </label>
                <label class="block">
                  <span class="label">Note</span>
                  <textarea
                    class="field"
                    rows="3"
                    value={draft?.note}
                    onchange={(event) => draft && (draft = { ...draft, note: event.currentTarget.value })}
                  ></textarea>
                </label>
              </div>
            {/snippet}
          </Sheet>
          <p class="muted truncate text-[13px]">
            {#if latest}
              Refreshed {when(latest.taken)} · <strong style="color: var(--ink)">{wholeness}</strong>
              {#if !latest.whole}<strong style="color: var(--straw-ink)"> · not whole</strong>{/if}
              {#if 'new' in latest.since}
                · + {count(latest.since.new ?? 0)} new, − {count(latest.since.gone ?? 0)} gone, ● {count(
                  latest.since.changed ?? 0,
                )} changed
              {/if}
              · {counted(detail.snapshots.length, 'snapshot')}
            {:else}
              Never refreshed · no snapshot yet
            {/if}
          </p>
        </div>
        {#if dirty}
          <span class="muted text-[13px]">changed, not saved</span>
          <button class="press" onclick={undo}>Undo</button>
          <button class="press" onclick={save}>Save</button>
        {/if}
        {#if latest}
          <Sheet label="Take the table away" look="press" width={250} placement="bottom-end">
            {#snippet trigger()}<Download size={15} /> Take away{/snippet}
            {#snippet children()}
              <div class="space-y-2">
                <a class="press w-full" href="/api/snapshots/{latest.id}/table.xlsx" download
                  >A workbook, .xlsx</a
                >
                <a class="press w-full" href="/api/snapshots/{latest.id}/table.csv" download
                  >CSV, commas, UTF-8</a
                >
                <p class="muted text-[12.5px]">The snapshot of {when(latest.taken)}, whole.</p>
              </div>
            {/snippet}
          </Sheet>
        {/if}
        {#if detail.snapshots.length > 1}
          <a class="press" href="#/query/{id}/compare"><GitCompareArrows size={15} /> Compare</a>
        {/if}
        <button class="press" onclick={askOnce} disabled={busy || running}>Ask once</button>
        <button class="press main" onclick={refresh} disabled={busy || running}>Refresh</button>
        <Sheet label="This query" look="more" width={230} placement="bottom-end">
          {#snippet trigger()}<MoreHorizontal size={18} />{/snippet}
          {#snippet children(close)}
            <div class="space-y-2">
              <button class="press small w-full" onclick={duplicate}>Make a copy</button>
              <button
                class="press small w-full"
                onclick={() => {
                  close();
                  confirming = true;
                }}>Delete…</button
              >
            </div>
          {/snippet}
        </Sheet>
      </div>
      {#if draft.parameters.length}
        <div class="mt-2">
          <ParameterBar
            brief={draft}
            {given}
            today={detail.values}
            ongiven={(now) => (given = now)}
            onchange={change}
          />
        </div>
      {/if}
    </header>

    <div class="flex min-h-0 flex-1">
      <aside
        class="w-[340px] shrink-0 overflow-auto border-r px-4 py-2"
        style="border-color: var(--line); background: var(--brief)"
        aria-label="The brief"
      >
        {#if keyService}
          <div class="seen my-2">
            <p class="mb-2">
              <strong>{keyService.name}</strong> wants the key “{keyService.key?.name}”, which is not stored
              yet.
            </p>
            <KeyForm service={keyService} onstored={() => load()} />
          </div>
        {/if}
        <AskLine brief={draft} {services} onchange={change} />
        <PagesLine
          brief={draft}
          {trial}
          note={detail.last_run?.stop && !dirty && detail.last_run.snapshot_id
            ? `stopped because ${detail.last_run.stop}`
            : ''}
          onchange={change}
        />
        <TakeLine brief={draft} {trial} columns={takenColumns} note={takeNote} onchange={change} />
        {#each draft.look_up as one, index (one.name)}
          <LookUpLine
            brief={draft}
            {index}
            {columns}
            {sample}
            values={given}
            note={lookupNote(one.name)}
            onchange={change}
          />
        {/each}
        {#if columns.length}
          <LookUpLine brief={draft} index={-1} {columns} {sample} values={given} note="" onchange={change} />
        {/if}
        <KeepLine
          brief={draft}
          {columns}
          note={detail.next_time ? `next ${when(detail.next_time)}` : ''}
          onchange={change}
        />
        {#if draft.note}<p class="muted mt-3 border-t pt-3 text-[13px]" style="border-color: var(--hair)">
            {draft.note}
          </p>{/if}
      </aside>

      <section class="flex min-w-0 flex-1 flex-col" style="background: var(--paper)">
        <div class="tabs" role="tablist">
          {#each [['table', 'Table'], ['answers', 'Answers'], ['calls', 'Calls']] as const as [key, words] (key)}
            <button role="tab" aria-selected={tab === key} class:on={tab === key} onclick={() => (tab = key)}
              >{words}</button
            >
          {/each}
          <span class="muted ml-auto truncate text-[13px]">
            {#if showsTrial && trial && columns.length}
              {trial.run_id
                ? `read anew from saved answers of ${when(trial.asked)}, no call made`
                : `one call, ${when(trial.asked)}`}
              · {counted(trial.rows, 'row')}{trial.pages_read < trial.pages
                ? ` of the first ${count(trial.pages_read)} pages, the others follow`
                : ''}
              {#if latest}<button class="plain ml-1" onclick={() => (showsTrial = false)}
                  >show the snapshot</button
                >{/if}
            {:else if latest}
              {counted(latest.rows, 'row')} · {counted(columns.length, 'column')}
            {/if}
          </span>
        </div>
        {#if problem}
          <div class="m-3">
            <ProblemNote {problem}>
              {#if keyRefused && detail.service?.key && !keyService}
                <div class="mt-2 max-w-md">
                  <KeyForm
                    service={detail.service}
                    onstored={() => {
                      problem = null;
                      void load();
                    }}
                  />
                </div>
              {/if}
            </ProblemNote>
          </div>
        {/if}
        <div class="min-h-0 flex-1">
          {#if tab === 'table'}
            {#if columns.length}
              <Grid
                {columns}
                {source}
                label="Table of {draft.name}"
                opened={trace}
                {sub}
                onopen={(row, column, box) => !showsTrial && latest && (trace = { row, column, box })}
              >
                {#snippet heading(column)}
                  <ColumnSheet
                    {column}
                    rows={height}
                    sub={sub(column)}
                    isKey={draft?.keep.match.includes(column.name) ?? false}
                    onchange={(edit) => editColumn(column, edit)}
                    ondrop={() => editColumn(column, null)}
                    onmove={(by) => editColumn(column, null, by)}
                    onkey={(on) => matchBy(column, on)}
                  />
                {/snippet}
              </Grid>
            {:else if !problem}
              <div class="p-10 text-center">
                {#if running}
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
              {calls}
              load={loadAnswer}
              records={draft.take.records}
              {taken}
              chosen={chosenAnswer}
              ontake={toggleField}
              onrecords={(place) =>
                draft &&
                change({ ...draft, take: { records: `${place}[*]`, rows_for: null, columns: null } })}
            />
          {:else}
            <CallsView {calls} {preview} onopen={openAnswer} />
          {/if}
        </div>
      </section>
    </div>
    <CallStrip
      {tiles}
      {progress}
      summary={stripWords}
      onstop={stop}
      onpick={(tile) => {
        const at = calls.findIndex((call) => call.number === tile.number);
        if (at >= 0) openAnswer(at);
      }}
    />
  </div>
  {#if trace && latest && columns[trace.column]}
    {#key `${trace.row}/${trace.column}`}
      <TraceCard
        snapshot={latest.id}
        row={trace.row}
        column={trace.column}
        heading={columns[trace.column] as Column}
        box={trace.box}
        onclose={() => (trace = null)}
      />
    {/key}
  {/if}
  <Window
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
      <button class="press main" onclick={remove}>Delete it all</button>
      <button class="press" onclick={() => (confirming = false)}>Keep it</button>
    </div>
  </Window>
{:else if problem}
  <div class="p-6"><ProblemNote {problem}><a class="plain" href="#/">To the desk</a></ProblemNote></div>
{/if}

<style>
  :global(.title) {
    display: block;
    max-width: 100%;
    font-size: 18px;
    font-weight: 700;
    line-height: 24px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    text-align: left;
    cursor: pointer;
  }
  :global(.title:hover) {
    color: var(--damson);
  }
  :global(.more) {
    padding: 4px;
    cursor: pointer;
    color: var(--muted);
  }
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
