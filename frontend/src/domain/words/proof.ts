/** Whether a table is whole: three states, each with its evidence in a sentence. */
import type { Brief, Finding, Snapshot } from '../../api/client';
import { count, counted } from './format';

export type TableState = 'complete' | 'unverified' | 'incomplete';

/** The signs that stand before the states. */
export const STATE_SIGNS: Record<string, string> = { complete: '✓', unverified: '?', incomplete: '◐' };

/** What a state means, for those who meet it for the first time. */
export const STATE_MEANS: Record<string, string> = {
  complete: 'All rows are here, and that is proved.',
  unverified: 'Nothing tells whether there are more rows than these.',
  incomplete: 'Rows are missing, or may be.',
};

/** "unverified: 10 rows, as many as a page often has"; without evidence the state alone. */
export const stateWords = (state: string, evidence: string): string =>
  evidence ? `${state}: ${evidence}` : state;

/** What a comparison must warn of, where one of its two tables is not proved to be whole; empty where both are. */
export function careWords(then: Snapshot | null, now: Snapshot | null): string {
  const doubtful = [
    { at: 'earlier', state: then?.state ?? 'complete' },
    { at: 'later', state: now?.state ?? 'complete' },
  ].filter(({ state }) => state !== 'complete');
  if (!doubtful.length) return '';
  const said = doubtful.map(({ at, state }) => `the ${at} table is ${state}`).join(', and ');
  return `${said}, so rows may only seem new or gone.`;
}

/** "up to 6 calls". */
export const callsWords = (calls: number): string => `up to ${counted(calls, 'call')}`;

/** "page = 2, per_page = 1 and 12 more": what a trial sent, the first few names alone. */
export function sentWords(sent: Record<string, string>, most = 3): string {
  const pairs = Object.entries(sent).map(([name, value]) => (value ? `${name} = ${value}` : name));
  if (!pairs.length) return 'the same call again';
  const rest = pairs.length - most;
  return rest > 0 ? `${pairs.slice(0, most).join(', ')} and ${count(rest)} more` : pairs.join(', ');
}

/** The date of today here, as ISO 8601 writes it. */
export function today(now: Date = new Date()): string {
  const parts = [now.getFullYear(), now.getMonth() + 1, now.getDate()];
  return parts.map((part) => String(part).padStart(2, '0')).join('-');
}

/** A brief that says that one answer is all there is, from today on. */
export function asOneAnswer(brief: Brief, rows: number, on: string, apart: string[] = []): Brief {
  return { ...brief, pages: { by: 'none', total: null, said: { on, rows, apart } } as Brief['pages'] };
}

/** What accepting a finding would do to a brief; `null` where it found no way to turn pages. */
export function acceptedFinding(brief: Brief, finding: Finding): Brief | null {
  return finding.pages ? { ...brief, pages: finding.pages as Brief['pages'] } : null;
}
