/** A date as people type it: “1 October”, “2026-10-01 06:00”, “yesterday”, “3 weeks ago”, “before 1 Oct”. */

/** What a text names: the table as of `moment` is the last one at or before it. */
export type TypedDate =
  | { moment: number }
  /** Why it is none, and what to write. */
  | { fault: string };

const DAY = 86_400_000;
const MONTHS = ['jan', 'feb', 'mar', 'apr', 'may', 'jun', 'jul', 'aug', 'sep', 'oct', 'nov', 'dec'];
const LONG_MONTHS =
  'january february march april may june july august september october november december'.split(' ');
const WEEKDAYS = 'sunday monday tuesday wednesday thursday friday saturday'.split(' ');
const HOW = 'Write 1 October, 2026-10-01, 1 Oct 06:00, yesterday, 3 weeks ago, or before 1 October.';

/** A stretch of time in milliseconds: from its first moment to the first one after it. */
interface Span {
  from: number;
  to: number;
}

/**
 * Read a typed date in the zone of this machine. A day means its end, a month and a year theirs; with “before” in front
 * the moment before it begins. A day or a month without its year is the latest one that is not to come.
 */
export function typedDate(text: string, now: Date = new Date()): TypedDate {
  const told = text.trim().toLowerCase().replace(/[,]/g, ' ').replace(/\s+/g, ' ');
  const before = /^(the last )?(one )?before /.test(told);
  const named = told.replace(/^(the last )?(one )?before |^(as of|on|at|until|up to) /, '');
  if (!named) return { fault: HOW };
  const doubt = /^(\d{1,2})\/(\d{1,2})\/(\d{4}|\d{2})$/.exec(named);
  if (doubt) return { fault: `“${named}” can be two dates. ${HOW}` };
  const span = spanOf(named, now);
  if (!span) return { fault: `“${text.trim().slice(0, 40)}” is no date. ${HOW}` };
  return { moment: (before ? span.from : span.to) - 1 };
}

function spanOf(text: string, now: Date): Span | null {
  const moment = isoMoment(text);
  if (moment) return moment;
  const [, dayText = text, hours, minutes] = /^(.*?)(?: at)? (\d{1,2}):(\d{2})$/.exec(text) ?? [];
  const day = relative(dayText, now) ?? calendar(dayText, now);
  if (!day || hours === undefined) return day;
  const [hour, minute] = [Number(hours), Number(minutes)];
  if (day.to - day.from > 1.1 * DAY || hour > 23 || minute > 59) return null;
  const from = new Date(day.from);
  from.setHours(hour, minute);
  return { from: from.getTime(), to: from.getTime() + 60_000 };
}

/** A moment as ISO 8601 writes it, with its seconds or without. */
function isoMoment(text: string): Span | null {
  const found = /^\d{4}-\d\d-\d\d[t ]\d\d:\d\d(:\d\d)?(\.\d+)?(z|[+-]\d\d:?\d\d)?$/.exec(text);
  if (!found) return null;
  const from = Date.parse(text.replace(' ', 'T').toUpperCase());
  return Number.isNaN(from) ? null : { from, to: from + (found[1] ? 1000 : 60_000) };
}

function days(year: number, month: number, date: number, many = 1): Span {
  return { from: new Date(year, month, date).getTime(), to: new Date(year, month, date + many).getTime() };
}

function relative(text: string, now: Date): Span | null {
  const [year, month, date] = [now.getFullYear(), now.getMonth(), now.getDate()];
  if (text === 'today' || text === 'now' || text === 'newest') return days(year, month, date);
  if (text === 'yesterday') return days(year, month, date - 1);
  const ago = /^(\d{1,4}|an?) (day|week|month|year)s? ago$/.exec(text);
  if (ago) {
    const many = /^\d/.test(ago[1] ?? '') ? Number(ago[1]) : 1;
    if (ago[2] === 'day') return days(year, month, date - many);
    if (ago[2] === 'week') return days(year, month, date - 7 * many);
    // The last of a shorter month stands for its missing days.
    const first = ago[2] === 'month' ? new Date(year, month - many, 1) : new Date(year - many, month, 1);
    const last = new Date(first.getFullYear(), first.getMonth() + 1, 0).getDate();
    return days(first.getFullYear(), first.getMonth(), Math.min(date, last));
  }
  const named = text.replace(/^last /, '');
  const weekday = WEEKDAYS.findIndex((one) => one === named || one.slice(0, 3) === named);
  if (weekday < 0) return null;
  const since = (now.getDay() - weekday + 7) % 7;
  return days(year, month, date - (since || (text === named ? 0 : 7)));
}

function calendar(text: string, now: Date): Span | null {
  const iso = /^(\d{4})-(\d{1,2})-(\d{1,2})$/.exec(text);
  if (iso) return dayOf(Number(iso[1]), Number(iso[2]) - 1, Number(iso[3]));
  const dotted = /^(\d{1,2})\.\s?(\d{1,2})\.(?:\s?(\d{4}))?$/.exec(text);
  if (dotted) return dayNear(dotted[3], Number(dotted[2]) - 1, Number(dotted[1]), now);
  const year = /^(\d{4})$/.exec(text);
  if (year) return spanFrom(Number(year[1]), 0, Number(year[1]) + 1, 0);
  const isoMonth = /^(\d{4})-(\d{1,2})$/.exec(text);
  if (isoMonth) return monthOf(Number(isoMonth[1]), Number(isoMonth[2]) - 1);
  const worded =
    /^(?:[a-z]{3,9} )?(\d{1,2})(?:st|nd|rd|th|\.)? ([a-z]{3,9})\.?(?: (\d{4}))?$/.exec(text) ??
    swapped(/^([a-z]{3,9})\.? (\d{1,2})(?:st|nd|rd|th)?(?: (\d{4}))?$/.exec(text));
  if (worded) return dayNear(worded[3], monthNumber(worded[2] ?? ''), Number(worded[1]), now);
  const month = /^([a-z]{3,9})\.?(?: (\d{4}))?$/.exec(text);
  if (!month) return null;
  const number = monthNumber(month[1] ?? '');
  if (number < 0) return null;
  const ofYear = month[2] ? Number(month[2]) : now.getFullYear() - (number > now.getMonth() ? 1 : 0);
  return monthOf(ofYear, number);
}

function swapped(found: RegExpExecArray | null): (string | undefined)[] | null {
  return found && [found[0], found[2], found[1], found[3]];
}

function monthNumber(word: string): number {
  const long = LONG_MONTHS.indexOf(word);
  return long >= 0 ? long : MONTHS.indexOf(word === 'sept' ? 'sep' : word);
}

function spanFrom(year: number, month: number, toYear: number, toMonth: number): Span {
  return { from: new Date(year, month, 1).getTime(), to: new Date(toYear, toMonth, 1).getTime() };
}

function monthOf(year: number, month: number): Span | null {
  return month >= 0 && month < 12 ? spanFrom(year, month, year, month + 1) : null;
}

function dayNear(year: string | undefined, month: number, date: number, now: Date): Span | null {
  if (year) return dayOf(Number(year), month, date);
  const own = dayOf(now.getFullYear(), month, date);
  return own && own.from <= now.getTime() ? own : dayOf(now.getFullYear() - 1, month, date);
}

/** Nothing where there is no such day, as 31 June. */
function dayOf(year: number, month: number, date: number): Span | null {
  const made = new Date(year, month, date);
  return month >= 0 && made.getMonth() === month && made.getDate() === date ? days(year, month, date) : null;
}
