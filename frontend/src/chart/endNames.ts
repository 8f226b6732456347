/** The names of lines, where these end. */
import type { EChartsCoreOption } from 'echarts/core';
import type { ChartMade } from '../api/client';
import { FONT, type Look } from './look';
import type { Size } from './types';
import { cut } from './words';

export const MOST_NAMED = 22;

/** Whether lines are named where they end, and not in a legend. */
export const namedAtEnds = (made: ChartMade): boolean =>
  made.draw === 'line' &&
  made.panels.length === 1 &&
  made.y.length === 1 &&
  (made.panels[0]?.series.filter((one) => !one.then).length ?? 0) > 1;

/** What tells where a value stands in the drawing. */
interface Placing {
  convertToPixel: (finder: { xAxisIndex: number } | { yAxisIndex: number }, value: number) => unknown;
}

/** The names of the lines at the right of them, none over another; to be added when the drawing is laid out. */
export function endNames(drawn: Placing, made: ChartMade, look: Look, size: Size): EChartsCoreOption {
  if (!namedAtEnds(made)) return { graphic: { elements: [] } };
  const series = (made.panels[0]?.series ?? []).filter((one) => !one.then);
  const ends = series.flatMap((own, order) => {
    const at = own.y.findLastIndex((value) => value !== null);
    if (at < 0) return [];
    const x = Number(drawn.convertToPixel({ xAxisIndex: 0 }, own.x[at] ?? 0));
    const y = Number(drawn.convertToPixel({ yAxisIndex: 0 }, own.y[at] ?? 0));
    return [{ name: own.name, color: look.series[order % look.series.length] ?? look.ink, x, y, label: y }];
  });
  const left = Math.max(...ends.map((one) => one.x)) + 16;
  const line = 15;
  ends.sort((a, b) => a.y - b.y);
  // Each at least a line below the one before; then as far up again as the foot of the drawing asks for.
  ends.forEach((one, at) => {
    const before = ends[at - 1];
    if (before) one.label = Math.max(one.label, before.label + line);
  });
  let foot = size.height - 30;
  for (const one of [...ends].reverse()) {
    one.label = Math.min(one.label, foot);
    foot = one.label - line;
  }
  return {
    graphic: {
      elements: ends.flatMap((one) => [
        {
          type: 'polyline',
          silent: true,
          shape: {
            points: [
              [one.x + 3, one.y],
              [left - 8, one.label],
              [left - 3, one.label],
            ],
          },
          style: { stroke: one.color, lineWidth: 0.8, fill: 'none', opacity: 0.6 },
        },
        {
          type: 'text',
          silent: true,
          style: {
            text: cut(one.name, MOST_NAMED),
            x: left,
            y: one.label,
            fill: one.color,
            font: `600 12px ${FONT}`,
            verticalAlign: 'middle',
          },
        },
      ]),
    },
  };
}
