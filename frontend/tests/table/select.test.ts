import { expect, test } from 'vitest';
import type { Cell, Column } from '../../src/api/client';
import { blockOf, cellsIn, isInside, moved, tabbed } from '../../src/table/select';

const column = (name: string): Column => ({
  name,
  kind: 'text',
  origin: 'taken',
  place: '$',
  unit: '',
  filled: null,
  of: 'record',
  note: '',
  hidden: false,
  list_words: '',
  source: '',
  asked: '',
});

test('a block lies between its corners, whichever comes first', () => {
  const block = blockOf({ row: 5, column: 3 }, { row: 2, column: 7 });
  expect(block).toEqual({ top: 2, bottom: 5, left: 3, right: 7 });
  expect(cellsIn(block)).toBe(20);
  expect([isInside(block, 2, 3), isInside(block, 6, 3), isInside(block, 3, 8)]).toEqual([true, false, false]);
});

test('copied cells paste into cells: codes and long ids as they are, tabs and lines quoted, misses empty', () => {
  const rows: Cell[][] = [
    ['007', 42.5, true],
    ['4611686018427387905', null, { miss: 'none', words: 'not there' }],
    ['two\nlines and a "word"', 'a\tb', false],
  ];
  expect(tabbed(rows, ['a', 'b', 'c'].map(column), true)).toBe(
    [
      'a\tb\tc',
      '007\t42.5\tTRUE',
      '4611686018427387905\t\t',
      '"two\nlines and a ""word"""\t"a\tb"\tFALSE',
    ].join('\r\n'),
  );
});

test('keys lead through the grid and never out of it', () => {
  const go = (key: string, ctrlKey = false) =>
    moved({ row: 5, column: 2 }, { key, ctrlKey, metaKey: false }, 100, 4, 20);
  expect(go('ArrowDown')).toEqual({ row: 6, column: 2 });
  expect(go('ArrowRight', true)).toEqual({ row: 5, column: 3 });
  expect(go('PageUp')).toEqual({ row: 0, column: 2 });
  expect(go('End')).toEqual({ row: 5, column: 3 });
  expect(go('End', true)).toEqual({ row: 99, column: 3 });
  expect(go('Home', true)).toEqual({ row: 0, column: 0 });
  expect(go('x')).toBeNull();
});
