/** The work-out lines of a draft: what they did, whose table is in sight, and the line that is being edited. */
import { sameJson } from '../api/json';
import {
  api,
  ask,
  problemOf,
  type Column,
  type Line,
  type LineKind,
  type Look,
  type Problem,
  type RowFlowStep,
  type TableRef,
  type WorkOut,
} from '../api/client';
import { Latest } from '../api/latest';
import { choices, entryOf, type Values } from '../domain/choices';
import { OffersStore } from './offersStore.svelte';

/** A line that is being edited. */
export interface Editing {
  /** Where it stands, or will stand. */
  index: number;
  isNew: boolean;
  kind: LineKind;
  values: Values;
  /** The field of its form that was pointed at. */
  field: string;
}

interface Question {
  table: TableRef;
  lines: Line[];
}

/** Milliseconds without an edit before the lines are done again. */
const PAUSE = 60;

export class WorkOutStore {
  /** What became of the lines; of just {@link asked}. */
  done = $state.raw<WorkOut | null>(null);
  asked = $state.raw<Question | null>(null);
  problem = $state.raw<Problem | null>(null);
  running = $state(false);
  /** How many lines are done to the table in sight; all of them while nothing is said. */
  upTo = $state<number | null>(null);
  /** The rows that a line speaks of, in the place of the table. */
  look = $state.raw<Look | null>(null);
  editing = $state.raw<Editing | null>(null);
  readonly offers = new OffersStore();
  /** The table without its lines. */
  #base: TableRef | null = null;

  readonly #latest = new Latest(({ table, lines }: Question) => {
    const { snapshot, preview, query_id, starts_from } = table;
    const body = { snapshot, preview, query_id, starts_from, lines: lines as never };
    return ask(api.POST('/api/work-out', { body }));
  }, PAUSE);

  /** How many lines could be done: up to the first one that fails. */
  readonly good = $derived.by(() => {
    const at = this.done?.lines.findIndex((line) => line.state === 'failed') ?? -1;
    return at < 0 ? (this.done?.lines.length ?? 0) : at;
  });
  /** How many lines are done to the table in sight. */
  readonly shown = $derived(
    Math.min(this.editing ? this.editing.index + 1 : (this.upTo ?? this.good), this.good),
  );
  /** The table in sight; nothing while no line is done. */
  readonly table = $derived<TableRef | null>(
    this.asked && this.done && (this.shown > 0 || this.look || this.asked.table.starts_from)
      ? {
          ...this.asked.table,
          lines: this.asked.lines.slice(0, this.look ? this.good : this.shown),
          look: this.look,
        }
      : null,
  );
  /** Its columns and its height. */
  readonly seen = $derived.by<{ columns: Column[]; rows: number; lit: string[]; totals: boolean } | null>(
    () => {
      if (!this.table || !this.done) return null;
      if (this.look) {
        const before = this.look.line > 1 ? this.done.lines[this.look.line - 2] : null;
        // How many rows there are, the rows themselves tell.
        return { columns: before?.columns ?? this.done.columns, rows: 1, lit: [], totals: false };
      }
      const line = this.done.lines[this.shown - 1];
      if (!line && this.table.starts_from)
        return { columns: this.done.columns, rows: this.done.rows, lit: [], totals: false };
      return line ? { columns: line.columns, rows: line.rows, lit: line.lit, totals: line.totals } : null;
    },
  );

  /** Where the rows went, line by line. */
  readonly flow = $derived.by<RowFlowStep[]>(() => {
    const out: RowFlowStep[] = [];
    let before = this.done?.columns ?? [];
    for (const line of this.done?.lines.slice(0, this.shown) ?? []) {
      const had = before;
      before = line.columns;
      if (line.state !== 'done') continue;
      if (line.rows === line.rows_before) {
        const names = line.lit.slice(0, 2).join(', ');
        const isNew = line.lit.some((name) => !had.some((one) => one.name === name));
        if (names) out.push({ what: isNew ? `+ ${names}` : `${names} changed`, count: 0, words: '' });
      } else {
        const dropped = line.rows < line.rows_before && line.notes.find((note) => note.look === 'dropped');
        out.push({ what: 'rows', count: line.rows, words: dropped ? dropped.text.replace(' here', '') : '' });
      }
    }
    return out;
  });

  /** Do the lines of a draft to a table. */
  async follow(table: TableRef, lines: Line[]): Promise<void> {
    const question = { table, lines: this.#effective(lines) };
    this.#base = table;
    if (sameJson(question, this.asked) && this.done) return;
    const nothing = !table.starts_from && table.snapshot === null && table.preview === null;
    if (nothing || (!question.lines.length && !table.starts_from)) {
      this.#latest.cancel();
      this.done = null;
      this.asked = null;
      this.running = false;
      return;
    }
    this.running = true;
    try {
      const found = await this.#latest.ask(question);
      if (!found) return;
      if (this.look && !sameJson(question, this.asked)) this.look = null;
      this.asked = question;
      this.done = found.value;
      this.problem = null;
    } catch (error) {
      this.problem = problemOf(error);
    }
    this.running = false;
  }

  /** The lines with the one that is being edited in its place. */
  #effective(lines: Line[]): Line[] {
    const { editing } = this;
    if (!editing) return lines;
    const own = lineOf(editing);
    return [
      ...lines.slice(0, editing.index),
      own,
      ...lines.slice(editing.isNew ? editing.index : editing.index + 1),
    ];
  }

  /** The table that a line at a place finds. */
  tableBefore(index: number): TableRef | null {
    return this.asked && { ...this.asked.table, lines: this.asked.lines.slice(0, index), look: null };
  }

  /** Ask what the values of the table in sight suggest. */
  suggest(): void {
    const table = this.table ?? this.#base;
    if (table) void this.offers.follow(table);
  }

  /** The columns that a line at a place finds. */
  columnsBefore(index: number, base: Column[]): Column[] {
    if (index <= 0 || !this.done) return this.done?.columns ?? base;
    return this.done.lines[Math.min(index, this.done.lines.length) - 1]?.columns ?? base;
  }

  /** Begin a line behind those whose table is in sight. */
  begin(kind: LineKind, values: Values, count: number): void {
    const index = this.editing ? this.editing.index : Math.min(this.upTo ?? count, count);
    this.look = null;
    this.editing = {
      index,
      isNew: true,
      kind,
      values: { ...structuredClone($state.snapshot(kind.defaults)), ...values },
      field: '',
    };
  }

  /** Edit a line that is there. */
  edit(index: number, line: Line, field: string): void {
    const kind = entryOf(choices().lines, line.do);
    this.look = null;
    this.editing = { index, isNew: false, kind, values: { ...(line as unknown as Values) }, field };
  }

  change(values: Values): void {
    if (this.editing) this.editing = { ...this.editing, values };
  }

  stopEditing(): void {
    this.editing = null;
  }

  /** See the table as it is behind so many lines; behind all of them for `null`. */
  see(lines: number | null): void {
    this.look = null;
    this.upTo = lines;
  }

  lookAt(look: Look | null): void {
    this.look = look;
  }
}

/** A line that is being edited as the brief has it: empty texts of optional members are left out. */
export function lineOf(editing: Editing): Line {
  const out: Values = { do: editing.kind.key };
  for (const [name, value] of Object.entries(editing.values)) {
    const kept = name in editing.kind.defaults ? editing.kind.defaults[name] : undefined;
    if (name === 'off' && !value) continue;
    out[name] = value === '' && (kept === null || typeof kept === 'number') ? null : value;
    if (out[name] === null && typeof kept === 'number') delete out[name];
  }
  return out as unknown as Line;
}
