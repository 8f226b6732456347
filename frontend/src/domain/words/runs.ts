/** What is said of a run, and of the table that it kept. */
import type { QueryDetail, Run } from '../../api/client';
import { counted, when, whyEnded } from './format';

/** How a run ended, after "the last run". */
export const ENDS: Record<string, string> = {
  complete: 'was complete',
  unverified: 'is unverified',
  incomplete: 'was incomplete',
  failed: 'failed',
  cancelled: 'was stopped',
  interrupted: 'interrupted',
  running: 'is in progress',
};

/** "the last run was complete, 07:30 today in 0.3 s · the API states 13 pages". */
export function runWords(run: Run | null | undefined): string {
  if (!run) return 'No call has been made yet. Ask once to look, or refresh to fetch the whole table.';
  const seconds = run.ended ? (new Date(run.ended).getTime() - new Date(run.started).getTime()) / 1000 : 0;
  const took = seconds > 0 ? ` in ${seconds.toFixed(1)} s` : '';
  const why = whyEnded(run);
  return `the last run ${ENDS[run.state] ?? run.state}, ${when(run.started)}${took}${why && ` · ${why}`}`;
}

/** How old the newest table is, and what of it was not fetched by its own run. */
export function ageWords(detail: QueryDetail): string {
  const latest = detail.latest;
  if (!latest) return '';
  const own = detail.last_run?.snapshot_id === latest.id ? detail.last_run : null;
  const from = own?.report.from_saved;
  const saved = own?.report.tally.saved ?? 0;
  const parts = [from ? `read from saved answers of ${when(from)}` : `refreshed ${when(latest.taken)}`];
  if (!from && saved) parts.push(`${counted(saved, 'answer')} saved before`);
  if (latest.rebuilt) parts.push(`rebuilt ${when(latest.rebuilt)}`);
  return parts.join(' · ');
}

/** Why a snapshot is not compared with the one before: the query itself was changed. Empty where it was not. */
export function sinceWords(since: Record<string, number>): string {
  if (since.asks) return 'the question was changed';
  if (since.reads) return 'the columns were changed';
  return since.values ? 'asked with other values' : '';
}
