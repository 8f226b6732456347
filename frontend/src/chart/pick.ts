/** The rows behind a mark, as filters of the table. */
import type { Cell, Chart, ChartMade, Column, Condition } from '../api/client';
import { writeJson } from '../api/json';

interface Place {
  panel: number;
  series: number;
  index: number;
}

/** Filters that leave just the rows of a mark.
 * @param row the cells of the first of these rows; none where several values stand together. */
export function rowsOf(
  chart: Chart,
  made: ChartMade,
  { panel, series, index }: Place,
  columns: Column[],
  row: Cell[],
): Condition[] {
  const same = (name: string): Condition[] => {
    const at = columns.findIndex((one) => one.name === name);
    if (!name || at < 0 || !row.length) return [];
    const cell = row[at];
    const empty =
      cell === null || cell === undefined || cell === '' || (typeof cell === 'object' && 'miss' in cell);
    if (empty) return [{ by: 'empty', column: name, no: false }];
    return [
      {
        by: 'one of',
        column: name,
        values: [typeof cell === 'string' ? cell : writeJson(cell)],
        no: false,
      },
    ];
  };
  const split = [...('series' in chart ? same(chart.series ?? '') : []), ...same(chart.each ?? '')];
  if (chart.draw === 'spread') {
    const edges = made.panels[panel]?.series[series]?.x ?? [];
    const [low, high] = [edges[index], edges[index + 1]];
    if (low === undefined || high === undefined) return [];
    return [
      { by: 'between', column: chart.x ?? '', low: String(low), high: String(high), no: false },
      ...split,
    ];
  }
  if (chart.draw === 'points') return [...same(chart.x ?? ''), ...same(chart.y ?? ''), ...split];
  if (chart.draw === 'line' && chart.period) {
    const start = made.panels[panel]?.series[series]?.x[index];
    if (start === undefined) return [];
    return [{ by: 'between', column: chart.x ?? '', ...periodOf(start, chart.period), no: false }, ...split];
  }
  return 'x' in chart ? [...same(chart.x ?? ''), ...split] : split;
}

/** The first day of a period and its last, as they are written. */
function periodOf(
  start: number,
  period: 'day' | 'week' | 'month' | 'quarter' | 'year',
): { low: string; high: string } {
  const first = new Date(start);
  const last = new Date(start);
  const months = { day: 0, week: 0, month: 1, quarter: 3, year: 12 }[period];
  if (months) last.setUTCMonth(last.getUTCMonth() + months, 0);
  else if (period === 'week') last.setUTCDate(last.getUTCDate() + 6);
  return { low: first.toISOString().slice(0, 10), high: last.toISOString().slice(0, 10) };
}
