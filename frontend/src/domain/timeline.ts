/** The dates of a table on a line: which stand where, which are drawn together, and what the axis says. */
import type { Timeline } from '../api/client';
import { dated, day, dayWords } from './words/format';

/** A date of a table. */
export interface Mark {
  id: number;
  /** Milliseconds since 1970. */
  at: number;
  rows: number;
  state: string;
  /** Rows that differ from the date before; `null` where the two are not compared. */
  differs: number | null;
  name: string;
  note: string;
  pinned: boolean;
}

/** A run that left no snapshot. */
export interface Miss {
  run: number;
  at: number;
  state: string;
  what: string;
}

/** What part of the line is in sight, in milliseconds since 1970. */
export interface View {
  from: number;
  to: number;
}

/** Dates that are drawn as one bar, because they stand too close. Indices of the first and the last of them. */
export interface Bin {
  x: number;
  first: number;
  last: number;
  most: number;
  differs: number;
  /** How many of them are not proved to be whole. */
  doubtful: number;
  named: boolean;
}

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;
/** The closest that the line can be looked at. */
const CLOSEST = 10 * MINUTE;

export function marksOf(told: Timeline): Mark[] {
  return told.ids.map((id, index) => {
    const label = told.labels[String(id)];
    return {
      id,
      at: (told.at[index] ?? 0) * 1000,
      rows: told.rows[index] ?? 0,
      state: told.states[index] ?? '',
      differs: told.differs[index] ?? null,
      name: label?.name ?? '',
      note: label?.note ?? '',
      pinned: label?.pinned ?? false,
    };
  });
}

export function missesOf(told: Timeline): Miss[] {
  return told.without_table.map((one) => ({
    run: one.run_id,
    at: one.at * 1000,
    state: one.state,
    what: one.what,
  }));
}

/** A moment as it stands in an address: ISO 8601 in UTC. */
export function momentText(at: number): string {
  return new Date(at).toISOString().replace('.000Z', 'Z');
}

/** Index of the last date at or before a moment; −1 where there is none. Dates ascend. */
export function lastUpTo(marks: Pick<Mark, 'at'>[], moment: number): number {
  let [low, high] = [0, marks.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((marks[middle]?.at ?? 0) <= moment) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** Index of the date that is nearest to a moment; −1 where there is none. */
export function nearest(marks: Pick<Mark, 'at'>[], moment: number): number {
  const before = lastUpTo(marks, moment);
  if (before < 0) return marks.length ? 0 : -1;
  const after = before + 1;
  if (after >= marks.length) return before;
  const away = (index: number): number => Math.abs((marks[index]?.at ?? 0) - moment);
  return away(after) < away(before) ? after : before;
}

/** All dates, with a little room at both ends. */
export function wholeView(marks: Pick<Mark, 'at'>[], misses: Pick<Miss, 'at'>[] = []): View {
  const first = Math.min(marks[0]?.at ?? Infinity, misses[0]?.at ?? Infinity);
  const last = Math.max(marks.at(-1)?.at ?? -Infinity, misses.at(-1)?.at ?? -Infinity);
  if (!Number.isFinite(first)) return { from: 0, to: CLOSEST };
  const room = Math.max((last - first) * 0.02, CLOSEST / 2);
  return { from: first - room, to: last + room };
}

/** A view that is `factor` times as long, with one moment staying where it is; never beyond the whole. */
export function zoomed(view: View, whole: View, factor: number, around: number): View {
  const longest = whole.to - whole.from;
  const length = Math.min(longest, Math.max(CLOSEST, (view.to - view.from) * factor));
  const share = Math.min(1, Math.max(0, (around - view.from) / (view.to - view.from)));
  return within({ from: around - share * length, to: around + (1 - share) * length }, whole);
}

/** A view moved by some milliseconds; never beyond the whole. */
export function moved(view: View, whole: View, by: number): View {
  return within({ from: view.from + by, to: view.to + by }, whole);
}

/** The same length, moved so that a moment is in it. */
export function showing(view: View, whole: View, moment: number): View {
  const edge = (view.to - view.from) * 0.04;
  if (moment < view.from + edge) return moved(view, whole, moment - edge - view.from);
  if (moment > view.to - edge) return moved(view, whole, moment + edge - view.to);
  return view;
}

function within(view: View, whole: View): View {
  const length = Math.min(view.to - view.from, whole.to - whole.from);
  const from = Math.min(Math.max(view.from, whole.from), whole.to - length);
  return { from, to: from + length };
}

export function xOf(at: number, view: View, width: number): number {
  return ((at - view.from) / (view.to - view.from)) * width;
}

export function momentAt(x: number, view: View, width: number): number {
  return view.from + (x / (width || 1)) * (view.to - view.from);
}

/**
 * The bars of the dates in sight. Dates within one cell of a raster of `least` pixels are one bar, which stands for the
 * last of them. The raster lies on time itself, so that bars do not flicker while the view moves.
 */
export function binsOf(marks: Mark[], view: View, width: number, least: number): Bin[] {
  const bins: Bin[] = [];
  const cellTime = ((view.to - view.from) / (width || 1)) * least;
  let cell = NaN;
  for (let index = lastUpTo(marks, view.from - 1) + 1; index < marks.length; index++) {
    const mark = marks[index];
    if (!mark || mark.at > view.to) break;
    const own = Math.floor(mark.at / cellTime);
    const before = bins.at(own === cell ? -2 : -1);
    const x = Math.max(xOf(mark.at, view, width), before ? before.x + least : 0);
    const bin = own === cell ? bins.at(-1) : undefined;
    const doubtful = mark.state === 'complete' ? 0 : 1;
    const named = !!mark.name || mark.pinned;
    const differs = mark.differs ?? 0;
    if (bin) {
      bin.x = x;
      bin.last = index;
      bin.most = Math.max(bin.most, mark.rows);
      bin.differs = Math.max(bin.differs, differs);
      bin.doubtful += doubtful;
      bin.named ||= named;
    } else bins.push({ x, first: index, last: index, most: mark.rows, differs, doubtful, named });
    cell = own;
  }
  return bins;
}

/** Runs without a snapshot that stand too close to be told apart, as one. */
export interface MissBin {
  x: number;
  misses: Miss[];
}

export function missBinsOf(misses: Miss[], view: View, width: number, least: number): MissBin[] {
  const bins: MissBin[] = [];
  for (const miss of misses) {
    if (miss.at < view.from || miss.at > view.to) continue;
    const x = xOf(miss.at, view, width);
    const before = bins.at(-1);
    if (before && x - before.x < least) before.misses.push(miss);
    else bins.push({ x, misses: [miss] });
  }
  return bins;
}

/** The part of the line on which two dates stand some pixels apart; all of it where they do so anyway. */
export function apart(whole: View, width: number, one: number, other: number, pixels: number): View | null {
  const away = Math.abs(xOf(one, whole, width) - xOf(other, whole, width));
  if (away >= pixels || one === other) return null;
  const [middle, half] = [(one + other) / 2, ((whole.to - whole.from) * away) / (pixels * 10)];
  return within({ from: middle - half, to: middle + half }, whole);
}

export interface Tick {
  at: number;
  x: number;
  label: string;
}

type Unit = 'hour' | 'day' | 'month' | 'year';
/** How far apart labels may stand, and what stands below them. */
const STEPS: [Unit, number, number, Unit | null][] = [
  ['hour', 1, HOUR, 'day'],
  ['hour', 3, 3 * HOUR, 'day'],
  ['day', 1, DAY, 'month'],
  ['day', 2, 2 * DAY, 'month'],
  ['day', 7, 7 * DAY, 'month'],
  ['month', 1, 30 * DAY, 'year'],
  ['month', 3, 91 * DAY, 'year'],
  ['year', 1, 365 * DAY, null],
  ['year', 5, 5 * 365 * DAY, null],
];
const WIDE: Record<Unit, number> = { hour: 40, day: 24, month: 34, year: 40 };

/** The labels of the axis in two lines: the small steps, and below them what they are of. In the zone of this machine. */
export function axisOf(view: View, width: number): { small: Tick[]; large: Tick[]; daily: boolean } {
  const length = view.to - view.from;
  const [unit, every, , above] =
    STEPS.find(([one, , step]) => (step / length) * width >= WIDE[one]) ??
    (STEPS.at(-1) as (typeof STEPS)[0]);
  const small = ticks(unit, every, view, width, smallLabel).filter((one) => one.x >= 8 && one.x <= width - 8);
  if (!above) return { small, large: [], daily: false };
  const large = ticks(above, 1, view, width, largeLabel);
  // What the left edge lies in is named there, unless the next name stands too close.
  const next = large.find((one) => one.x >= 0);
  const first = startOf(above, new Date(view.from));
  const words = largeLabel(above, first);
  const shown = large.filter((one) => one.x >= 0);
  if (!next || next.x > words.length * 7 + 12) shown.unshift({ at: view.from, x: 2, label: words });
  return { small, large: shown, daily: unit === 'day' };
}

function startOf(unit: Unit, moment: Date): Date {
  const [year, month, date] = [moment.getFullYear(), moment.getMonth(), moment.getDate()];
  if (unit === 'year') return new Date(year, 0, 1);
  if (unit === 'month') return new Date(year, month, 1);
  return unit === 'day' ? new Date(year, month, date) : new Date(year, month, date, moment.getHours());
}

function following(unit: Unit, moment: Date, by: number): Date {
  const next = new Date(moment);
  if (unit === 'year') next.setFullYear(next.getFullYear() + by);
  else if (unit === 'month') next.setMonth(next.getMonth() + by);
  else if (unit === 'day') next.setDate(next.getDate() + by);
  else next.setTime(next.getTime() + by * HOUR);
  return next;
}

function smallLabel(unit: Unit, moment: Date): string {
  if (unit === 'hour') return moment.toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
  if (unit === 'day') return String(moment.getDate());
  return unit === 'year'
    ? String(moment.getFullYear())
    : moment.toLocaleDateString('en-GB', { month: 'short' });
}

/** In the lower line; with the year where it is another one than now. */
function largeLabel(unit: Unit, moment: Date): string {
  if (unit === 'day') return day(moment.toISOString());
  const now = moment.getFullYear() === new Date().getFullYear();
  if (unit === 'month')
    return moment.toLocaleDateString('en-GB', { month: 'long', year: now ? undefined : 'numeric' });
  return String(moment.getFullYear());
}

function ticks(
  unit: Unit,
  every: number,
  view: View,
  width: number,
  label: (unit: Unit, moment: Date) => string,
): Tick[] {
  const out: Tick[] = [];
  let moment = startOf(unit, new Date(view.from));
  for (let guard = 0; guard < 2000 && moment.getTime() <= view.to; guard++) {
    if (fits(unit, every, moment)) {
      out.push({ at: moment.getTime(), x: xOf(moment.getTime(), view, width), label: label(unit, moment) });
    }
    moment = following(unit, moment, 1);
  }
  return out;
}

/** The days of weeks are Mondays; other steps are counted from the beginning of what they are of. */
function fits(unit: Unit, every: number, moment: Date): boolean {
  if (unit === 'hour') return moment.getHours() % every === 0;
  if (unit === 'month') return moment.getMonth() % every === 0;
  if (unit === 'year') return moment.getFullYear() % every === 0;
  if (every === 7) return moment.getDay() === 1;
  // The last day of a month may stand beside the first of the next.
  return every === 1 || (moment.getDate() % every === 1 && moment.getDate() < 31);
}

/** How a date stands in an address: its moment, or its number where another one is of the same second. */
export function dateText(mark: Pick<Mark, 'id' | 'at'>, marks: Pick<Mark, 'id' | 'at'>[]): string {
  const last = marks[lastUpTo(marks, mark.at)];
  return !last || last.id === mark.id ? momentText(mark.at) : `#${mark.id}`;
}

/** Index of the date that an address names: the last one at or before its moment; −1 where there is none. */
export function dateIndex(text: string, marks: Pick<Mark, 'id' | 'at'>[]): number {
  if (text.startsWith('#')) return marks.findIndex((one) => `#${one.id}` === text);
  const moment = Date.parse(text);
  // A moment without a fraction names its whole second.
  return Number.isNaN(moment) ? -1 : lastUpTo(marks, moment + (text.includes('.') ? 0 : 999));
}

/** A date in words; with its time where another one is of the same day. */
export function dateWords(mark: Pick<Mark, 'id' | 'at'>, marks: Pick<Mark, 'id' | 'at'>[]): string {
  const at = marks.findIndex((one) => one.id === mark.id);
  const own = new Date(mark.at).toDateString();
  const alike = [marks[at - 1], marks[at + 1]].some((one) => one && new Date(one.at).toDateString() === own);
  const iso = momentText(mark.at);
  return alike ? dated(iso) : dayWords(iso);
}
