/** The lines, bars and points of a chart, and what is named among them. */
import type { Chart, ChartMade } from '../api/client';
import { numberText } from '../domain/words/format';
import { dashOf, FONT, shapeOf, type Look } from './look';
import type { Entry, Panel, Series } from './types';
import { cut, valueText } from './words';

const MOST_VALUES = 30;

interface How {
  look: Look;
  color: string;
  /** Which of the chart's series it is. */
  order: number;
  one: boolean;
  lying: boolean;
}

export function marksOf(made: ChartMade, panel: Panel, own: Series, how: How): Entry {
  const { look, color, order } = how;
  if (own.then) return thenMarks(made, own, how);
  switch (made.draw) {
    case 'line':
      return {
        type: 'line',
        data: own.x.map((x, at) => [x, own.y[at] ?? null]),
        showSymbol: own.points < 40,
        symbol: shapeOf(order),
        symbolSize: 5,
        lineStyle: { color, width: order === 0 ? 2.4 : 1.8, type: dashOf(order) },
        itemStyle: { color },
        emphasis: { disabled: true },
        ...edges(made, own, how),
      };
    case 'points': {
      const sizes = made.panels.flatMap((one) => one.series.flatMap((each) => each.size ?? []));
      const most = sizes.reduce((largest, size) => Math.max(largest, size), 1);
      return {
        type: 'scatter',
        data: own.x.map((x, at) => [x, own.y[at] ?? null, own.size?.[at] ?? 0]),
        symbol: shapeOf(order),
        symbolSize: own.size
          ? (value: number[]) => 4 + 24 * Math.sqrt(Math.max(0, value[2] ?? 0) / most)
          : own.points > 2_000
            ? 3.5
            : 7,
        itemStyle: { color, opacity: own.points > 300 || own.size ? 0.6 : 0.85 },
        emphasis: { disabled: true },
      };
    }
    default: {
      const digits = own.y.every((value) => value === null || Number.isInteger(value)) ? 0 : 2;
      const stacked = made.stacked && panel.series.length > 1;
      const labelled =
        panel.series.filter((one) => !one.then).length === 1 &&
        own.y.length <= MOST_VALUES &&
        how.one &&
        made.draw === 'bars';
      return {
        type: 'bar',
        data: own.y,
        ...(stacked ? { stack: 'all' } : {}),
        ...(made.draw === 'spread' ? { barCategoryGap: '6%' } : { barMaxWidth: 34 }),
        itemStyle: {
          color,
          borderColor: look.paper,
          borderWidth: stacked ? 0.6 : 0,
        },
        emphasis: { disabled: true },
        ...(labelled
          ? {
              label: {
                show: true,
                position: how.lying ? 'right' : 'top',
                color: look.ink,
                fontFamily: FONT,
                fontSize: 12,
                formatter: ({ value }: { value: number | null }) =>
                  value === null ? '' : numberText(value, digits),
              },
              labelLayout: { hideOverlap: true },
            }
          : {}),
      };
    }
  }
}

/** What was drawn on another date: a thin line under that of now, or a mark across a bar. */
function thenMarks(made: ChartMade, own: Series, how: How): Entry {
  const { color } = how;
  if (made.draw === 'line')
    return {
      type: 'line',
      data: own.x.map((x, at) => [x, own.y[at] ?? null]),
      showSymbol: false,
      z: 1,
      lineStyle: { color, width: 0.9, opacity: 0.75 },
      itemStyle: { color, opacity: 0.5 },
      emphasis: { disabled: true },
    };
  const at = (value: number | null, index: number): (number | null)[] =>
    how.lying ? [value, index] : [index, value];
  return {
    type: 'scatter',
    data: own.y.map(at),
    z: 5,
    symbol: 'rect',
    symbolSize: how.lying ? [3.5, 26] : [26, 3.5],
    itemStyle: { color: how.look.ink, borderColor: how.look.paper, borderWidth: 1 },
    emphasis: { disabled: true },
  };
}

/** The lowest and the highest of all, and the last of a single line, with their names. */
function edges(made: ChartMade, own: Series, how: How): Entry {
  if (!how.one || made.y.length > 1) return {};
  const all = made.panels.flatMap((panel) => panel.series.filter((one) => !one.then));
  const low = least(all, 1);
  const high = least(all, -1);
  const axis = made.y[0] ?? { name: '', unit: '', kind: 'number' };
  const mark = (at: number, words: string, position: string): Entry => ({
    coord: [own.x[at], own.y[at]],
    symbol: 'circle',
    symbolSize: 8,
    itemStyle: { color: how.color, borderColor: how.look.paper, borderWidth: 1.5 },
    label: {
      show: true,
      position,
      // At the edges it goes inward.
      ...(at === 0
        ? { align: 'left' }
        : at === own.x.length - 1 && position !== 'right'
          ? { align: 'right' }
          : {}),
      formatter: words,
      color: how.look.ink,
      fontFamily: FONT,
      fontSize: 12,
      textBorderColor: how.look.paper,
      textBorderWidth: 2,
    },
  });
  const marks: Entry[] = [];
  if (high && high.series === own && high.value !== low?.value)
    marks.push(mark(high.at, `highest ${valueText(high.value, axis)}`, 'top'));
  if (low && low.series === own && high?.value !== low.value)
    marks.push(
      mark(
        low.at,
        `lowest ${valueText(low.value, axis)}`,
        nearFoot(low.value, high?.value ?? 0) ? 'top' : 'bottom',
      ),
    );
  const last = own.y.findLastIndex((value) => value !== null);
  if (all.length === 1 && last >= 0 && ![high?.at, low?.at].includes(last))
    marks.push(mark(last, `last ${valueText(own.y[last] ?? 0, axis)}`, 'right'));
  return marks.length ? { markPoint: { silent: true, data: marks, animation: false } } : {};
}

/** Whether a lowest value stands so low that its name would lie on the axis. */
const nearFoot = (low: number, high: number): boolean => low >= 0 && low < high * 0.06;

function least(all: Series[], sign: 1 | -1): { series: Series; at: number; value: number } | null {
  let found: { series: Series; at: number; value: number } | null = null;
  for (const series of all)
    series.y.forEach((value, at) => {
      if (value !== null && (!found || sign * value < sign * found.value)) found = { series, at, value };
    });
  return found;
}

/** The lines that a chart is held against. */
export const linesOf = (chart: Chart): { value: number; label: string }[] =>
  'references' in chart ? (chart.references ?? []) : [];

export function referencesOf(chart: Chart, look: Look, text: Entry, lying: boolean): Entry {
  const lines = linesOf(chart);
  if (!lines.length) return {};
  return {
    markLine: {
      silent: true,
      symbol: 'none',
      animation: false,
      lineStyle: { color: look.muted, type: [4, 4], width: 1.2 },
      data: lines.map((one) => ({
        [lying ? 'xAxis' : 'yAxis']: one.value,
        label: {
          ...text,
          color: look.ink,
          ...(lying ? { position: 'start', rotate: 0, align: 'right' } : { position: 'insideStartTop' }),
          formatter: one.label ? `${cut(one.label, 40)} ${numberText(one.value)}` : numberText(one.value),
        },
      })),
    },
  };
}
