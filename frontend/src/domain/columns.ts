/** Working on a brief's columns. Every function gives a new brief; renames reach whatever refers to the column. */
import { sameJson } from '../api/json';
import type { Brief, Column, ListReduction, Kind, Reads, RecordsGuess, ColumnSpec } from '../api/client';
import { choices, entryOf, filled, type Values } from './choices';

export interface ColumnEdit {
  name?: string;
  kind?: Kind | null;
  unit?: string;
  reads?: Reads | null;
  note?: string;
  hidden?: boolean;
  reduction?: ListReduction | null;
}

/** Values are read in the usual way. */
export const NO_READS: Reads = { comma: false, dates: null, zone: null, yes: [], no: [], empty: [] };

/** A column that is taken, with the name that it had. */
export type Chosen = ColumnSpec & { was?: string };

/** A column for a place, as it comes. */
export function newColumn(place: string, name: string, more: Partial<ColumnSpec> = {}): ColumnSpec {
  return { place, name, kind: null, unit: '', of: 'record', note: '', hidden: false, ...more };
}

/** The brief's columns as a list, even when it takes all there are. `shown` are the columns of its table now. */
export function chosenColumns(brief: Brief, shown: Column[]): Chosen[] {
  if (brief.take.columns) return brief.take.columns.map((column) => ({ ...column, was: column.name }));
  return shown
    .filter((column) => column.origin === 'taken')
    .map(({ place, name, unit, of, note, hidden }) =>
      Object.assign(newColumn(place, name, { unit, of, note, hidden }), { was: name }),
    );
}

/** The brief with just these columns taken, in this order. */
export function withColumns(brief: Brief, columns: Chosen[]): Brief {
  const names = new Map(columns.map((column) => [column.was ?? column.name, column.name]));
  const lookedUp = new Set(brief.look_up.flatMap((one) => one.take.map((field) => field.name)));
  return {
    ...brief,
    take: {
      ...brief.take,
      columns: columns.map(({ was: _, ...column }) => column),
    },
    look_up: brief.look_up.map((one) => ({
      ...one,
      with: Object.fromEntries(Object.entries(one.with).map(([key, from]) => [key, names.get(from) ?? from])),
    })),
    keep: {
      ...brief.keep,
      match: brief.keep.match
        .filter((name) => names.has(name) || lookedUp.has(name))
        .map((name) => names.get(name) ?? name),
    },
  };
}

/** Change one column, wherever it comes from. */
export function editColumn(brief: Brief, shown: Column[], column: Column, edit: ColumnEdit): Brief {
  if (column.origin === 'taken') {
    const list = chosenColumns(brief, shown);
    return withColumns(
      brief,
      list.map((one) => (one.was === column.name ? { ...one, ...edit } : one)),
    );
  }
  const look_up = brief.look_up.map((one) =>
    one.name === column.origin
      ? {
          ...one,
          take: one.take.map((field) => (field.name === column.name ? { ...field, ...edit } : field)),
        }
      : one,
  );
  const match = brief.keep.match.map((name) => (name === column.name ? (edit.name ?? name) : name));
  return { ...brief, look_up, keep: { ...brief.keep, match } };
}

/** Leave a column out; a lookup without columns goes with its last one. */
export function dropColumn(brief: Brief, shown: Column[], column: Column): Brief {
  if (column.origin === 'taken')
    return withColumns(
      brief,
      chosenColumns(brief, shown).filter((one) => one.was !== column.name),
    );
  const look_up = brief.look_up
    .map((one) =>
      one.name === column.origin
        ? { ...one, take: one.take.filter((field) => field.name !== column.name) }
        : one,
    )
    .filter((one) => one.take.length);
  const match = brief.keep.match.filter((name) => name !== column.name);
  return { ...brief, look_up, keep: { ...brief.keep, match } };
}

/** Move a taken column in front of another one. */
export function moveBefore(brief: Brief, shown: Column[], name: string, before: string | null): Brief {
  const list = chosenColumns(brief, shown);
  const own = list.find((one) => one.was === name);
  if (!own || name === before) return brief;
  const others = list.filter((one) => one !== own);
  const at = before === null ? others.length : others.findIndex((one) => one.was === before);
  others.splice(at < 0 ? others.length : at, 0, own);
  return withColumns(brief, others);
}

/** Move a taken column to the left (−1) or to the right (1); at the edge nothing happens. */
export function moveColumn(brief: Brief, shown: Column[], column: Column, by: number): Brief {
  const list = chosenColumns(brief, shown);
  const at = list.findIndex((one) => one.was === column.name);
  const [own, other] = [list[at], list[at + by]];
  if (!own || !other) return brief;
  [list[at], list[at + by]] = [other, own];
  return withColumns(brief, list);
}

/** Whether two columns stand for the same thing in the answer. */
function same(one: Pick<ColumnSpec, 'place' | 'of' | 'reduction'>, other: typeof one): boolean {
  return (
    one.place === other.place &&
    one.of === other.of &&
    sameJson(one.reduction ?? null, other.reduction ?? null)
  );
}

/** Take a field, or leave it out when it is taken just so. */
export function toggleField(brief: Brief, shown: Column[], column: ColumnSpec): Brief {
  const list = chosenColumns(brief, shown);
  if (list.some((one) => same(one, column)))
    return withColumns(
      brief,
      list.filter((one) => !same(one, column)),
    );
  return withColumns(brief, [...list, { ...column, name: freeName(column.name, shown, list) }]);
}

/** A name that no other column has. */
function freeName(name: string, shown: Column[], list: Chosen[]): string {
  const taken = new Set([...shown.map((column) => column.name), ...list.map((column) => column.name)]);
  let free = name;
  for (let number = 2; taken.has(free); number += 1) free = `${name} (${number})`;
  return free;
}

/** Take the items of a place as records. Columns are chosen anew. */
export function withRecords(brief: Brief, guess: Partial<RecordsGuess> & { path: string }): Brief {
  const rows_for = guess.rows_for ?? [];
  return {
    ...brief,
    take: {
      records: guess.path,
      without_items: 'keep',
      heads: guess.heads ?? null,
      rows_for,
      keyed: [],
      together: rows_for.length > 1 ? 'side by side' : null,
      columns: null,
      most_rows: brief.take.most_rows ?? null,
    },
  };
}

/** Make a row of every item of a list in the records, or no more. Columns that lie in it are read by their items. */
export function withRows(brief: Brief, shown: Column[], place: string, on: boolean, keyed = false): Brief {
  const take = brief.take;
  const others = take.rows_for.filter((one) => one !== place && !(one.startsWith(`${place}[*]`) && !on));
  const rows_for = on ? [...others, place] : others;
  const roots = rows_for.filter((one) => !one.includes('[*]'));
  let columns = take.columns ? chosenColumns(brief, shown) : null;
  if (columns) {
    const inside = (one: Chosen) => one.place.startsWith(`${place}[*]`);
    // What is made of the whole list stays, and is repeated in each of its rows.
    columns = columns.filter((one) => (on ? one.place !== place : !inside(one) || one.reduction));
  }
  const next: Brief = {
    ...brief,
    take: {
      ...take,
      rows_for,
      keyed: keyed && on ? [...new Set([...take.keyed, place])] : take.keyed.filter((one) => one !== place),
      together: roots.length > 1 ? (take.together ?? 'product') : null,
      columns: null,
    },
  };
  return columns ? withColumns(next, columns) : next;
}

/** How values of a list become one cell, in words. */
export function listWords(how: ListReduction | null | undefined): string {
  if (!how) return 'all of them, as text';
  const { phrase, fields } = entryOf(choices().reductions, how.by);
  const values = how.by === 'where' ? { ...how, place: how.place.replace(/^\$\.?/, '') || 'it' } : how;
  return filled(phrase, fields, values as Values);
}
