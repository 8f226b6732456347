/** What marks of a chart say. */
import type { Chart, ChartMade } from '../api/client';
import { choices, entryOf } from '../domain/choices';
import { numberText } from '../domain/words/format';
import { figureWords } from '../history/figures';

/** What a chart is called: its title, or what it is drawn of. */
export function chartName(chart: Chart): string {
  if (chart.title) return chart.title;
  const label = entryOf(choices().charts, chart.draw).label;
  const column = 'y' in chart ? [chart.y].flat().filter(Boolean).join(', ') : '';
  const figure = 'figure' in chart ? (chart.figure ?? '') : '';
  const what = figure ? figureWords(figure, column) : column;
  const along = 'x' in chart ? (chart.x ?? '') : '';
  const by = 'series' in chart && chart.series ? `, by ${chart.series}` : '';
  return `${label}: ${[what, along].filter(Boolean).join(' by ')}${by}`;
}

type Axis = ChartMade['x'];

/** A place along the first axis, in words. */
export function placeText(made: ChartMade, panel: number, series: number, index: number): string {
  const own = made.panels[panel];
  const one = own?.series[series];
  if (made.x.kind === 'category') return own?.categories[index] ?? '';
  if (made.draw === 'spread')
    return `${numberText(one?.x[index] ?? 0)} to ${valueText(one?.x[index + 1] ?? 0, made.x)}`;
  return alongText(one?.x[index] ?? 0, made.x);
}

export function alongText(value: number, axis: Axis): string {
  if (axis.kind === 'number') return valueText(value, axis);
  const day = axis.kind === 'day';
  const moment = new Date(value);
  const hasClock = !day && (moment.getHours() || moment.getMinutes());
  return moment.toLocaleString('en-GB', {
    ...(day ? { timeZone: 'UTC' } : {}),
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    ...(hasClock ? { hour: '2-digit', minute: '2-digit' } : {}),
  });
}

export function valueText(value: number, axis: Axis): string {
  return `${numberText(value)}${axis.unit ? ` ${axis.unit}` : ''}`;
}

/** A text of at most so many characters. */
export const cut = (text: string, most: number): string =>
  text.length > most ? `${text.slice(0, most - 1).trimEnd()}…` : text;
