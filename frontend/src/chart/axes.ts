/** The axes of a chart. */
import type { ChartMade } from '../api/client';
import { numberText } from '../domain/words/format';
import type { Look } from './look';
import type { Entry, Panel } from './types';
import { cut } from './words';

/** The lowest and the highest of each value axis over all panels: small charts are held against each other. */
export function extent(made: ChartMade): [number, number][] {
  return made.y.map((_, number) => {
    const stacked = made.stacked && made.panels.some((panel) => panel.series.length > 1);
    const values = made.panels.flatMap((panel) =>
      panel.series.filter((one) => one.axis === number).flatMap((one) => one.y),
    );
    const known = values.filter((value): value is number => value !== null);
    if (!known.length || stacked) return [NaN, NaN];
    const low = known.reduce((least, value) => Math.min(least, value), Infinity);
    const high = known.reduce((most, value) => Math.max(most, value), -Infinity);
    return made.draw === 'line' ? [low, high] : [Math.min(0, low), Math.max(0, high)];
  });
}

export function firstAxis(
  made: ChartMade,
  panel: Panel,
  look: Look,
  text: Entry,
  at: number,
  width: number,
): Entry {
  const lineStyle = { show: true, lineStyle: { color: look.faint } };
  const common = {
    gridIndex: at,
    axisLine: lineStyle,
    axisTick: { show: made.x.kind !== 'category', lineStyle: { color: look.faint } },
    splitLine: { show: false },
    axisLabel: { ...text, hideOverlap: true } as Entry,
  };
  if (made.x.kind === 'category')
    return {
      ...common,
      type: 'category',
      data: panel.categories,
      axisLabel: { ...common.axisLabel, formatter: (name: string) => cut(name, 26) },
    };
  if (made.draw === 'spread') {
    const edges = panel.series[0]?.x ?? [];
    return {
      ...common,
      type: 'category',
      data: edges.slice(0, -1).map(String),
      axisLabel: {
        ...common.axisLabel,
        formatter: (_: string, index: number) =>
          edges.length > 14
            ? numberText(edges[index] ?? 0)
            : `${numberText(edges[index] ?? 0)} – ${numberText(edges[index + 1] ?? 0)}`,
      },
    };
  }
  if (made.x.kind === 'number')
    return {
      ...common,
      type: 'value',
      scale: true,
      axisLabel: { ...common.axisLabel, formatter: (value: number) => numberText(value) },
      splitNumber: Math.max(2, Math.round(width / 130)),
    };
  return {
    ...common,
    type: 'time',
    splitNumber: Math.max(2, Math.round(width / 120)),
    axisLabel: {
      ...common.axisLabel,
      formatter: {
        year: '{yyyy}',
        month: '{MMM}',
        day: '{d} {MMM}',
        hour: '{HH}:{mm}',
        minute: '{HH}:{mm}',
        second: '{HH}:{mm}:{ss}',
        millisecond: '{HH}:{mm}:{ss}',
      },
    },
  };
}

export function valueAxis(
  axis: ChartMade['y'][number],
  look: Look,
  text: Entry,
  at: number,
  log: boolean,
  atRight: boolean,
  range: [number, number] | undefined,
  lying: boolean,
  lines: number[],
): Entry {
  const held = lines.filter((value) => !log || value > 0);
  const [low, high] = range ? [Math.min(range[0], ...held), Math.max(range[1], ...held)] : [NaN, NaN];
  return {
    type: log ? 'log' : 'value',
    gridIndex: at,
    ...(atRight ? { position: 'right' } : {}),
    ...(Number.isFinite(low) && low < high && !log
      ? { min: niceLow(low, high), max: niceHigh(low, high) }
      : held.length
        ? reaching(held, log)
        : {}),
    name: axis.unit,
    ...(lying
      ? { nameLocation: 'middle', nameGap: 24, nameTextStyle: text }
      : { nameLocation: 'end', nameGap: 8, nameTextStyle: { ...text, align: atRight ? 'right' : 'left' } }),
    axisLine: { show: false },
    axisTick: { show: false },
    splitLine: { show: !atRight, lineStyle: { color: look.line } },
    axisLabel: { ...text, hideOverlap: true, formatter: (value: number) => numberText(value) },
  };
}

/** The ends of an axis that reaches lines that lie beyond the values; any other end is left to suit the values. */
function reaching(lines: number[], log: boolean): Entry {
  const [first, last] = [Math.min(...lines), Math.max(...lines)];
  return {
    min: (values: { min: number; max: number }) => {
      if (first >= (log ? values.min : Math.min(0, values.min))) return null;
      return log ? first : niceLow(first, Math.max(0, values.max));
    },
    max: (values: { min: number; max: number }) => {
      if (last <= (log ? values.max : Math.max(0, values.max))) return null;
      if (log) return last;
      // The line's name stands above it.
      const low = Math.min(0, values.min);
      return niceHigh(low, last + (last - low) / 20);
    },
  };
}

/** A round step, 1, 2 or 5 times a power of ten, of which there are four to nine between two values. */
function stepOf(low: number, high: number): number {
  const power = 10 ** Math.floor(Math.log10((high - low) / 4));
  const lead = (high - low) / 4 / power;
  return (lead >= 5 ? 5 : lead >= 2 ? 2 : 1) * power;
}
const niceLow = (low: number, high: number): number =>
  Math.floor(low / stepOf(low, high)) * stepOf(low, high);
const niceHigh = (low: number, high: number): number =>
  Math.ceil(high / stepOf(low, high)) * stepOf(low, high);
