import { describe, expect, it } from 'vitest';
import {
  axisOf,
  binsOf,
  lastUpTo,
  apart,
  marksOf,
  missBinsOf,
  missesOf,
  momentText,
  moved,
  nearest,
  showing,
  wholeView,
  xOf,
  zoomed,
  type Mark,
} from '../../src/domain/timeline';

const DAY = 86_400_000;
const START = new Date(2026, 0, 1, 6).getTime();

function marks(count: number, step = DAY, from = START): Mark[] {
  return Array.from({ length: count }, (_, index) => ({
    id: index + 1,
    at: from + index * step,
    rows: 100 + (index % 7),
    state: index % 50 === 49 ? 'incomplete' : 'complete',
    differs: index ? index % 5 : null,
    name: '',
    note: '',
    pinned: false,
  }));
}

describe('the dates of a table', () => {
  it('are read from columns', () => {
    const [one, two] = marksOf({
      ids: [4, 9],
      at: [10, 20],
      rows: [1, 2],
      states: ['complete', 'incomplete'],
      differs: [null, 3],
      labels: { '9': { name: 'Storm', note: '', pinned: true } },
      without_table: [],
    });
    expect(one).toMatchObject({ id: 4, at: 10_000, rows: 1, differs: null, name: '', pinned: false });
    expect(two).toMatchObject({ id: 9, differs: 3, name: 'Storm', pinned: true, state: 'incomplete' });
    const told = { ids: [], at: [], rows: [], states: [], differs: [], labels: {} };
    const without_table = [{ run_id: 3, at: 5, state: 'failed', what: 'No.' }];
    expect(missesOf({ ...told, without_table })).toEqual([
      { run: 3, at: 5000, state: 'failed', what: 'No.' },
    ]);
    expect(momentText(1_000_000)).toBe('1970-01-01T00:16:40Z');
  });

  it('are found by a moment', () => {
    const all = marks(10);
    expect(lastUpTo(all, START - 1)).toBe(-1);
    expect(lastUpTo(all, START)).toBe(0);
    expect(lastUpTo(all, START + 3 * DAY + 1)).toBe(3);
    expect(lastUpTo(all, START + 99 * DAY)).toBe(9);
    expect(nearest(all, START - DAY)).toBe(0);
    expect(nearest(all, START + 2.6 * DAY)).toBe(3);
    expect(nearest([], START)).toBe(-1);
    // Of one second the last one counts.
    expect(lastUpTo([{ at: 5 }, { at: 5 }, { at: 9 }], 5)).toBe(1);
  });
});

describe('bars', () => {
  it.each([1, 3, 30, 3000])('hold each of %i dates once, in order, never too close', (count) => {
    const all = marks(count, DAY / 3);
    const view = wholeView(all);
    const bins = binsOf(all, view, 1000, 6);
    expect(bins.flatMap((bin) => all.slice(bin.first, bin.last + 1).map((one) => one.id))).toEqual(
      all.map((one) => one.id),
    );
    expect(bins.length).toBeLessThanOrEqual(1000 / 6 + 1);
    for (const [at, bin] of bins.entries()) {
      const next = bins[at + 1];
      if (next) expect(next.x - bin.x).toBeGreaterThan(5.999);
      const own = all.slice(bin.first, bin.last + 1);
      expect(bin.most).toBe(Math.max(...own.map((one) => one.rows)));
      expect(bin.doubtful).toBe(own.filter((one) => one.state !== 'complete').length);
    }
  });

  it('are of the dates in sight alone', () => {
    const all = marks(100);
    const view = { from: START + 9.5 * DAY, to: START + 20.5 * DAY };
    const bins = binsOf(all, view, 1000, 6);
    expect([bins[0]?.first, bins.at(-1)?.last]).toEqual([10, 20]);
    expect(bins[0]?.x).toBeCloseTo(xOf(START + 10 * DAY, view, 1000));
  });
});

describe('runs without a snapshot', () => {
  it('are one mark where they stand too close', () => {
    const misses = [0, 1, 2, 50, 200].map((day) => ({
      run: day,
      at: START + day * DAY,
      state: 'failed',
      what: '',
    }));
    const bins = missBinsOf(misses, { from: START, to: START + 100 * DAY }, 1000, 30);
    expect(bins.map((bin) => bin.misses.map((one) => one.run))).toEqual([[0, 1, 2], [50]]);
  });
});

describe('a view', () => {
  const whole = wholeView(marks(100));

  it('zooms around a moment that stays where it is', () => {
    const around = START + 40 * DAY;
    const near = zoomed(whole, whole, 0.25, around);
    expect(near.to - near.from).toBeCloseTo((whole.to - whole.from) / 4);
    expect(xOf(around, near, 1)).toBeCloseTo(xOf(around, whole, 1));
    expect(zoomed(near, whole, 100, around)).toEqual(whole);
    const closest = zoomed(whole, whole, 1e-9, around);
    expect(closest.to - closest.from).toBe(600_000);
  });

  it('stays within all dates, and follows a date', () => {
    const near = zoomed(whole, whole, 0.1, whole.from);
    expect(moved(near, whole, -1e12).from).toBe(whole.from);
    expect(moved(near, whole, 1e12).to).toBeCloseTo(whole.to);
    const late = START + 80 * DAY;
    const seen = showing(near, whole, late);
    expect(seen.from < late && late < seen.to).toBe(true);
    expect(showing(seen, whole, late)).toBe(seen);
  });

  it('shows two dates apart that stand beside each other among many', () => {
    const near = apart(whole, 1000, START + 50 * DAY, START + 50.2 * DAY, 20);
    expect(near && xOf(START + 50.2 * DAY, near, 1000) - xOf(START + 50 * DAY, near, 1000)).toBeCloseTo(100);
    expect(apart(whole, 1000, START, START + 50 * DAY, 20)).toBeNull();
    const last = apart(whole, 1000, START + 98.8 * DAY, START + 99 * DAY, 20);
    expect(last && last.to).toBeGreaterThan(START + 99 * DAY);
  });

  it('of one date, and of none, has a length', () => {
    const one = wholeView(marks(1));
    expect(one.to).toBeGreaterThan(one.from);
    expect(wholeView([]).to).toBeGreaterThan(wholeView([]).from);
  });
});

describe('the axis', () => {
  it.each([
    [DAY / 4, 1200],
    [3 * DAY, 1200],
    [30 * DAY, 1200],
    [30 * DAY, 330],
    [400 * DAY, 1200],
    [400 * DAY, 330],
    [4000 * DAY, 330],
    [20_000 * DAY, 1200],
  ])('never lays labels on each other (%d ms on %d px)', (length, width) => {
    const { small, large } = axisOf({ from: START, to: START + length }, width);
    expect(small.length).toBeGreaterThan(0);
    for (const [line, letter] of [
      [small, 6],
      [large, 6.2],
    ] as const) {
      for (const [at, tick] of line.entries()) {
        const next = line[at + 1];
        if (next) expect(next.x - tick.x).toBeGreaterThan(tick.label.length * letter);
      }
    }
  });

  it('names what the left edge lies in', () => {
    expect(axisOf({ from: START, to: START + 10 * DAY }, 1200).large[0]?.label).toMatch(/^January/);
  });
});
