/** Working on a brief's columns. Every function gives a new brief; renames reach whatever refers to the column. */
import type { Brief, Column, Kind, TakenColumn } from './api/client';

export interface ColumnEdit {
  name?: string;
  kind?: Kind | null;
  unit?: string;
}

/** A column that is taken, with the name that it had. */
export type Chosen = TakenColumn & { was?: string };

/** The brief's columns as a list, even when it takes all there are. `shown` are the columns of its table now. */
export function chosenColumns(brief: Brief, shown: Column[]): Chosen[] {
  const taken = brief.take.columns ?? shown.filter((column) => column.origin === 'taken');
  return taken.map(({ place, name, unit, kind }) => ({
    place,
    name,
    unit,
    kind: brief.take.columns ? kind : null,
    was: name,
  }));
}

/** The brief with just these columns taken, in this order. */
export function withColumns(brief: Brief, columns: Chosen[]): Brief {
  const names = new Map(columns.map((column) => [column.was ?? column.name, column.name]));
  const lookedUp = new Set(brief.look_up.flatMap((one) => one.take.map((field) => field.name)));
  return {
    ...brief,
    take: {
      ...brief.take,
      columns: columns.map(({ place, name, kind, unit }) => ({ place, name, kind, unit })),
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

/** Move a taken column to the left (−1) or to the right (1); at the edge nothing happens. */
export function moveColumn(brief: Brief, shown: Column[], column: Column, by: number): Brief {
  const list = chosenColumns(brief, shown);
  const at = list.findIndex((one) => one.was === column.name);
  const [own, other] = [list[at], list[at + by]];
  if (!own || !other) return brief;
  [list[at], list[at + by]] = [other, own];
  return withColumns(brief, list);
}

/** Take a field of the records, or leave it out when it is taken. */
export function toggleField(brief: Brief, shown: Column[], place: string): Brief {
  const list = chosenColumns(brief, shown);
  if (list.some((one) => one.place === place))
    return withColumns(
      brief,
      list.filter((one) => one.place !== place),
    );
  const taken = new Set(shown.map((column) => column.name));
  let name = nameOf(place);
  while (taken.has(name)) name += ' 2';
  return withColumns(brief, [...list, { place, name, kind: null, unit: '' }]);
}

/** A readable name for a place: $.vessel['hull id'] → vessel.hull id. */
export function nameOf(place: string): string {
  return (
    place
      .replaceAll('[*]', '')
      .replace(/\['([^']*)'\]/g, '.$1')
      .replace(/^\$\.?/, '') || 'value'
  );
}
