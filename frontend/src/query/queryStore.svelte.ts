/** The work on one query: what the server knows of it, the draft, previews and runs. The page only shows it. */
import { sameJson } from '../api/json';
import {
  api,
  ask,
  problemOf,
  type AnswerAt,
  type Brief,
  type Column,
  type Plan,
  type Problem,
  type Progress,
  type QueryDetail,
  type RowFlowStep,
  type TableRef,
  type Values,
} from '../api/client';
import { Latest } from '../api/latest';
import { changeWords } from '../domain/words/changes';
import { TableView } from '../table/tableview.svelte';
import { lineOf, WorkOutStore } from '../workOut/workOutStore.svelte';
import { DateStore } from './dates/dateStore.svelte';
import { DraftStore } from './draftStore.svelte';
import { FeedStore } from './handOver/feedStore.svelte';
import { stepOf, type Step } from './steps';
import { startFrom } from '../parts/startFrom';
import { PreviewStore } from './previewStore.svelte';
import { RunFollower, tilesOf } from './runFollower.svelte';

/** Milliseconds without an edit before the plan is asked for. */
const PLAN_PAUSE = 120;
/** Milliseconds that the page waits for the first plan, so that nothing moves under the pointer when it comes. */
const PLAN_WAIT = 400;

/** Whether two briefs make the same table: names, notes, work-out lines and what is kept have no part in it. */
function sameTable(one: Brief, other: Brief | undefined): boolean {
  const parts = (brief: Brief | undefined): unknown =>
    brief && { ...brief, name: '', note: '', keep: null, work_out: [], show: [], hand_over: [] };
  return sameJson(parts(one), parts(other));
}

/** A query before anything is said of it. */
interface PlanQuestion {
  brief: Brief;
  values: Values;
  query_id: number;
  preview: number | null;
}

export class QueryStore {
  readonly previews = new PreviewStore(() => this.id);
  readonly run = new RunFollower((last) => void this.#ended(last));
  readonly drafts: DraftStore;
  detail = $state.raw<QueryDetail | null>(null);
  draft = $state.raw<Brief | null>(null);
  /** The saved version that the draft is to take the place of. */
  basedOn = $state(0);
  /** Values for the next call that differ from the defaults. */
  given = $state.raw<Values>({});
  /** The first call that a refresh would make now, and what all of them would cost. */
  plan = $state.raw<Plan | null>(null);
  problem = $state.raw<Problem | null>(null);
  busy = $state(false);
  /** Whether what is known at the beginning is here. */
  ready = $state(false);

  /** The work-out lines, and whose table is in sight. */
  readonly workOut = new WorkOutStore();
  /** Where the table is handed on to. */
  readonly handOver = new FeedStore(() => this);
  /** As of which date it is seen. */
  readonly dates = new DateStore(() => this.id);

  latest = $derived(this.detail?.latest ?? null);
  dirty = $derived.by(() => {
    if (!this.detail || !this.draft || sameJson(this.detail.brief, this.draft)) return false;
    // The order of members, and what is left out, make no other brief: the server knows.
    const kept = this.drafts.kept;
    return !kept || kept.unsaved || !sameJson(kept.document, this.draft);
  });
  /** The query was saved elsewhere after the draft was begun. */
  overtaken = $derived(this.dirty && !!this.detail && this.basedOn !== this.detail.brief_id);
  columns = $derived<Column[]>(
    this.draft?.start
      ? (this.workOut.done?.columns ?? this.detail?.columns ?? [])
      : (this.dates.columns ?? this.previews.shown?.columns ?? this.detail?.columns ?? []),
  );
  columnSpecs = $derived(this.columns.filter((column) => column.origin === 'taken'));
  height = $derived(this.dates.at?.rows ?? this.previews.shown?.rows ?? this.latest?.rows ?? 0);
  /** How the table is looked at. */
  look = new TableView();
  /** The table before any line. */
  baseTable = $derived<TableRef>(
    this.draft?.start
      ? {
          snapshot: this.dates.at?.id ?? this.latest?.id ?? null,
          preview: null,
          starts_from: this.dates.readThen?.start ?? this.draft.start,
          lines: [],
        }
      : this.dates.at
        ? { snapshot: this.dates.at.id, preview: null, lines: [] }
        : this.previews.shown
          ? { snapshot: null, preview: this.previews.shown.id, lines: [] }
          : { snapshot: this.latest?.id ?? null, preview: null, lines: [] },
  );
  table = $derived<TableRef>(this.workOut.table ?? this.baseTable);
  /** The columns of the table in sight. */
  seen = $derived<Column[]>(this.workOut.seen?.columns ?? this.columns);
  seenHeight = $derived(this.workOut.seen?.rows ?? this.height);
  baseSource = $derived(
    this.look.source(this.baseTable, this.baseTable.preview === null && !this.latest ? 0 : this.height),
  );
  source = $derived(this.workOut.table ? this.look.source(this.table, this.seenHeight) : this.baseSource);
  rowFlow = $derived<RowFlowStep[]>(this.previews.shown?.row_flow ?? this.detail?.row_flow ?? []);
  /** The same, with what the lines in sight did. */
  flow = $derived<RowFlowStep[]>([
    ...(this.dates.at ? [] : this.rowFlow),
    ...(this.workOut.look ? [] : this.workOut.flow),
  ]);
  calls = $derived(this.previews.asked ? this.previews.asked.calls : this.run.calls);
  tiles = $derived(
    this.previews.asked && !this.run.running ? tilesOf(this.previews.asked.calls) : this.run.tiles,
  );
  /** The last run, where it stopped or its table is incomplete. */
  incomplete = $derived.by(() => {
    const run = this.detail?.last_run;
    if (!run || this.run.running || this.previews.asked || this.previews.shown) return null;
    return run.can_resume || ['incomplete', 'unverified'].includes(run.state) ? run : null;
  });
  /** It is made of sheets alone, which are as they were dropped in: a refresh asks for nothing. */
  ofSheets = $derived(
    !!this.draft?.start &&
      !!this.detail?.chain.length &&
      this.detail.chain.every((one) => one.query_id === null && one.state !== 'gone'),
  );
  /** A refresh would do something. */
  canRefresh = $derived(!this.ofSheets || !!this.draft?.hand_over.length);
  /** What is next on the way to the first snapshot; nothing once there is one, or while a run is on its way to it. */
  step = $derived<Step | null>(
    this.latest || !this.draft || this.draft.start || this.run.running
      ? null
      : stepOf(this.draft, this.previews.current),
  );
  canResume = $derived(!this.dirty && !!this.incomplete?.can_resume);
  readonly #planned = new Latest(
    (body: PlanQuestion) => ask(api.POST('/api/plan', { body })).catch(() => null),
    PLAN_PAUSE,
  );

  constructor(readonly id: number) {
    this.drafts = new DraftStore(
      () => this.id,
      id,
      () => void this.notice(),
    );
  }

  /** Stop listening to a run and to other windows. */
  leave(): void {
    this.run.leave();
    this.drafts.leave();
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
      const others = found.latest?.id !== this.latest?.id || found.dates !== this.detail?.dates;
      this.detail = found;
      if (others) void this.dates.renew();
      if (first || (!wasDirty && this.drafts.settled)) this.#takeUp(found);
      if (first) await this.#foreseeFirst();
      this.ready = true;
      if (found.running !== null && found.running !== undefined) this.run.follow(found.running);
      else if (found.last_run) {
        const run = found.last_run;
        this.problem = run.problem && run.state !== 'cancelled' ? run.problem : null;
        await this.run.load(run.id);
        if (first && this.draft) await this.#reread(this.draft);
      }
    } catch (error) {
      this.fail(error);
    } finally {
      this.ready = true;
    }
  }

  /** The draft that is kept, else the saved brief. */
  #takeUp(found: QueryDetail): void {
    const kept = found.draft ?? null;
    this.drafts.kept = kept;
    this.draft = kept?.unsaved ? (kept.document as unknown as Brief) : found.brief;
    this.basedOn = kept?.unsaved ? kept.based_on : found.brief_id;
    this.given = (kept?.given ?? {}) as Values;
  }

  /** Another window may have changed the draft: where nothing of this one is on its way, it is taken over. */
  async notice(): Promise<void> {
    if (!this.drafts.settled) return;
    const theirs = await this.drafts.news();
    if (!theirs || !this.drafts.settled) return;
    await this.takeTheirs();
    this.drafts.seen = true;
  }

  /** Show what another window made of the draft. */
  async takeTheirs(): Promise<void> {
    this.drafts.other = null;
    await this.load(true);
    await this.foresee();
  }

  /** Find out what the draft would ask for, and what that would cost. */
  async foresee(): Promise<void> {
    if (!this.draft) return;
    const told = await this.#planned.ask(this.#question(this.draft));
    if (told) this.plan = told.value;
  }

  #question(brief: Brief): PlanQuestion {
    return { brief, values: this.given, query_id: this.id, preview: this.previews.current?.id ?? null };
  }

  /** The same for the draft that is found at the beginning. */
  async #foreseeFirst(): Promise<void> {
    const { draft } = this;
    if (this.plan || !draft?.ask) return;
    const plan = ask(api.POST('/api/plan', { body: this.#question(draft) })).then(
      (found) => {
        if (this.draft === draft) this.plan ??= found;
      },
      () => null,
    );
    await Promise.race([plan, new Promise((done) => setTimeout(done, PLAN_WAIT))]);
  }

  /** Change the draft: the table is read from the saved answers at once, and that costs no call. */
  change = async (brief: Brief, name?: string): Promise<void> => {
    const before = this.draft;
    if (before && sameJson(before, brief)) return;
    if (!sameTable(brief, before ?? undefined)) this.dates.seeNewest();
    this.#show(brief);
    void this.#keep(brief, name ?? (before ? changeWords(before, brief) : 'changed it'));
    await this.#reread(brief);
  };

  /** Do the lines of the draft to the table in sight. */
  followLines(): void {
    void this.workOut.follow(
      { ...this.baseTable, query_id: this.id },
      this.dates.readThen?.lines ?? this.draft?.work_out ?? [],
    );
  }

  /** Use the line that is being edited. */
  useLine = async (): Promise<void> => {
    const { editing } = this.workOut;
    const brief = this.draft;
    if (!editing || !brief) return;
    const { index } = editing;
    const rest = editing.isNew ? index : index + 1;
    const work_out = [...brief.work_out.slice(0, index), lineOf(editing), ...brief.work_out.slice(rest)];
    this.workOut.stopEditing();
    if (this.workOut.upTo !== null) this.workOut.see(index + 1 >= work_out.length ? null : index + 1);
    await this.change({ ...brief, work_out });
  };

  /** Values for the next call that differ from the defaults; they are kept with the draft. */
  give = (given: Values): void => {
    this.given = given;
    if (this.draft) void this.#keep(this.draft, '');
  };

  #show(brief: Brief): void {
    if (!sameJson(brief.pages, this.draft?.pages)) this.previews.verification = null;
    this.draft = brief;
    this.problem = null;
    this.drafts.seen = false;
  }

  #keep(brief: Brief, name: string): Promise<void> {
    return this.drafts.keep({ brief, name, given: this.given, basedOn: this.basedOn });
  }

  /** Go back or forth to a step of the draft. */
  async #move(to: number): Promise<void> {
    try {
      const draft = await this.drafts.move(to);
      if (!draft) return await this.notice();
      const brief = draft.document as unknown as Brief;
      this.#show(brief);
      await this.#reread(brief);
    } catch (error) {
      this.fail(error);
    }
  }

  undo = async (): Promise<void> => {
    await this.drafts.arrived();
    if (this.drafts.undoes) await this.#move(this.drafts.undoes.to);
  };

  redo = async (): Promise<void> => {
    await this.drafts.arrived();
    if (this.drafts.redoes) await this.#move(this.drafts.redoes.to);
  };

  /** A key was stored: what was said of it before is old. */
  async keyStored(): Promise<void> {
    this.problem = null;
    this.previews.forgive();
    await this.load();
    this.problem = null;
    await this.foresee();
  }

  /** Somebody is about to change the reading. */
  prepare = (): void => {
    if (this.draft) this.previews.prepare(this.draft);
  };

  /** Read the answers that are here as a brief says. */
  async #reread(brief: Brief): Promise<void> {
    if (brief.start) return;
    // A table that another brief made is read anew as well.
    const changed = !sameTable(brief, this.detail?.brief) || !!this.detail?.made_with?.reads;
    try {
      const found = await this.previews.reread(brief, changed, !!this.latest);
      if (!found) return;
      if (!brief.work_out.length) this.look.keepOnly(found.columns.map((column) => column.name));
      if (changed) this.problem = found.problem ?? null;
    } catch (error) {
      if (changed) this.fail(error);
    }
  }

  /** Make one call with the draft; says whether a preview came of it. */
  async askOnce(): Promise<boolean> {
    const draft = this.draft;
    if (!draft) return false;
    this.problem = null;
    return this.#busily(async () => {
      const preview = await this.previews.askOnce(draft, this.given);
      this.problem = preview.problem ?? null;
      const proof = preview.proof;
      if (proof?.by_itself && proof.state !== 'complete') await this.previews.findMore(false);
    });
  }

  /** Find out by asking whether there is more. */
  async findMore(reads: boolean): Promise<void> {
    await this.#busily(() => this.previews.findMore(reads));
  }

  /** From now on it is found out unasked at this service, where such calls only read. */
  async findOutByItself(): Promise<void> {
    const service = this.detail?.service;
    if (!service) return;
    await this.#busily(async () => {
      const path = { service_id: service.id };
      const body = { service: { ...service, find_out: true } };
      await ask(api.PUT('/api/services/{service_id}', { params: { path }, body }));
      await this.load();
      await this.previews.findMore(false);
    });
  }

  /** Make the second call that the draft's pagination asks for. */
  async verify(): Promise<void> {
    const draft = this.draft;
    if (draft) await this.#busily(() => this.previews.verify(draft, this.given));
  }

  /** Go on from the saved answers of the last run: only what is missing is asked for. */
  async resume(): Promise<void> {
    const run = this.detail?.last_run;
    if (!run) return;
    await this.#busily(async () => {
      const path = { run_id: run.id };
      const started = await ask(api.POST('/api/runs/{run_id}/resume', { params: { path } }));
      this.problem = null;
      this.run.follow(started.run_id);
    });
  }

  /** Do something that takes a while; says whether it went well. */
  async #busily(work: () => Promise<void>): Promise<boolean> {
    this.busy = true;
    try {
      await work();
      return true;
    } catch (error) {
      this.fail(error);
      return false;
    } finally {
      this.busy = false;
    }
  }

  /** @param over Also where the query was saved elsewhere meanwhile. */
  async save(over = false): Promise<boolean> {
    // What is being saved already is not saved against itself.
    const before = this.#saving;
    if (before && (await before) && !this.dirty) return true;
    this.#saving = this.#save(over).finally(() => (this.#saving = null));
    return this.#saving;
  }

  #saving: Promise<boolean> | null = null;

  async #save(over: boolean): Promise<boolean> {
    if (!this.draft || !this.detail) return false;
    try {
      if (over) await this.load();
      const body = { brief: this.draft, based_on: over ? this.detail.brief_id : this.basedOn };
      // What is on its way to the draft arrives before it.
      await this.drafts.arrived();
      this.detail = await ask(api.PUT('/api/queries/{query_id}', { ...this.#path, body }));
      const { given } = this;
      this.#takeUp(this.detail);
      this.given = given;
      if (this.drafts.kept?.unsaved) await this.#rebase();
      this.problem = null;
      return true;
    } catch (error) {
      this.fail(error);
      return false;
    }
  }

  /** The draft was saved over another one's version: it goes on from there. */
  async #rebase(): Promise<void> {
    if (!this.detail) return;
    this.draft = this.detail.brief;
    this.basedOn = this.detail.brief_id;
    await this.#keep(this.draft, 'saved');
  }

  /** Go back to what is saved; that is a step too, which can be undone. */
  async discard(): Promise<void> {
    if (!this.detail) return;
    this.basedOn = this.detail.brief_id;
    await this.change(this.detail.brief, 'discarded the changes');
  }

  /** Save what is changed and begin a refresh. */
  async refresh(): Promise<void> {
    if (this.dirty && !(await this.save())) return;
    this.problem = null;
    this.dates.seeNewest();
    await this.#busily(async () => {
      const body = { values: this.given };
      const started = await ask(api.POST('/api/queries/{query_id}/refresh', { ...this.#path, body }));
      this.run.follow(started.run_id);
    });
  }

  async #ended(last: Progress): Promise<void> {
    this.previews.drop(last.snapshot_id !== null);
    await this.load();
    if (last.problem && last.state !== 'cancelled') this.problem = last.problem;
    if (this.draft) await this.#reread(this.draft);
  }

  async stop(): Promise<void> {
    await this.run.cancel().catch(this.fail);
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
      // Two queries that write to one place would write over each other.
      const brief = { ...this.draft, name: `${this.draft.name}, copy`, hand_over: [] };
      return (await ask(api.POST('/api/queries', { body: { brief } }))).id;
    } catch (error) {
      this.fail(error);
      return null;
    }
  }

  /** Make a query that starts from this one's table, or from each row that it ever had; gives its number. */
  async startFrom(of: 'table' | 'all seen' = 'table'): Promise<number | null> {
    await this.#saving;
    if (!this.detail) return null;
    const { name } = this.detail.brief;
    const table = { query: name, sheet: null };
    try {
      if (of === 'table') return await startFrom(table, `${name}, worked out`);
      return await startFrom(table, `${name}, all seen`, { days: null, column: 'as of', rows: 'each once' });
    } catch (error) {
      this.fail(error);
      return null;
    }
  }

  /** Where one of the answers to {@link calls} is. */
  answer = (index: number): AnswerAt => {
    if (this.previews.asked) return { preview: this.previews.asked.id, index };
    return { run: this.detail?.last_run?.id ?? 0, index: this.calls[index]?.number ?? 0 };
  };

  /** Make a table of its own of a list; gives the number of the new query. */
  async ownTable(place: string): Promise<number | null> {
    if (!this.draft) return null;
    let made: number | null = null;
    const body = { brief: this.draft, place, name: null };
    await this.#busily(async () => {
      made = (await ask(api.POST('/api/queries/{query_id}/own-table', { ...this.#path, body }))).id;
    });
    return made;
  }

  /** A value of a column, from the rows in sight. */
  sample = (column: string): string | null => {
    const at = this.columns.findIndex((one) => one.name === column);
    for (const row of this.baseSource.sample(50)) {
      const cell = row[at];
      if (cell !== null && cell !== undefined && typeof cell !== 'object') return String(cell);
    }
    return null;
  };
}
