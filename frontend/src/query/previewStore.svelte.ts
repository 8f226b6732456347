/** The preview in sight: answers that are here, read as the draft says, and the check of its pagination. */
import {
  api,
  ask,
  type Brief,
  type Finding,
  type Preview,
  type Values,
  type Verification,
} from '../api/client';
import { Latest } from '../api/latest';

/** How many records are read anew at once, before all of them are. */
const FIRST_RECORDS = 1000;

interface Reading {
  brief: Brief;
  most: number | null;
}

export class PreviewStore {
  current = $state.raw<Preview | null>(null);
  /** Whether the table shows the preview's rows instead of the newest snapshot's. */
  shows = $state(false);
  /** What a second call showed of the pagination. */
  verification = $state.raw<Verification | null>(null);
  /** What “Is there more?” found out about the answers in sight. */
  finding = $state.raw<Finding | null>(null);
  /** A preview that made a call of its own; one that was read from saved answers shows the run's calls. */
  asked = $derived(this.current && this.current.run_id === null ? this.current : null);
  shown = $derived(this.shows ? this.current : null);
  #prepared: number | null = null;
  // The first records are there quickly, also while all records of an earlier draft are still being read.
  readonly #first = new Latest((reading: Reading) => this.#read(reading));
  readonly #all = new Latest((reading: Reading) => this.#read(reading));

  /** @param query The number of the query; fields of its store are made before that is known. */
  constructor(private readonly query: () => number) {}

  get #path() {
    return { params: { path: { query_id: this.query() } } };
  }

  #read({ brief, most }: Reading): Promise<Preview | null> {
    const body = { brief, values: {}, query_id: this.query(), preview: this.current?.id ?? null, most };
    return ask(
      api.POST('/api/queries/{query_id}/reread', { ...this.#path, body }),
    ) as Promise<Preview | null>;
  }

  /**
   * Read the answers that are here as a brief says: the first records at once, then all of them.
   *
   * Beside a snapshot one record is enough for its hints; without one the saved answers are all there is to see.
   *
   * @param changed Whether the brief differs from the one that the snapshot was made with.
   * @param beside Whether a snapshot is there to be seen.
   * @returns What was read first, or `null` when no answers are kept or a newer draft took the place of this one.
   */
  async reread(brief: Brief, changed: boolean, beside: boolean): Promise<Preview | null> {
    this.#all.cancel();
    const most = changed ? FIRST_RECORDS : beside ? 1 : null;
    const first = (await this.#first.ask({ brief, most }))?.value ?? null;
    if (!first) return null;
    this.current = first;
    this.shows = changed || !beside;
    if (changed && first.partial) void this.#readAll(brief);
    return first;
  }

  async #readAll(brief: Brief): Promise<void> {
    // What goes wrong was said of the first records already.
    const all = await this.#all.ask({ brief, most: null }).catch(() => null);
    if (all?.value) this.current = all.value;
  }

  /** Make one call. */
  async askOnce(brief: Brief, values: Values): Promise<Preview> {
    this.verification = null;
    this.finding = null;
    this.#forget();
    const body = { brief, values, query_id: this.query() };
    this.current = await ask(api.POST('/api/ask-once', { body }));
    this.shows = true;
    return this.current;
  }

  /** Make the second call that the draft's pagination asks for. */
  async verify(brief: Brief, values: Values): Promise<void> {
    if (!this.asked) return;
    const path = { number: this.asked.id };
    const body = { brief, values, query_id: this.query() };
    this.verification = await ask(api.POST('/api/previews/{number}/verify', { params: { path }, body }));
  }

  /** Find out by asking whether there is more than the first answer holds. */
  async findMore(reads: boolean): Promise<void> {
    if (!this.current) return;
    const path = { number: this.current.id };
    const body = { reads, query_id: this.query() };
    this.finding = await ask(api.POST('/api/previews/{number}/more', { params: { path }, body }));
  }

  /** Somebody is about to change the reading: the server gathers the records of the saved answers for it, once. */
  prepare(brief: Brief): void {
    const preview = this.current;
    if (!preview?.partial || preview.run_id === this.#prepared) return;
    this.#prepared = preview.run_id;
    const body = { brief, values: {}, query_id: this.query(), preview: preview.id };
    // What was opened is shown first.
    setTimeout(() => void api.POST('/api/queries/{query_id}/at-hand', { ...this.#path, body }), 500);
  }

  /** A key was stored: what a call without it said is old. */
  forgive(): void {
    if (this.current?.problem) this.current = { ...this.current, problem: null };
  }

  /** A run has ended: what was tried before it is old. */
  drop(kept: boolean): void {
    this.#forget();
    this.current = null;
    this.finding = null;
    if (kept) this.shows = false;
  }

  #forget(): void {
    this.#first.cancel();
    this.#all.cancel();
  }
}
