import { expect, test } from 'vitest';
import type { Column } from '../../src/api/client';
import { choices } from '../../src/domain/choices';
import { columnsIn, findLines, numberIn, quoted, startingFrom } from '../../src/workOut/palette';

const column = (name: string, kind = 'text') => ({ name, kind, unit: '' }) as unknown as Column;
const COLUMNS = [
  column('route'),
  column('delay', 'whole number'),
  column('port'),
  column('port code'),
  column('departs', 'date and time'),
];
const best = (text: string) => findLines(choices().lines, text, COLUMNS)[0];

test.each([
  ['top five', 'first'],
  ['percent', 'along'],
  ['per month', 'period'],
  ['duplicates', 'repeats'],
  ['join', 'bring'],
  ['pivot', 'spread'],
  ['filter', 'keep'],
  ['split', 'split'],
  ['text to number', 'read'],
  ['decimal comma', 'read'],
  ['sum by route', 'count'],
])('“%s” finds its line', (text, kind) => {
  const found = findLines(choices().lines, text, COLUMNS).map((one) => one.kind.key);
  expect(found.slice(0, 3)).toContain(kind);
});

test('the line that has a word in its name comes first', () => {
  expect(best('split route')?.kind.key).toBe('split');
  expect(best('label delay')?.kind.key).toBe('label');
});

test('a number and columns that are said are in the form already', () => {
  expect(best('top five by delay')?.values).toMatchObject({
    rows: 5,
    by: [{ column: 'delay', down: true }],
  });
  expect(numberIn('the first 12 rows')).toBe(12);
  expect(numberIn('rows')).toBe(null);
});

test('the figure that is said is the one that begins', () => {
  const counting = (text: string) =>
    findLines(choices().lines, text, COLUMNS).find((one) => one.kind.key === 'count');
  const figures = (text: string) =>
    (counting(text)?.values.figures as { of: string; column: string }[]).map((one) =>
      `${one.of} ${one.column}`.trim(),
    );
  expect(figures('sum delay by route')).toEqual(['rows', 'sum delay']);
  expect(figures('mean delay by route')).toEqual(['rows', 'mean delay']);
  expect(figures('highest delay per port')).toEqual(['rows', 'highest delay']);
});

test('the longer name is found, in the order of the text', () => {
  const names = columnsIn('count by port code and route', COLUMNS).map((one) => one.name);
  expect(names).toContain('port code');
  expect(names.at(-1)).toBe('route');
});

test('nothing typed shows every line; nonsense shows none', () => {
  expect(findLines(choices().lines, '', COLUMNS)).toHaveLength(choices().lines.length);
  expect(findLines(choices().lines, 'qqzx', COLUMNS)).toEqual([]);
});

test('every line with a heading begins from a column', () => {
  for (const kind of choices().lines.filter((one) => one.heading)) {
    const values = startingFrom(kind, [column('delay', 'whole number')]);
    expect(JSON.stringify(values), kind.key).toContain('delay');
  }
});

test('names are quoted where an expression needs it', () => {
  expect(quoted('delay')).toBe('delay');
  expect(quoted('port code')).toBe('"port code"');
  expect(quoted('a "b"')).toBe('"a ""b"""');
});
