/** A chart as ECharts takes it. Nothing in it moves by itself, so that a picture of it is always the same. */
import type { EChartsCoreOption } from 'echarts/core';
import type { Chart, ChartMade } from '../api/client';
import { numberText } from '../domain/words/format';
import { dashOf, FONT, shapeOf, type Look } from './look';
import { cut, placeText, valueText } from './words';

type Panel = ChartMade['panels'][number];
type Series = Panel['series'][number];
type Entry = Record<string, unknown>;

export interface Size {
  width: number;
  height: number;
}

const CHARACTER = 6.5;
const MOST_NAMED = 22;
const MOST_VALUES = 30;
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
  if (names.every((name) => /^\d{4}(-\d\d){0,2}/.test(name))) return false;
  return names.length > 8 || names.some((name) => name.length > 10);
}

const isLog = (made: ChartMade, chart: Chart): boolean =>
  'logarithmic' in chart &&
  !!chart.logarithmic &&
  made.panels.every((panel) => panel.series.every((one) => one.y.every((y) => y === null || y > 0)));

/** Whether lines are named where they end, and not in a legend. */
const namedAtEnds = (made: ChartMade): boolean =>
  made.draw === 'line' &&
  made.panels.length === 1 &&
  made.y.length === 1 &&
  (made.panels[0]?.series.length ?? 0) > 1;

/** What tells where a value stands in the drawing. */
interface Placing {
  convertToPixel: (finder: { xAxisIndex: number } | { yAxisIndex: number }, value: number) => unknown;
}

/** The names of the lines at the right of them, none over another; to be added when the drawing is laid out. */
export function endNames(drawn: Placing, made: ChartMade, look: Look, size: Size): EChartsCoreOption {
  if (!namedAtEnds(made)) return { graphic: { elements: [] } };
  const series = made.panels[0]?.series ?? [];
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
      valueAxis(axis, look, text, at, isLog(made, chart), number > 0, shared?.[number], lying),
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
        ...marksOf(made, chart, panel, own, {
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
    backgroundColor: 'transparent',
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
      // An element, not a text: what stands in a table is never read as markup.
      formatter: (found: Pointed | Pointed[]) => tipOf(made, Array.isArray(found) ? found : [found]),
    },
  };
}

/** The lowest and the highest of each value axis over all panels: small charts are held against each other. */
function extent(made: ChartMade): [number, number][] {
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

function firstAxis(made: ChartMade, panel: Panel, look: Look, text: Entry, at: number, width: number): Entry {
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

function valueAxis(
  axis: ChartMade['y'][number],
  look: Look,
  text: Entry,
  at: number,
  log: boolean,
  atRight: boolean,
  range: [number, number] | undefined,
  lying: boolean,
): Entry {
  const [low, high] = range ?? [NaN, NaN];
  return {
    type: log ? 'log' : 'value',
    gridIndex: at,
    ...(atRight ? { position: 'right' } : {}),
    ...(Number.isFinite(low) && low < high && !log
      ? { min: niceLow(low, high), max: niceHigh(low, high) }
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

interface How {
  look: Look;
  color: string;
  /** Which of the chart's series it is. */
  order: number;
  one: boolean;
  lying: boolean;
}

function marksOf(made: ChartMade, chart: Chart, panel: Panel, own: Series, how: How): Entry {
  const { look, color, order } = how;
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
      const most = Math.max(
        1,
        ...made.panels.flatMap((one) => one.series.flatMap((each) => each.size ?? [])),
      );
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
        panel.series.length === 1 && own.y.length <= MOST_VALUES && how.one && made.draw === 'bars';
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

/** The lowest and the highest of all, and the last of a single line, with their names. */
function edges(made: ChartMade, own: Series, how: How): Entry {
  if (!how.one || made.y.length > 1) return {};
  const all = made.panels.flatMap((panel) => panel.series);
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

function referencesOf(chart: Chart, look: Look, text: Entry, lying: boolean): Entry {
  const lines = 'references' in chart ? (chart.references ?? []) : [];
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
          ...(lying ? { position: 'end', rotate: 0 } : { position: 'insideStartTop' }),
          formatter: one.label ? `${cut(one.label, 40)} ${numberText(one.value)}` : numberText(one.value),
        },
      })),
    },
  };
}

interface Pointed {
  seriesIndex: number;
  dataIndex: number;
  color: string;
}

/** Which panel, and which of its series, a series of the option is. */
export function seriesAt(made: ChartMade, number: number): { panel: number; series: number } {
  let rest = number;
  for (const [panel, own] of made.panels.entries()) {
    if (rest < own.series.length) return { panel, series: rest };
    rest -= own.series.length;
  }
  return { panel: 0, series: 0 };
}

function tipOf(made: ChartMade, found: Pointed[]): HTMLElement {
  const box = document.createElement('div');
  const line = (words: string, bold = false, color = ''): void => {
    const row = box.appendChild(document.createElement('div'));
    if (color) {
      const dot = row.appendChild(document.createElement('span'));
      dot.style.cssText = `display:inline-block;width:9px;height:9px;margin-right:6px;border-radius:2px;background:${color}`;
    }
    row.append(words);
    if (bold) row.style.fontWeight = '600';
  };
  const told = found.filter((one) => {
    const { panel, series } = seriesAt(made, one.seriesIndex);
    return made.panels[panel]?.series[series]?.y[one.dataIndex] != null;
  });
  told.slice(0, 14).forEach((one, at) => {
    const { panel, series } = seriesAt(made, one.seriesIndex);
    const own = made.panels[panel]?.series[series];
    if (!own) return;
    if (!at)
      line(
        [made.panels[panel]?.name, placeText(made, panel, series, one.dataIndex)].filter(Boolean).join(' · '),
        true,
      );
    const axis = made.y[own.axis] ?? made.y[0];
    const value = own.y[one.dataIndex];
    if (axis && value != null)
      line(`${cut(own.name || axis.name, 40)}  ${valueText(value, axis)}`, false, one.color);
    const size = own.size?.[one.dataIndex];
    if (size != null) line(`size ${numberText(size)}`);
  });
  if (told.length > 14) line(`and ${told.length - 14} more`);
  return box;
}
