import { expect, test } from 'vitest';
import { heightOf, HIGHEST, indexAt, offsetsOf, spanOf } from '../../src/table/span';

test('only columns in sight are drawn, with some to spare', () => {
  const offsets = offsetsOf(Array.from({ length: 1000 }, () => 100));
  expect(spanOf(offsets, 0, 500, 0)).toEqual({ first: 0, last: 6, before: 0 });
  expect(spanOf(offsets, 5_050, 5_950, 2)).toEqual({ first: 48, last: 62, before: 4800 });
  expect(spanOf(offsets, 99_900, 101_000, 2)).toEqual({ first: 997, last: 1000, before: 99_700 });
  expect(spanOf(offsetsOf([]), 0, 500)).toEqual({ first: 0, last: 0, before: 0 });
});

test('the thing at a place is found whatever the widths', () => {
  const offsets = offsetsOf([10, 200, 30]);
  expect([0, 9, 10, 209, 210, 500].map((place) => indexAt(offsets, place))).toEqual([0, 0, 1, 1, 2, 2]);
});

test('the last row of very many can be scrolled to', () => {
  expect(heightOf(1_000_000, 28, 600)).toEqual({ drawn: 28_000_000, scale: 1 });
  const { drawn, scale } = heightOf(5_000_000, 28, 600);
  expect(drawn).toBe(HIGHEST);
  expect((drawn - 600) * scale + 600).toBeCloseTo(5_000_000 * 28);
});
