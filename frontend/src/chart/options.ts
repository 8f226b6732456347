/** A chart as ECharts takes it. Nothing in it moves by itself, so that a picture of it is always the same. */
import type { EChartsCoreOption } from 'echarts/core';
import type { Chart, ChartMade } from '../api/client';
import { extent, firstAxis, valueAxis } from './axes';
import { MOST_NAMED, namedAtEnds } from './endNames';
import { FONT, type Look } from './look';
import { linesOf, marksOf, referencesOf } from './marks';
import { tipOf, type Pointed } from './tip';
import type { Entry, Size } from './types';
import { cut } from './words';

const CHARACTER = 6.5;
/** The narrowest of small charts. */
const NARROWEST = 250;

/** Where the panels stand: how many beside each other, and how high all are together. */
export function gridOf(panels: number, width: number, height: number): { columns: number; height: number } {
  if (panels <= 1) return { columns: 1, height };
  const columns = Math.max(1, Math.min(panels, Math.floor(width / NARROWEST)));
  return { columns, height: Math.ceil(panels / columns) * 190 };
}

/** Whether bars lie: names are read then without turning the head. */
export function lies(made: ChartMade): boolean {
  if (made.draw !== 'bars') return false;
  const names = made.panels.flatMap((panel) => panel.categories);
  if (names.every((name) => /^(\d{4}(-\d\d){0,2}|[A-Z][a-z]{2} \d{1,2} [A-Z][a-z]{2})/.test(name)))
    return false;
  return names.length > 8 || names.some((name) => name.length > 10);
}

export function optionOf(made: ChartMade, chart: Chart, look: Look, size: Size): EChartsCoreOption {
  const names = [...new Set(made.panels.flatMap((panel) => panel.series.map((one) => one.name)))];
  const several = names.length > 1;
  const one = made.panels.length === 1;
  const atEnds = namedAtEnds(made);
  const legend = several && !atEnds;
  const { columns } = gridOf(made.panels.length, size.width, size.height);
  const text = { color: look.muted, fontFamily: FONT, fontSize: 12 };
  const lying = lies(made);
  // Room for what stands behind the last point.
  const longest = Math.max(0, ...names.map((name) => cut(name, MOST_NAMED).length));
  const right = atEnds ? 26 + longest * CHARACTER : made.draw === 'line' && one && !several ? 104 : 18;
  const shared = one ? undefined : extent(made);
  const lines = linesOf(chart);

  const grid: Entry[] = [];
  const xAxis: Entry[] = [];
  const yAxis: Entry[] = [];
  const title: Entry[] = [];
  const series: Entry[] = [];
  const rows = Math.ceil(made.panels.length / columns);
  const top = legend ? 40 : 10;
  const cell = { width: size.width / columns, height: (size.height - top) / rows };
  made.panels.forEach((panel, at) => {
    const [column, row] = [at % columns, Math.floor(at / columns)];
    const left = column * cell.width;
    const head = top + row * cell.height;
    grid.push({
      left: left + 10,
      top: head + (one ? 18 : 42),
      width: cell.width - 10 - (one ? right : 14),
      height: cell.height - (one ? 26 : 52) - (lying && made.y[0]?.unit ? 16 : 0),
      outerBoundsMode: 'same',
      outerBoundsContain: 'axisLabel',
    });
    if (!one)
      title.push({
        text: cut(panel.name, Math.floor(cell.width / 7)),
        left: left + 10,
        top: head + 2,
        textStyle: { ...text, color: look.ink, fontWeight: 'bold', fontSize: 12.5 },
      });
    const along = firstAxis(made, panel, look, text, at, cell.width);
    const values = made.y.map((axis, number) =>
      valueAxis(
        axis,
        look,
        text,
        at,
        made.logarithmic,
        number > 0,
        shared?.[number],
        lying,
        number ? [] : lines.map((line) => line.value),
      ),
    );
    if (lying) {
      yAxis.push({ ...along, inverse: true });
      xAxis.push(...values);
    } else {
      xAxis.push(along);
      yAxis.push(...values);
    }
    panel.series.forEach((own, index) => {
      const color = look.series[names.indexOf(own.name) % look.series.length] ?? look.ink;
      const number = at * made.y.length + own.axis;
      const place = lying ? { xAxisIndex: number, yAxisIndex: at } : { xAxisIndex: at, yAxisIndex: number };
      series.push({
        name: own.name || (made.y[own.axis]?.name ?? ''),
        ...place,
        ...marksOf(made, panel, own, {
          look,
          color,
          order: names.indexOf(own.name),
          one,
          lying,
        }),
        ...(index === 0 ? referencesOf(chart, look, text, lying) : {}),
      });
    });
  });
  return {
    animation: false,
    useUTC: made.x.kind === 'day',
    backgroundColor: look.paper,
    textStyle: { fontFamily: FONT },
    grid,
    xAxis,
    yAxis,
    title,
    series,
    ...(legend
      ? {
          legend: {
            type: 'plain',
            top: 0,
            left: 10,
            right: 10,
            itemWidth: made.draw === 'points' ? 11 : 22,
            itemHeight: 9,
            itemGap: 14,
            selectedMode: false,
            data: names.map((name) => name || (made.y[0]?.name ?? '')),
            formatter: (name: string) => cut(name, 30),
            textStyle: { ...text, color: look.ink },
          },
        }
      : {}),
    tooltip: {
      trigger: made.draw === 'line' ? 'axis' : 'item',
      confine: true,
      transitionDuration: 0,
      backgroundColor: look.paper,
      borderColor: look.faint,
      padding: [6, 9],
      textStyle: { color: look.ink, fontFamily: FONT, fontSize: 12.5 },
      axisPointer: { type: 'line', lineStyle: { color: look.faint } },
      formatter: (found: Pointed | Pointed[]) => tipOf(made, Array.isArray(found) ? found : [found]),
    },
  };
}
