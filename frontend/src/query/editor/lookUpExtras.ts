/** What a lookup can do beside the usual. */
import type { LookUp } from '../../api/client';

export type LookUpExtras = Pick<
  LookUp,
  'method' | 'headers' | 'body' | 'batch' | 'records' | 'several' | 'where' | 'count' | 'keep_for'
>;

export const NO_EXTRAS: LookUpExtras = {
  method: 'GET',
  headers: [],
  body: null,
  batch: null,
  records: null,
  several: 'first',
  where: null,
  count: '',
  keep_for: null,
};

/** What a lookup has of these. */
export function extrasOf(look_up: LookUp | undefined): LookUpExtras {
  if (!look_up) return NO_EXTRAS;
  return Object.fromEntries(
    Object.entries(NO_EXTRAS).map(([name, none]) => [name, look_up[name as keyof LookUpExtras] ?? none]),
  ) as LookUpExtras;
}

/** Whether a lookup does any of it. */
export const hasExtras = (extras: LookUpExtras): boolean =>
  Object.entries(NO_EXTRAS).some(([name, none]) => {
    const own = extras[name as keyof LookUpExtras];
    return Array.isArray(own) ? own.length > 0 : own !== none;
  });

/** The days of a duration that is of days alone. */
export function daysOf(duration: string): number | null {
  const found = /^P(\d+)D$/.exec(duration);
  return found ? Number(found[1]) : null;
}

/** What it does beside the usual, in words. */
export function extrasWords(extras: LookUpExtras): string {
  const words: string[] = [];
  if (extras.batch) words.push(`up to ${extras.batch.most} a call`);
  if (extras.several === 'each') words.push('a row for each record');
  if (extras.keep_for) {
    const days = daysOf(extras.keep_for);
    words.push(`only new values, answers kept for ${days ? `${days} days` : extras.keep_for}`);
  }
  return words.join('; ');
}
