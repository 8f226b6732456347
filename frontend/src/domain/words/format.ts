/** How values, counts and moments are written on screen. */
import type { Cell, Column, Run } from '../../api/client';

const MINUS = '−';

/** A whole number with separators, such as 1,284. */
export function count(value: number): string {
  return value.toLocaleString('en-GB');
}

/** "1 row", "2 rows". */
export function counted(value: number, one: string, many = `${one}s`): string {
  return `${count(value)} ${value === 1 ? one : many}`;
}

/** “12.5 %” of a whole. */
export function percent(part: number, whole: number): string {
  if (!whole) return '';
  const share = (part / whole) * 100;
  if (part && share < 0.1) return '<0.1 %';
  return `${share.toLocaleString('en-GB', { maximumFractionDigits: share > 99 && part < whole ? 2 : 1 })} %`;
}

/** A number with separators: with some decimals, or with up to two; small ones then with as many as tell something. */
export function numberText(value: number, digits?: number): string {
  const small = value !== 0 && Math.abs(value) < 0.1;
  const fixed = digits !== undefined && { minimumFractionDigits: digits, maximumFractionDigits: digits };
  return value
    .toLocaleString(
      'en-GB',
      fixed || (small ? { maximumSignificantDigits: 3 } : { maximumFractionDigits: 2 }),
    )
    .replace('-', MINUS);
}

/** A difference with its sign. */
export function signed(value: number, digits = 2): string {
  const text = Math.abs(value).toLocaleString('en-GB', {
    minimumFractionDigits: digits,
    maximumFractionDigits: digits,
  });
  return (value < 0 ? MINUS : '+') + text;
}

export function bytes(size: number): string {
  if (size < 1000) return `${size} B`;
  if (size < 1_000_000) return `${(size / 1000).toFixed(size < 10_000 ? 1 : 0)} kB`;
  return `${(size / 1_000_000).toFixed(1)} MB`;
}

const DAY = 86_400_000;

function midnight(moment: Date): number {
  return new Date(moment.getFullYear(), moment.getMonth(), moment.getDate()).getTime();
}

/** The clock of a moment: "07:30". */
export function clockText(iso: string): string {
  return new Date(iso).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
}

function daysFrom(moment: Date, now: Date): number {
  return Math.round((midnight(moment) - midnight(now)) / DAY);
}

/** "07:30 today", "yesterday 07:30", "tomorrow 07:30"; nothing for another day. */
function nearby(iso: string, now: Date): string | null {
  const days = daysFrom(new Date(iso), now);
  if (days === 0) return `${clockText(iso)} today`;
  if (days === -1) return `yesterday ${clockText(iso)}`;
  return days === 1 ? `tomorrow ${clockText(iso)}` : null;
}

/** "07:30 today", "yesterday 07:30", "Mon 07:30", "2 Nov". */
export function when(iso: string, now: Date = new Date()): string {
  const near = nearby(iso, now);
  if (near) return near;
  const moment = new Date(iso);
  if (Math.abs(daysFrom(moment, now)) < 7)
    return `${moment.toLocaleDateString('en-GB', { weekday: 'short' })} ${clockText(iso)}`;
  return day(iso, now);
}

/** "Mon 2 Nov", with the year when it is another one. */
export function day(iso: string, now: Date = new Date()): string {
  const moment = iso.length === 10 ? new Date(`${iso}T00:00:00`) : new Date(iso);
  const year = moment.getFullYear() === now.getFullYear() ? undefined : 'numeric';
  return moment
    .toLocaleDateString('en-GB', { weekday: 'short', day: 'numeric', month: 'short', year })
    .replace(',', '');
}

/** A day with its clock, which tells two dates of one day apart: "07:30 today", "Mon 2 Nov, 07:30". */
export function dated(iso: string, now: Date = new Date()): string {
  return nearby(iso, now) ?? `${day(iso, now)}, ${clockText(iso)}`;
}

/** A day; with its clock where it is near: "07:30 today", "Mon 2 Nov". */
export function dayWords(iso: string, now: Date = new Date()): string {
  return nearby(iso, now) ?? day(iso, now);
}

/** Why a run ended as it did: what its table lacks, else what stopped the turning of pages. */
export function whyEnded(run: Pick<Run, 'report' | 'stop'>): string {
  const { gaps, doubt, drift } = run.report;
  return [gaps.join('; ') || doubt || (run.stop ?? ''), drift?.words].filter(Boolean).join(' · ');
}

/** How long something took. */
export function span(ms: number): string {
  if (ms < 1000) return `${Math.round(ms)} ms`;
  if (ms < 60_000) return `${(ms / 1000).toFixed(1)} s`;
  return `${Math.floor(ms / 60_000)} min ${Math.round((ms % 60_000) / 1000)} s`;
}

const clock = {
  weekday: 'short',
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
  timeZone: 'UTC',
} as const;
const clocks = new Intl.DateTimeFormat('en-GB', clock);
const clocksWithYear = new Intl.DateTimeFormat('en-GB', { ...clock, year: 'numeric' });

/** A moment with the clock that its text has, whatever the zone of this machine. */
function momentText(text: string): string | null {
  const moment = new Date(`${text.replace(' ', 'T').replace(/(Z|[+-]\d\d(:?\d\d)?)$/i, '')}Z`);
  if (Number.isNaN(moment.getTime())) return null;
  const own = moment.getUTCFullYear() === new Date().getFullYear() ? clocks : clocksWithYear;
  return own.format(moment).replace(',', '').replace(' at ', ', ');
}

/** A cell's text in a column. Codes and ids are never touched; decimals get the column's digits. */
export function cellText(cell: Cell, column: Pick<Column, 'kind'>, digits = 0): string {
  if (cell === null) return '';
  if (typeof cell === 'object') return cell.words;
  if (typeof cell === 'boolean') return cell ? 'yes' : 'no';
  if (typeof cell === 'number') {
    if (digits > 0) return cell.toFixed(digits).replace('-', MINUS);
    return String(cell).replace('-', MINUS);
  }
  if (column.kind !== 'text' && /^\d{4}-\d\d-\d\d[T ]/.test(cell)) return momentText(cell) ?? cell;
  if (column.kind === 'date' && /^\d{4}-\d{2}-\d{2}$/.test(cell)) return day(cell);
  return cell;
}

/** The most decimals, up to four, that the values of a column need. */
export function digitsOf(cells: Cell[]): number {
  let most = 0;
  for (const cell of cells) {
    if (typeof cell !== 'number' || Number.isInteger(cell)) continue;
    const text = String(cell);
    const at = text.indexOf('.');
    if (at >= 0 && !text.includes('e')) most = Math.max(most, text.length - at - 1);
  }
  return Math.min(most, 4);
}
