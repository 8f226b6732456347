/** Lines that begin from cells that are selected. */
import type { Cell, Column, LineKind } from '../api/client';
import { entryOf } from '../domain/choices';
import { isNumeric, isTemporal } from '../domain/kinds';
import { startingFrom, type Found } from './palette';

/** What can be begun from selected cells. */
export interface CellLine {
  label: string;
  begin: (kinds: LineKind[], columns: Column[], rows: Cell[][]) => Found;
}

/** As many values as a condition may list. */
export const MOST_VALUES = 1000;

type Plain = string | number | boolean;
const isPlain = (cell: Cell): cell is Plain => cell !== null && typeof cell !== 'object' && cell !== '';

/** The different values of a column's selected cells, without blanks. */
const valuesOf = (rows: Cell[][]): Plain[] => [...new Set(rows.map((row) => row[0] ?? null).filter(isPlain))];

interface Test {
  test: string;
  value: Plain | null;
  values: Plain[];
}

const test = (name: string, value: Plain | null = null, values: Plain[] = []): Test => ({
  test: name,
  value,
  values,
});

const hasBlank = (rows: Cell[][]): boolean => rows.some((row) => !isPlain(row[0] ?? null));

const oneOf = (values: Plain[]): Test =>
  values.length === 1 ? test('is', values[0]) : test('one of', null, values);

/** What finds the selected cells again: numbers and dates from the lowest to the highest, other values one by one. */
function findsThem(column: Column, rows: Cell[][]): { tests: Test[]; any: boolean } {
  const values = valuesOf(rows);
  if (!values.length) return { tests: [test('blank')], any: false };
  if (hasBlank(rows)) return { tests: [oneOf(values), test('blank')], any: true };
  if (values.length === 1 || !(isNumeric(column) || isTemporal(column)))
    return { tests: [oneOf(values)], any: false };
  const sorted = values.toSorted((one, other) => (one < other ? -1 : one > other ? 1 : 0));
  return { tests: [test('at least', sorted[0]), test('at most', sorted.at(-1))], any: false };
}

/** What finds all cells but the selected ones. */
function findsOthers(rows: Cell[][]): { tests: Test[]; any: boolean } {
  const values = valuesOf(rows);
  const tests = values.length ? [test('none of', null, values)] : [];
  return { tests: hasBlank(rows) ? [...tests, test('filled')] : tests, any: false };
}

const keep = (kinds: LineKind[], column: Column, found: { tests: Test[]; any: boolean }): Found => ({
  kind: entryOf(kinds, 'keep'),
  values: { where: found.tests.map((one) => ({ column: column.name, ...one })), any: found.any },
});

const KEEP: CellLine = {
  label: 'Keep only these',
  begin: (kinds, [column], rows) => keep(kinds, column as Column, findsThem(column as Column, rows)),
};

const LEAVE: CellLine = {
  label: 'Drop these',
  begin: (kinds, [column], rows) => keep(kinds, column as Column, findsOthers(rows)),
};

const LABEL: CellLine = {
  label: 'Label these',
  begin: (kinds, [column], rows) => {
    const values = valuesOf(rows);
    const cases = [...(values.length ? [oneOf(values)] : []), ...(hasBlank(rows) ? [test('blank')] : [])];
    return {
      kind: entryOf(kinds, 'label'),
      values: { column: (column as Column).name, cases: cases.map((one) => ({ ...one, label: '' })) },
    };
  },
};

const REPLACE: CellLine = {
  label: 'Replace these',
  begin: (kinds, [column], rows) => ({
    kind: entryOf(kinds, 'replace'),
    values: {
      column: (column as Column).name,
      changes: valuesOf(rows).map((old) => ({ old, new: null })),
    },
  }),
};

const COUNT: CellLine = {
  label: 'Count by these',
  begin: (kinds, columns) => from(entryOf(kinds, 'count'), columns),
};

const TEXT: CellLine = {
  label: 'Put together',
  begin: (kinds, columns) => ({
    kind: entryOf(kinds, 'text'),
    values: { text: columns.map((column) => `{${column.name}}`).join(' ') },
  }),
};

const REPEATS: CellLine = {
  label: 'Drop repeats by these',
  begin: (kinds, columns) => from(entryOf(kinds, 'repeats'), columns),
};

const FOLD: CellLine = {
  label: 'Columns into rows',
  begin: (kinds, columns) => from(entryOf(kinds, 'fold'), columns),
};

const from = (kind: LineKind, columns: Column[]): Found => ({ kind, values: startingFrom(kind, columns) });

/** What is offered for a block of so many rows. */
export function cellLines(columns: Column[], rows: number): CellLine[] {
  if (columns.length === 1) return rows > MOST_VALUES ? [] : [KEEP, LEAVE, LABEL, REPLACE];
  return columns.every(isNumeric) ? [FOLD, COUNT] : [COUNT, TEXT, REPEATS];
}
