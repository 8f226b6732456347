/** A report that is read and written: its document, what it says now, and that what is written is kept. */
import { untrack } from 'svelte';
import {
  api,
  ask,
  problemOf,
  type Offers,
  type Problem,
  type Report,
  type ReportBlock,
  type ReportFigure,
  type ReportRead,
} from '../api/client';
import { sameJson } from '../api/json';
import { Latest } from '../api/latest';

/** Milliseconds without a change before it is kept. */
const PAUSE = 700;
const MOST_UNDONE = 200;

interface ReadAsked {
  report: Report;
  as_of: string;
  against: string | null;
  chosen: Record<string, string>;
  width: number;
}

export class ReportStore {
  report = $state.raw<Report | null>(null);
  read = $state.raw<ReportRead | null>(null);
  problem = $state.raw<Problem | null>(null);
  /** What kept it from being kept; what was written stands all the same. */
  unkept = $state.raw<Problem | null>(null);
  keeping = $state<'kept' | 'waiting' | 'keeping'>('kept');
  asOf = $state('');
  /** The other date; nothing for what the report says. */
  against = $state<string | null>(null);
  chosen = $state.raw<Record<string, string>>({});
  width = $state(0);
  reading = $state(false);
  /** Dates on which there are tables, the newest first. */
  dates = $state.raw<string[]>([]);
  /** What queries offer, by their numbers. */
  offers = $state.raw<Record<number, Offers>>({});
  past = $state.raw<Report[]>([]);
  future = $state.raw<Report[]>([]);

  #version = 0;
  #kept: Report | null = null;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #running: Promise<void> | null = null;
  readonly #latest = new Latest((body: ReadAsked) => ask(api.POST('/api/reports/read', { body })), 120);

  constructor(readonly id: number) {
    $effect(() => {
      const { report, asOf, against, chosen, width } = this;
      if (!report || !width) return;
      untrack(() => void this.#look({ report, as_of: asOf, against, chosen, width: Math.round(width) }));
    });
    $effect(() => {
      const queries = this.queries;
      if (queries.length) untrack(() => void this.#lookAround(queries));
    });
  }

  /** The queries that it is made of. */
  queries = $derived.by(() => {
    const { report } = this;
    if (!report) return [];
    const own = report.blocks.flatMap((one) => (one.block === 'text' ? [] : [one.query]));
    return [...report.figures.map((one) => one.query), ...own].filter(
      (one, at, all) => all.indexOf(one) === at,
    );
  });

  async load(): Promise<void> {
    try {
      const found = await ask(
        api.GET('/api/reports/{report_id}', { params: { path: { report_id: this.id } } }),
      );
      this.#version = found.version;
      this.#kept = found.report;
      this.report = found.report;
    } catch (error) {
      this.problem = problemOf(error);
    }
  }

  async #look(body: ReadAsked): Promise<void> {
    this.reading = true;
    try {
      const found = await this.#latest.ask(body);
      if (!found) return;
      this.read = found.value;
      this.problem = null;
    } catch (error) {
      this.problem = problemOf(error);
    }
    this.reading = false;
  }

  async #lookAround(queries: number[]): Promise<void> {
    const found = await ask(api.POST('/api/reports/dates', { body: { queries } })).catch(() => null);
    if (found) this.dates = found.dates;
    for (const one of queries) await this.offersOf(one);
  }

  /** What a query offers; nothing where it has no table. */
  async offersOf(query_id: number): Promise<Offers | null> {
    const known = this.offers[query_id];
    if (known) return known;
    try {
      const taken = this.report?.figures.map((one) => one.name) ?? [];
      const found = await ask(api.POST('/api/reports/offers', { body: { query_id, taken } }));
      this.offers = { ...this.offers, [query_id]: found };
      return found;
    } catch {
      return null;
    }
  }

  /** Refresh queries with a value that was chosen, and read the report again when they are done. */
  askAnew = async (name: string, value: string, queries: number[]): Promise<void> => {
    try {
      for (const query_id of queries) {
        const path = { query_id };
        const detail = await ask(api.GET('/api/queries/{query_id}', { params: { path } }));
        const own = detail.brief.parameters.find((one) => one.name.toLowerCase() === name.toLowerCase());
        if (!own) continue;
        const body = { values: { [own.name]: value } };
        const { run_id } = await ask(api.POST('/api/queries/{query_id}/refresh', { params: { path }, body }));
        await this.#ended(query_id, run_id);
      }
    } catch (error) {
      this.problem = problemOf(error);
    }
    this.again();
  };

  async #ended(query_id: number, run_id: number): Promise<void> {
    for (;;) {
      const runs = await ask(api.GET('/api/runs', { params: { query: { query: query_id } } }));
      if (runs.find((one) => one.id === run_id)?.state !== 'running') return;
      await new Promise((done) => setTimeout(done, 700));
    }
  }

  /** Read it again: its tables may be others now. */
  again(): void {
    if (this.report) this.report = { ...this.report };
  }

  /** Change the report. Changes of one thing that follow each other are undone together.
   * @param joins whether this change belongs to the one before. */
  change = (next: Report, joins = false): void => {
    if (!this.report || sameJson(next, this.report)) return;
    if (!joins) this.past = [...this.past.slice(-MOST_UNDONE), this.report];
    this.future = [];
    this.#take(next);
  };

  #take(next: Report): void {
    this.report = next;
    this.keeping = 'waiting';
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => void this.keep(), PAUSE);
  }

  undo = (): void => {
    const before = this.past.at(-1);
    if (!before || !this.report) return;
    this.past = this.past.slice(0, -1);
    this.future = [this.report, ...this.future];
    this.#take(before);
  };

  redo = (): void => {
    const [next, ...rest] = this.future;
    if (!next || !this.report) return;
    this.future = rest;
    this.past = [...this.past, this.report];
    this.#take(next);
  };

  /** Keep what was written. */
  keep = async (): Promise<void> => {
    clearTimeout(this.#timer);
    if (this.#running) await this.#running;
    const report = this.report;
    if (!report || sameJson(report, this.#kept)) {
      this.keeping = 'kept';
      return;
    }
    this.keeping = 'keeping';
    this.#running = this.#save(report);
    await this.#running;
    this.#running = null;
  };

  async #save(report: Report): Promise<void> {
    try {
      const body = { report, version: this.#version };
      const params = { path: { report_id: this.id } };
      const found = await ask(api.PUT('/api/reports/{report_id}', { params, body }));
      this.#version = found.version;
      this.#kept = report;
      this.unkept = null;
      this.keeping = sameJson(this.report, report) ? 'kept' : 'waiting';
    } catch (error) {
      this.unkept = problemOf(error);
      this.keeping = 'waiting';
    }
  }

  leave(): void {
    void this.keep();
  }

  // Blocks and figures ----------------------------------------------------------------------------------------

  setBlock = (at: number, block: ReportBlock, joins = false): void => {
    const { report } = this;
    if (!report) return;
    this.change(
      { ...report, blocks: report.blocks.map((one, index) => (index === at ? block : one)) },
      joins,
    );
  };

  insert = (at: number, block: ReportBlock): void => {
    const { report } = this;
    if (report)
      this.change({ ...report, blocks: [...report.blocks.slice(0, at), block, ...report.blocks.slice(at)] });
  };

  remove = (at: number): void => {
    const { report } = this;
    if (report) this.change({ ...report, blocks: report.blocks.filter((_, index) => index !== at) });
  };

  move = (at: number, by: number): void => {
    const { report } = this;
    const to = at + by;
    if (!report || to < 0 || to >= report.blocks.length) return;
    const blocks = [...report.blocks];
    const [own] = blocks.splice(at, 1);
    if (own) blocks.splice(to, 0, own);
    this.change({ ...report, blocks });
  };

  figure = (name: string): ReportFigure | undefined =>
    this.report?.figures.find((one) => one.name.toLowerCase() === name.toLowerCase());

  /** Add a figure, where there is none of its name; with the change of the text that says it. */
  addFigure = (figure: ReportFigure): void => {
    const { report } = this;
    if (!report || this.figure(figure.name)) return;
    this.change({ ...report, figures: [...report.figures, figure] }, true);
  };

  /** Put a figure in the place of another one; what the texts call it follows its name. */
  setFigure = (was: string, figure: ReportFigure): void => {
    const { report } = this;
    if (!report) return;
    const figures = report.figures.map((one) => (one.name === was ? figure : one));
    const blocks =
      was === figure.name
        ? report.blocks
        : report.blocks.map((one) =>
            one.block === 'text' ? { ...one, text: renamed(one.text ?? '', was, figure.name) } : one,
          );
    this.change({ ...report, figures, blocks });
  };

  /** A name that no figure has. */
  freeName = (words: string): string => {
    let own = words;
    for (let at = 2; this.figure(own); at++) own = `${words} ${at}`;
    return own;
  };
}

/** A text in which a figure has another name. */
export function renamed(text: string, was: string, now: string): string {
  return text.replace(/(?<!\\)\{([^{}\n]+)\}/g, (whole, words: string) => {
    const when = /^when\s+/i.exec(words)?.[0] ?? '';
    const rest = words.slice(when.length);
    if (rest.toLowerCase() !== was.toLowerCase() && !rest.toLowerCase().startsWith(was.toLowerCase()))
      return whole;
    const behind = rest.slice(was.length);
    // Another figure's name may begin alike.
    if (behind && !/^\s*(:|[<>=≤≥≠])/.test(behind) && !(when && /^\s/.test(behind))) return whole;
    return `{${when}${now}${behind}}`;
  });
}
