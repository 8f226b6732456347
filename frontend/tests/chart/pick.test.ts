import { expect, test } from 'vitest';
import type { Chart, Column } from '../../src/api/client';
import { rowsOf } from '../../src/chart/pick';
import { DRAWINGS } from './made';

const columns = [{ name: 'at' }, { name: 'fare' }, { name: 'route' }] as Column[];
const row = ['2026-11-20T05:40:00+00:00', 31.5, null];
const FIRST = { panel: 0, series: 0, index: 0 };

test('a mark of a line leads to the rows of its place, its colour and its small chart', () => {
  const { made, chart } = DRAWINGS.line!;
  expect(rowsOf({ ...chart, series: 'route' } as Chart, made, FIRST, columns, row)).toEqual([
    { by: 'one of', column: 'at', values: ['2026-11-20T05:40:00+00:00'], no: false },
    { by: 'empty', column: 'route', no: false },
  ]);
  expect(rowsOf({ ...chart, period: 'week' } as Chart, made, FIRST, columns, row)).toEqual([
    { by: 'between', column: 'at', low: '2026-10-20', high: '2026-10-26', no: false },
  ]);
  expect(rowsOf({ ...chart, period: 'month' } as Chart, made, FIRST, columns, row)[0]).toMatchObject({
    low: '2026-10-20',
    high: '2026-10-31',
  });
});

test('a step of a spread leads to what lies in it, and what several values share to nothing', () => {
  const { made, chart } = DRAWINGS.spread!;
  expect(rowsOf(chart, made, { ...FIRST, index: 2 }, columns, [])).toEqual([
    { by: 'between', column: 'delay', low: '10', high: '15', no: false },
  ]);
  const bars = DRAWINGS.bars!;
  expect(rowsOf(bars.chart, bars.made, FIRST, columns, [])).toEqual([]);
});
