import { expect, test } from 'vitest';
import type { Cell, Column } from '../../src/api/client';
import { choices } from '../../src/domain/choices';
import { cellLines, MOST_VALUES } from '../../src/workOut/fromCells';

const column = (name: string, kind = 'text') => ({ name, kind, unit: '' }) as unknown as Column;
const STATUS = column('status');
const DELAY = column('delay', 'whole number');

function begun(label: string, columns: Column[], rows: Cell[][]) {
  const line = cellLines(columns, rows.length).find((one) => one.label === label);
  if (!line) throw new Error(`${label} is not offered`);
  const { kind, values } = line.begin(choices().lines, columns, rows);
  return { do: kind.key, ...values } as Record<string, unknown>;
}

test('texts are kept one by one, numbers from the lowest to the highest', () => {
  expect(begun('Keep only these', [STATUS], [['arrived'], ['planned'], ['arrived']])).toEqual({
    do: 'keep',
    any: false,
    where: [{ column: 'status', test: 'one of', value: null, values: ['arrived', 'planned'] }],
  });
  const numbers = begun('Keep only these', [DELAY], [[9], [10], [2]]).where as object[];
  expect(numbers).toMatchObject([
    { test: 'at least', value: 2 },
    { test: 'at most', value: 10 },
  ]);
});

test('blanks that are selected are meant too', () => {
  const kept = begun('Keep only these', [DELAY], [[9], [null], [2]]);
  expect(kept.any).toBe(true);
  expect(kept.where).toMatchObject([{ test: 'one of', values: [9, 2] }, { test: 'blank' }]);
  expect(begun('Keep only these', [STATUS], [[null], ['']]).where).toMatchObject([{ test: 'blank' }]);
  expect(begun('Drop these', [STATUS], [[null], ['planned']])).toMatchObject({
    any: false,
    where: [{ test: 'none of', values: ['planned'] }, { test: 'filled' }],
  });
});

test('values are labelled and replaced', () => {
  expect(begun('Label these', [STATUS], [['planned'], ['planned']])).toMatchObject({
    do: 'label',
    column: 'status',
    cases: [{ test: 'is', value: 'planned', label: '' }],
  });
  expect(begun('Replace these', [STATUS], [['-'], ['n/a']])).toMatchObject({
    do: 'replace',
    changes: [
      { old: '-', new: null },
      { old: 'n/a', new: null },
    ],
  });
});

test('several columns are counted by, put together, or turned into rows', () => {
  const rows = [['a', 1]];
  expect(begun('Count by these', [STATUS, column('route')], rows).by).toMatchObject([
    { column: 'status' },
    { column: 'route' },
  ]);
  expect(begun('Put together', [STATUS, column('port code')], rows).text).toBe('{status} {port code}');
  expect(begun('Columns into rows', [DELAY, column('wind', 'whole number')], rows).columns).toEqual([
    'delay',
    'wind',
  ]);
});

test('more values than a condition lists are not offered', () => {
  expect(cellLines([STATUS], MOST_VALUES + 1)).toEqual([]);
});
