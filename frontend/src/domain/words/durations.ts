/** ISO 8601 durations: in words, and as the amount and the unit that a form asks for. */
import { parse, serialize, type Duration } from 'tinyduration';

const PARTS = ['years', 'months', 'weeks', 'days', 'hours', 'minutes', 'seconds'] as const;
type Part = (typeof PARTS)[number];
/** As a unit stands in a duration, with the T of those below a day. */
export type Unit = 'Y' | 'M' | 'W' | 'D' | 'TH' | 'TM' | 'TS';
const UNIT_OF: Record<Part, Unit> = {
  years: 'Y',
  months: 'M',
  weeks: 'W',
  days: 'D',
  hours: 'TH',
  minutes: 'TM',
  seconds: 'TS',
};
const PART_OF = Object.fromEntries(PARTS.map((part) => [UNIT_OF[part], part])) as Record<Unit, Part>;
/** Seconds of the units that are always as long. */
const SECONDS: Partial<Record<Unit, number>> = { W: 604_800, D: 86_400, TH: 3600, TM: 60, TS: 1 };
const NUMBERS = ['no', 'one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine', 'ten'];

export interface Amount {
  amount: number;
  unit: Unit;
  negative: boolean;
}

function read(iso: string): Duration | null {
  try {
    return parse(iso);
  } catch {
    return null;
  }
}

const partsOf = (duration: Duration): [number, Part][] =>
  PARTS.filter((part) => duration[part]).map((part) => [duration[part] ?? 0, part]);

const inWords = (amount: number, part: Part): string =>
  `${NUMBERS[amount] ?? amount} ${amount === 1 ? part.slice(0, -1) : part}`;

/** PT10M → "10 minutes", P1D → "day"; what is no duration as it stands. */
export function durationWords(iso: string): string {
  const duration = read(iso);
  const parts = duration ? partsOf(duration) : [];
  if (parts.length === 1 && parts[0]?.[0] === 1) return parts[0][1].slice(0, -1);
  return (
    parts.map(([amount, part]) => `${amount} ${amount === 1 ? part.slice(0, -1) : part}`).join(' ') || iso
  );
}

/** One amount of one unit, such as 90 of TM for PT1H30M; nothing for what only several units say, such as P1M15D. */
export function amountOf(iso: string): Amount | null {
  const duration = read(iso);
  if (!duration) return null;
  const parts = partsOf(duration);
  const negative = duration.negative ?? false;
  if (!parts.length) return { amount: 0, unit: 'D', negative: false };
  const unit = UNIT_OF[parts.at(-1)?.[1] ?? 'days'];
  if (parts.length === 1) return { amount: parts[0]?.[0] ?? 0, unit, negative };
  if (parts.some(([, part]) => SECONDS[UNIT_OF[part]] === undefined)) return null;
  const seconds = parts.reduce((sum, [amount, part]) => sum + amount * (SECONDS[UNIT_OF[part]] ?? 0), 0);
  return { amount: seconds / (SECONDS[unit] ?? 1), unit, negative };
}

/** An amount of a unit as a duration. */
export function isoOf(amount: number, unit: Unit, negative = false): string {
  if (!amount) return unit.startsWith('T') ? `PT0${unit.slice(1)}` : `P0${unit}`;
  return serialize({ [PART_OF[unit]]: amount, ...(negative ? { negative } : {}) });
}

/** Minutes of a duration, for fields that are typed in minutes. */
export function minutesOf(iso: string): number | null {
  const found = amountOf(iso);
  const seconds = found && SECONDS[found.unit];
  return found && seconds ? (found.amount * seconds) / 60 : null;
}

/** "seven days ago", "in two weeks", "today", "start of month". */
export function relative(anchor: string, offset: string): string {
  const duration = read(offset);
  if (!duration) return `${anchor} ${offset}`;
  const parts = partsOf(duration);
  if (!parts.length) return anchor;
  const before = duration.negative ?? false;
  if (anchor === 'today' && parts.length === 1 && parts[0]?.[0] === 1 && parts[0][1] === 'days')
    return before ? 'yesterday' : 'tomorrow';
  const words = parts.map(([amount, part]) => inWords(amount, part)).join(' and ');
  if (anchor !== 'today' && anchor !== 'now') return `${words} ${before ? 'before' : 'after'} ${anchor}`;
  return before ? `${words} ago` : `in ${words}`;
}
