/** The work on one query: what the server knows of it, the draft, previews and runs. The page only shows it. */
import {
  api,
  ask,
  problemOf,
  type AnswerAt,
  type Brief,
  type Call,
  type FirstCall,
  type Column,
  type Cost,
  type Problem,
  type Progress,
  type Verification,
  type QueryDetail,
  type RowFlowStep,
  type TableRef,
  type Tile,
  type Preview,
  type Values,
} from '../api/client';
import { follow } from '../api/events';
import { TableView } from '../table/tableview.svelte';

/** How many records are read anew at once, before all of them are. */
const FIRST_RECORDS = 1000;

function tilesOf(calls: Call[]): Tile[] {
  return calls.map((call) => ({
    number: call.number,
    stage: call.stage,
    label: call.label,
    state: call.saved ? 'saved' : (call.state as Tile['state']),
    status: call.status,
    ms: call.ms,
    records: call.records,
  }));
}

export class QueryStore {
  detail = $state.raw<QueryDetail | null>(null);
  draft = $state.raw<Brief | null>(null);
  /** Values for the next call that differ from the defaults. */
  given = $state.raw<Values>({});
  preview = $state.raw<Preview | null>(null);
  /** Whether the table shows the preview's rows instead of the newest snapshot's. */
  showsPreview = $state(false);
  runCalls = $state.raw<Call[]>([]);
  firstCall = $state.raw<FirstCall | null>(null);
  progress = $state.raw<Progress | null>(null);
  /** The calls of the run that goes on or was the last one. */
  runTiles = $state.raw<Tile[]>([]);
  problem = $state.raw<Problem | null>(null);
  /** What a second call showed of the way in which pages are turned. */
  proof = $state.raw<Verification | null>(null);
  /** What a refresh would cost now. */
  cost = $state.raw<Cost | null>(null);
  busy = $state(false);

  latest = $derived(this.detail?.snapshots.at(-1) ?? null);
  dirty = $derived(
    !!this.detail && !!this.draft && JSON.stringify(this.detail.brief) !== JSON.stringify(this.draft),
  );
  running = $derived(this.progress?.state === 'running');
  /** What the run that goes on waits for. */
  waiting = $derived(this.running && this.progress?.waiting?.what === 'key' ? this.progress.waiting : null);
  shown = $derived(this.showsPreview ? this.preview : null);
  columns = $derived<Column[]>(this.shown?.columns ?? this.detail?.columns ?? []);
  columnSpecs = $derived(this.columns.filter((column) => column.origin === 'taken'));
  height = $derived(this.shown?.rows ?? this.latest?.rows ?? 0);
  /** How the table is looked at. */
  look = new TableView();
  table = $derived<TableRef>(
    this.shown
      ? { snapshot: null, preview: this.shown.id }
      : { snapshot: this.latest?.id ?? null, preview: null },
  );
  source = $derived(
    this.look.source(this.table, this.table.preview === null && !this.latest ? 0 : this.height),
  );
  rowFlow = $derived<RowFlowStep[]>(this.shown?.row_flow ?? this.detail?.row_flow ?? []);
  /** A preview that made a call of its own; one that was read anew shows the run's calls. */
  asked = $derived(this.preview && this.preview.run_id === null ? this.preview : null);
  calls = $derived(this.asked ? this.asked.calls : this.runCalls);
  tiles = $derived(this.asked && !this.running ? tilesOf(this.asked.calls) : this.runTiles);
  #prepared: number | null = null;
  #stopFollowing = (): void => {};

  constructor(readonly id: number) {}

  /** Stop listening to a run. */
  leave(): void {
    this.#stopFollowing();
  }

  fail = (error: unknown): void => {
    this.problem = problemOf(error);
  };

  get #path() {
    return { params: { path: { query_id: this.id } } };
  }

  async load(first = false): Promise<void> {
    try {
      const wasDirty = this.dirty;
      const found = await ask(api.GET('/api/queries/{query_id}', this.#path));
      this.detail = found;
      if (first || !wasDirty) this.draft = found.brief;
      if (found.running !== null && found.running !== undefined) this.watch(found.running);
      else if (found.last_run) {
        const run = found.last_run;
        this.problem = run.problem && run.state !== 'cancelled' ? run.problem : null;
        await this.#loadCalls(run.id);
        if (first) await this.#reread(found.brief);
      }
    } catch (error) {
      this.fail(error);
    }
  }

  async #loadCalls(run: number): Promise<void> {
    this.runCalls = await ask(api.GET('/api/runs/{run_id}/calls', { params: { path: { run_id: run } } }));
    this.runTiles = tilesOf(this.runCalls);
  }

  /** The first call that the draft would make now. */
  async foresee(): Promise<void> {
    if (!this.draft) return;
    const body = { brief: this.draft, values: this.given, query_id: this.id };
    const asked = { ...body, preview: this.preview?.id ?? null };
    [this.firstCall, this.cost] = await Promise.all([
      ask(api.POST('/api/call', { body })).catch(() => null),
      ask(api.POST('/api/plan', { body: asked })).catch(() => null),
    ]);
  }

  /** Change the draft: the table is read from the saved answers at once, and that costs no call. */
  change = async (brief: Brief): Promise<void> => {
    if (JSON.stringify(brief.pages) !== JSON.stringify(this.draft?.pages)) this.proof = null;
    this.draft = brief;
    this.problem = null;
    await this.#reread(brief);
  };

  /** Somebody is about to change the reading: the server gathers the records of the saved answers for it, once. */
  prepare = (): void => {
    const preview = this.preview;
    if (!preview?.partial || !this.draft || preview.run_id === this.#prepared) return;
    this.#prepared = preview.run_id;
    const body = { brief: this.draft, values: {}, query_id: this.id, preview: preview.id };
    // What was opened is shown first.
    setTimeout(() => void api.POST('/api/queries/{query_id}/at-hand', { ...this.#path, body }), 500);
  };

  /** Read the answers that are here as a brief says: the first pages at once, then all of them. */
  async #reread(brief: Brief): Promise<void> {
    const changed = JSON.stringify(brief) !== JSON.stringify(this.detail?.brief);
    try {
      // Beside a snapshot one page is enough for its hints; without one the saved answers are all there is to see.
      const found = await this.#readPages(brief, changed ? FIRST_RECORDS : this.latest ? 1 : null);
      if (!found || this.draft !== brief) return;
      this.preview = found;
      this.look.keepOnly(found.columns.map((column) => column.name));
      this.showsPreview = changed || !this.latest;
      if (changed) this.problem = found.problem ?? null;
      if (changed && found.partial) {
        const whole = await this.#readPages(brief, null);
        if (whole && this.draft === brief) this.preview = whole;
      }
    } catch (error) {
      if (changed) this.fail(error);
    }
  }

  #readPages(brief: Brief, most: number | null): Promise<Preview | null> {
    const body = { brief, values: {}, query_id: this.id, preview: this.preview?.id ?? null, most };
    return ask(
      api.POST('/api/queries/{query_id}/reread', { ...this.#path, body }),
    ) as Promise<Preview | null>;
  }

  /** Make one call with the draft; says whether a preview came of it. */
  async askOnce(): Promise<boolean> {
    if (!this.draft) return false;
    this.busy = true;
    this.problem = null;
    this.proof = null;
    try {
      this.preview = await ask(
        api.POST('/api/ask-once', { body: { brief: this.draft, values: this.given, query_id: this.id } }),
      );
      this.showsPreview = true;
      this.problem = this.preview.problem ?? null;
      return true;
    } catch (error) {
      this.fail(error);
      return false;
    } finally {
      this.busy = false;
    }
  }

  /** Make the second call that the draft's way of turning pages asks for. */
  async verify(): Promise<void> {
    if (!this.draft || !this.asked) return;
    this.busy = true;
    try {
      const path = { number: this.asked.id };
      const body = { brief: this.draft, values: this.given, query_id: this.id };
      this.proof = await ask(api.POST('/api/previews/{number}/verify', { params: { path }, body }));
    } catch (error) {
      this.fail(error);
    }
    this.busy = false;
  }

  /** Go on from the saved answers of the last run: only what is missing is asked for. */
  async goOn(): Promise<void> {
    const run = this.detail?.last_run;
    if (!run) return;
    this.busy = true;
    try {
      const path = { run_id: run.id };
      const started = await ask(api.POST('/api/runs/{run_id}/go-on', { params: { path } }));
      this.problem = null;
      this.watch(started.run_id);
    } catch (error) {
      this.fail(error);
    }
    this.busy = false;
  }

  async save(): Promise<boolean> {
    if (!this.draft || !this.detail) return false;
    try {
      const body = { brief: this.draft, based_on: this.detail.brief_id };
      this.detail = await ask(api.PUT('/api/queries/{query_id}', { ...this.#path, body }));
      this.draft = this.detail.brief;
      this.problem = null;
      return true;
    } catch (error) {
      this.fail(error);
      return false;
    }
  }

  undo(): void {
    if (this.detail) void this.change(this.detail.brief);
  }

  /** Save what is changed and begin a refresh. */
  async refresh(): Promise<void> {
    if (this.dirty && !(await this.save())) return;
    this.busy = true;
    this.problem = null;
    try {
      const body = { values: this.given };
      const started = await ask(api.POST('/api/queries/{query_id}/refresh', { ...this.#path, body }));
      this.watch(started.run_id);
    } catch (error) {
      this.fail(error);
    }
    this.busy = false;
  }

  watch(run: number): void {
    this.#stopFollowing();
    this.runTiles = [];
    this.#stopFollowing = follow(run, (told) => {
      this.runTiles = [...this.runTiles, ...told.tiles];
      this.progress = told;
      if (told.state === 'running') return;
      this.preview = null;
      if (told.snapshot_id !== null) this.showsPreview = false;
      void this.load().then(async () => {
        if (told.problem && told.state !== 'cancelled') this.problem = told.problem;
        if (this.draft) await this.#reread(this.draft);
      });
    });
  }

  async stop(): Promise<void> {
    if (!this.progress) return;
    const path = { run_id: this.progress.run_id };
    await ask(api.POST('/api/runs/{run_id}/cancel', { params: { path } })).catch(this.fail);
  }

  /** Delete the query; says whether that was done. */
  async remove(): Promise<boolean> {
    try {
      await ask(api.DELETE('/api/queries/{query_id}', this.#path));
      return true;
    } catch (error) {
      this.fail(error);
      return false;
    }
  }

  /** Make a copy of the draft; gives the number of the new query. */
  async copy(): Promise<number | null> {
    if (!this.draft) return null;
    try {
      const brief = { ...this.draft, name: `${this.draft.name}, copy` };
      return (await ask(api.POST('/api/queries', { body: { brief } }))).id;
    } catch (error) {
      this.fail(error);
      return null;
    }
  }

  /** Where one of the answers to {@link calls} is. */
  answer = (index: number): AnswerAt => {
    if (this.asked) return { preview: this.asked.id, index };
    return { run: this.detail?.last_run?.id ?? 0, index: this.calls[index]?.number ?? 0 };
  };

  /** Make a table of its own of a list; gives the number of the new query. */
  async ownTable(place: string): Promise<number | null> {
    if (!this.draft) return null;
    this.busy = true;
    try {
      const body = { brief: this.draft, place, name: null };
      return (await ask(api.POST('/api/queries/{query_id}/own-table', { ...this.#path, body }))).id;
    } catch (error) {
      this.fail(error);
      return null;
    } finally {
      this.busy = false;
    }
  }

  /** A value of a column, from the rows in sight. */
  sample = (column: string): string | null => {
    const at = this.columns.findIndex((one) => one.name === column);
    for (const row of this.source.sample(50)) {
      const cell = row[at];
      if (cell !== null && cell !== undefined && typeof cell !== 'object') return String(cell);
    }
    return null;
  };
}
