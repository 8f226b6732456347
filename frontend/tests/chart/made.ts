/** Drawings as the server makes them. */
import type { Chart, ChartMade } from '../../src/api/client';

const DAY = 86_400_000;
const START = Date.UTC(2026, 9, 20);
type Series = ChartMade['panels'][number]['series'][number];

const series = (
  name: string,
  y: (number | null)[],
  x: number[] = [],
  more: Partial<Series> = {},
): Series => ({
  name,
  y,
  x,
  rows: y.map((_, at) => at),
  size: null,
  axis: 0,
  then: false,
  points: y.filter((one) => one !== null).length,
  ...more,
});
const days = (count: number, first = 0): number[] =>
  Array.from({ length: count }, (_, at) => START + (first + at) * DAY);
const made = (draw: string, x: ChartMade['x'], unit: string, panels: ChartMade['panels']): ChartMade => ({
  draw,
  x,
  y: [{ name: 'fare', kind: 'number', unit }],
  panels,
  rows: 30,
  notes: [],
  sentence: 'It shows something.',
  stacked: false,
  logarithmic: false,
});
const panel = (own: Series[], name = '', categories: string[] = []): ChartMade['panels'][number] => ({
  series: own,
  name,
  categories,
});
const wave = (count: number, step: number): number[] =>
  Array.from({ length: count }, (_, at) => 30 + ((at * step) % 17));

const LINE: Chart = {
  draw: 'line', title: '', each: '', x: 'at', y: ['fare'], series: '', period: '', figure: '', logarithmic: false,
  references: [],
}; // prettier-ignore
const BARS: Chart = {
  draw: 'bars', title: '', each: '', x: 'route', y: ['fare'], figure: 'mean', series: '', how: 'beside', order: 'value',
  most: 12, logarithmic: false, references: [],
}; // prettier-ignore
const DAYS: ChartMade['x'] = { name: 'at', kind: 'day', unit: '' };
const NAMES: ChartMade['x'] = { name: 'route', kind: 'category', unit: '' };
const ROUTES = ['Harl Sound – Oxnith', 'Ormsey – Kittle Bay', 'Skerrywick – Tarn Head'];

export const DRAWINGS: Record<string, { made: ChartMade; chart: Chart }> = {
  line: {
    made: made('line', DAYS, 'SKC', [panel([series('', [31, 33, null, 36, 30.5, 34], days(6))])]),
    chart: { ...LINE, references: [{ value: 35, label: 'agreed' }] },
  },
  'lines of unlike length': {
    made: made('line', DAYS, 'SKC', [
      panel(ROUTES.map((name, at) => series(name, wave(20 - 6 * at, 3 + at), days(20 - 6 * at, 2 * at)))),
    ]),
    chart: { ...LINE, series: 'route' },
  },
  bars: {
    made: made('bars', NAMES, 'SKC', [panel([series('', [41.25, 30, 12.5])], '', ROUTES)]),
    chart: BARS,
  },
  'bars on each other': {
    made: { ...made('bars', NAMES, '', [
      panel([series('late', [3, 2, null]), series('on time', [10, 4, 6])], '', ['a', 'b', 'no value']),
    ]), stacked: true },
    chart: { ...BARS, figure: 'rows', series: 'status', how: 'stacked' },
  },
  points: {
    made: made('points', { name: 'delay', kind: 'number', unit: 'min' }, 'SKC', [
      panel([series('a', [30, 35, 41], [0, 5, 9], { size: [1, 4, 9] }), series('b', [22, 28], [3, 30], { size: [2, 2] })]),
    ]),
    chart: {
      draw: 'points', title: '', each: '', x: 'delay', y: 'fare', size: 'cars', series: 'kind', logarithmic: false,
      references: [],
    },
  },
  spread: {
    made: made('spread', { name: 'delay', kind: 'number', unit: 'min' }, '', [
      panel([series('', [12, 30, 7, 0, 2], [0, 5, 10, 15, 20, 25])]),
    ]),
    chart: { draw: 'spread', title: '', each: '', x: 'delay', steps: null, logarithmic: false, references: [] },
  },
  'a line and the date before': {
    made: made('line', DAYS, '%', [
      panel([
        series('late', [20, 24, 18, 30, 27, 29], days(6)),
        series('late', [19, 22, 20, 25, 24, 21], days(6), { then: true }),
      ]),
    ]),
    chart: LINE,
  },
  'bars and the date before': {
    made: made('bars', NAMES, 'SKC', [
      panel([series('', [41.25, 30, 12.5]), series('', [38, 34.5, null], [], { then: true })], '', ROUTES),
    ]),
    chart: BARS,
  },
  'small charts': {
    made: made('line', DAYS, 'min', ROUTES.map((name, at) => panel([series('', wave(9, 2 + at), days(9))], name))),
    chart: { ...LINE, each: 'route' },
  },
  'names that are markup': {
    made: made('bars', NAMES, '', [
      panel([series('', [2, 1])], '', ['<script>alert(1)</script>', `<img src=x onerror=alert(1)> & "${'x'.repeat(300)}`]),
    ]),
    chart: { ...BARS, figure: 'rows' },
  },
}; // prettier-ignore
