/** As of which date the table of a query is seen. */
import {
  api,
  ask,
  problemOf,
  type Column,
  type Problem,
  type ReadThen,
  type Snapshot,
} from '../../api/client';
import { Latest } from '../../api/latest';
import {
  dateIndex,
  dateText,
  marksOf,
  missesOf,
  momentText,
  type Mark,
  type Miss,
} from '../../domain/timeline';
import { dated } from '../../domain/words/format';

interface Seen {
  snapshot: Snapshot;
  columns: Column[];
}

export class DateStore {
  /** The dates of the table, the oldest first; nothing until somebody wants to see them. */
  marks = $state.raw<Mark[] | null>(null);
  /** Runs that left no snapshot. */
  misses = $state.raw<Miss[]>([]);
  /** The snapshot in sight, where it is not the newest one. */
  at = $state.raw<Snapshot | null>(null);
  /** Its headings. */
  columns = $state.raw<Column[] | null>(null);
  /** The reading of the brief that it was made with, where it is to be read as it was then. */
  readThen = $state.raw<ReadThen | null>(null);
  /** Whether the time line is open, and whether the list of snapshots is. */
  open = $state(false);
  listing = $state(false);
  problem = $state.raw<Problem | null>(null);
  /** The date that is on its way into sight, by its number. */
  #aimed = $state<number | null>(null);
  #coming: Promise<Mark[]> | null = null;
  readonly #looked = new Latest((id: number) => this.#look(id));

  constructor(private readonly queryId: () => number) {}

  /** Which date of the time line is in sight, or on its way there; the newest one is the last. */
  index = $derived.by(() => {
    const all = this.marks ?? [];
    const id = this.#aimed ?? this.at?.id;
    return id === undefined ? all.length - 1 : all.findIndex((one) => one.id === id);
  });

  /** The date in sight as it stands in an address; empty for the newest one. */
  address = $derived.by(() => {
    const mark = this.marks?.find((one) => one.id === this.at?.id);
    return mark && this.marks ? dateText(mark, this.marks) : '';
  });

  /** The dates, read once. */
  known(): Promise<Mark[]> {
    this.#coming ??= ask(
      api.GET('/api/queries/{query_id}/timeline', { params: { path: { query_id: this.queryId() } } }),
    ).then(
      (told) => {
        this.marks = marksOf(told);
        this.misses = missesOf(told);
        return this.marks;
      },
      (error: unknown) => {
        this.#coming = null;
        throw error;
      },
    );
    return this.#coming;
  }

  /** Open the time line, or close it. */
  toggle = async (): Promise<void> => {
    this.open = !this.open;
    if (this.open) await this.known().catch(this.#fail);
  };

  /** The dates may be others now. */
  async renew(): Promise<void> {
    if (!this.#coming) return;
    this.#coming = null;
    await this.known().catch(this.#fail);
  }

  /** See the table as of one of its dates; of the newest one as it is. */
  see = async (id: number): Promise<void> => {
    try {
      const marks = await this.known();
      if (id === marks.at(-1)?.id) return this.seeNewest();
      this.#aimed = id;
      const found = await this.#looked.ask(id);
      if (!found) return;
      this.readThen = null;
      this.columns = found.value.columns;
      this.at = found.value.snapshot;
      this.#aimed = null;
      this.problem = null;
    } catch (error) {
      this.#aimed = null;
      this.#fail(error);
    }
  };

  async #look(id: number): Promise<Seen> {
    const params = { path: { snapshot_id: id } };
    const [snapshot, columns] = await Promise.all([
      ask(api.GET('/api/snapshots/{snapshot_id}', { params })),
      ask(api.GET('/api/snapshots/{snapshot_id}/columns', { params })),
    ]);
    return { snapshot, columns };
  }

  seeNewest = (): void => {
    this.#looked.cancel();
    this.#aimed = null;
    this.at = null;
    this.columns = null;
    this.readThen = null;
    this.problem = null;
  };

  /** See the date that an address names; of none the newest. */
  async seeAddress(text: string): Promise<void> {
    if (text === this.address) return;
    if (!text) return this.seeNewest();
    try {
      const marks = await this.known();
      const found = marks[dateIndex(text, marks)];
      this.open = true;
      if (found) await this.see(found.id);
      else this.problem = this.#none();
    } catch (error) {
      this.#fail(error);
    }
  }

  /** See the last date at or before a moment; says whether there is one. */
  async seeMoment(moment: number): Promise<void> {
    const marks = await this.known();
    const found = marks.filter((one) => one.at <= moment).at(-1);
    if (found) await this.see(found.id);
    else this.problem = this.#none();
  }

  #none(): Problem {
    const first = this.marks?.[0];
    return {
      kind: 'date-too-early',
      what: 'No snapshot is as old as that.',
      where: first ? `The first one is of ${dated(momentText(first.at))}.` : 'There is none yet.',
      do: 'Choose a later date; the newest table is shown.',
      words: '',
    };
  }

  /** Go to a date before or after the one in sight. */
  async step(by: number): Promise<void> {
    const marks = await this.known();
    const to = marks[this.index + by];
    if (to) await this.see(to.id);
  }

  /** Read the date in sight with the lines of its own brief, or with those of today. */
  async readAsThen(then: boolean): Promise<void> {
    if (!this.at || !then) {
      this.readThen = null;
      return;
    }
    try {
      const path = { snapshot_id: this.at.id };
      const params = { path, query: { query_id: this.queryId() } };
      this.readThen = await ask(api.GET('/api/snapshots/{snapshot_id}/then', { params }));
    } catch (error) {
      this.#fail(error);
    }
  }

  readonly #fail = (error: unknown): void => {
    this.problem = problemOf(error);
  };
}
