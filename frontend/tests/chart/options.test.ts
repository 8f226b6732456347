import { expect, test } from 'vitest';
import { echarts } from '../../src/chart/echarts';
import { lookOf } from '../../src/chart/look';
import { endNames } from '../../src/chart/endNames';
import { gridOf, optionOf } from '../../src/chart/options';
import { seriesAt } from '../../src/chart/tip';
import { DRAWINGS } from './made';

const SIZE = { width: 760, height: 340 };

function drawn(name: string, dark = false) {
  const { made, chart } = DRAWINGS[name]!;
  const size = { ...SIZE, height: gridOf(made.panels.length, SIZE.width, SIZE.height).height };
  const own = echarts.init(null, null, { renderer: 'svg', ssr: true, ...size });
  own.setOption(optionOf(made, chart, lookOf(dark), size));
  own.setOption(endNames(own, made, lookOf(dark), size));
  return own;
}

/** Without what counts up from drawing to drawing. */
const plain = (svg: string): string =>
  svg
    .replace(/zr\d+-/g, 'zr-')
    .replace(/></g, '>\n<')
    .replace(/\s+$/gm, '') + '\n';

test.each(Object.keys(DRAWINGS))('the picture of %s is the one that was looked at', async (name) => {
  const svg = plain(drawn(name).renderToSVGString());
  await expect(svg).toMatchFileSnapshot(`golden/${name.replaceAll(' ', '-')}.svg`);
});

test('what stands in a table is never markup in a picture', () => {
  const svg = drawn('names that are markup').renderToSVGString();
  expect(svg).not.toContain('<script');
  expect(svg).not.toContain('<img');
  expect(svg).toContain('&lt;script&gt;');
});

test('days stand at equal distances, whatever a clock does between them', () => {
  const { made, chart } = DRAWINGS['lines of unlike length']!;
  const own = echarts.init(null, null, { renderer: 'svg', ssr: true, ...SIZE });
  own.setOption(optionOf(made, chart, lookOf(false), SIZE));
  const places = made.panels[0]!.series[0]!.x.map((x) => Number(own.convertToPixel({ xAxisIndex: 0 }, x)));
  const steps = places.slice(1).map((place, at) => place - places[at]!);
  for (const step of steps) expect(step).toBeCloseTo(steps[0]!, 6);
});

test('the names of lines never lie on each other', () => {
  const { made } = DRAWINGS['lines of unlike length']!;
  const series = Array.from({ length: 9 }, (_, at) => ({
    ...made.panels[0]!.series[0]!,
    name: `line ${at}`,
  }));
  const nine = { ...made, panels: [{ ...made.panels[0]!, series }] };
  const own = drawn('lines of unlike length');
  const graphic = endNames(own, nine, lookOf(false), SIZE).graphic as {
    elements: { type: string; style: { y: number } }[];
  };
  const places = graphic.elements.filter((one) => one.type === 'text').map((one) => one.style.y);
  expect(places.length).toBe(9);
  const sorted = [...places].sort((a, b) => a - b);
  sorted.slice(1).forEach((place, at) => expect(place - sorted[at]!).toBeGreaterThanOrEqual(14.9));
  expect(Math.max(...places)).toBeLessThanOrEqual(SIZE.height);
});

test('a series of the option leads to its panel', () => {
  const { made } = DRAWINGS['small charts']!;
  expect(seriesAt(made, 0)).toEqual({ panel: 0, series: 0 });
  expect(seriesAt(made, 2)).toEqual({ panel: 2, series: 0 });
});

test('small charts are held against each other on one scale', () => {
  const { made, chart } = DRAWINGS['small charts']!;
  const option = optionOf(made, chart, lookOf(false), SIZE) as { yAxis: { min?: number; max?: number }[] };
  expect(new Set(option.yAxis.map((one) => `${one.min} ${one.max}`)).size).toBe(1);
  expect(option.yAxis[0]!.max).toBeGreaterThanOrEqual(46);
});

test.each(['line', 'lines of unlike length', 'bars', 'bars on each other', 'small charts'])(
  'a line that %s is held against is in the picture, however far it lies',
  (name) => {
    const { made, chart } = DRAWINGS[name]!;
    for (const value of [400, -250]) {
      const held = { ...chart, references: [{ value, label: 'agreed' }] } as typeof chart;
      const size = { ...SIZE, height: gridOf(made.panels.length, SIZE.width, SIZE.height).height };
      const own = echarts.init(null, null, { renderer: 'svg', ssr: true, ...size });
      const option = optionOf(made, held, lookOf(false), size);
      own.setOption(option);
      const lying = (option.xAxis as { type: string }[])[0]!.type === 'value' && made.x.kind === 'category';
      const place = own.convertToPixel(lying ? { xAxisIndex: 0 } : { yAxisIndex: 0 }, value);
      expect(Number(place)).toBeGreaterThanOrEqual(0);
      expect(Number(place)).toBeLessThanOrEqual(lying ? size.width : size.height);
      expect(own.renderToSVGString()).toContain('agreed');
    }
  },
);

test('a line below the values of a logarithmic axis is reached too, and one at nothing is not asked for', () => {
  const { made, chart } = DRAWINGS['line']!;
  for (const [value, there] of [
    [0.5, true],
    [0, false],
  ] as const) {
    const held = { ...chart, logarithmic: true, references: [{ value, label: 'agreed' }] } as typeof chart;
    const own = echarts.init(null, null, { renderer: 'svg', ssr: true, ...SIZE });
    own.setOption(optionOf({ ...made, logarithmic: true }, held, lookOf(false), SIZE));
    if (there) expect(Number(own.convertToPixel({ yAxisIndex: 0 }, value))).toBeLessThanOrEqual(SIZE.height);
    expect(own.renderToSVGString().includes('agreed')).toBe(there);
  }
});
