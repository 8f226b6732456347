import { expect, test } from 'vitest';
import { spanInSight } from '../../src/ui/rowsInSight.svelte';

test('the rows of a view are drawn, with some beyond both ends', () => {
  expect(spanInSight(0, 500, 50, 2000)).toEqual({ first: 0, last: 18 });
  expect(spanInSight(-300, 500, 50, 2000)).toEqual({ first: 0, last: 12 });
  expect(spanInSight(50_000, 500, 50, 2000)).toEqual({ first: 992, last: 1018 });
  expect(spanInSight(100_000, 500, 50, 2000)).toEqual({ first: 1992, last: 2000 });
});

test('whatever the view, every row in it is drawn, and never one that is not there', () => {
  for (let past = -1000; past < 12_000; past += 37) {
    for (const count of [0, 1, 7, 200]) {
      const { first, last } = spanInSight(past, 700, 55, count);
      expect(first).toBeGreaterThanOrEqual(0);
      expect(last).toBeLessThanOrEqual(count);
      for (let row = 0; row < count; row += 1) {
        const seen = row * 55 < past + 700 && (row + 1) * 55 > past;
        if (seen) expect(first <= row && row < last).toBe(true);
      }
    }
  }
});
