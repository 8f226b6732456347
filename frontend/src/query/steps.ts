/** The steps from a new query to its first snapshot. */
import type { Brief, Preview, RecordsGuess } from '../api/client';

export type Step = 'look' | 'pages' | 'rows' | 'refresh';

export const STEPS: { step: Step; name: string; words: string }[] = [
  {
    step: 'look',
    name: 'Look',
    words: 'Ask once makes one call and shows what the API sends. Nothing is kept of it.',
  },
  {
    step: 'pages',
    name: 'Pages',
    words: 'Is there more than this one answer? “Turn pages”, below, says what was seen.',
  },
  { step: 'rows', name: 'Rows', words: 'Say what becomes a row: “Take”, below, says what was found.' },
  { step: 'refresh', name: 'Refresh', words: 'Refresh fetches all of it and keeps the first snapshot.' },
];

/** The rows that were found in an answer, where the brief does not say yet what they are. */
export function rowsFound(brief: Brief, preview: Preview | null): RecordsGuess | undefined {
  const { records, rows_for } = brief.take;
  if (!preview || records !== '$' || rows_for.length) return undefined;
  return preview.records_guesses.find((one) => one.path !== '$' || one.rows_for.length);
}

/** What is to be done next for a query that has no snapshot yet. */
export function stepOf(brief: Brief, preview: Preview | null): Step {
  if (brief.sheet) return 'refresh';
  if (!preview || preview.problem) return 'look';
  const pages = brief.pages;
  const settled = pages.by !== 'none' || !!pages.said || !preview.proof || preview.proof.state === 'complete';
  if (!settled) return 'pages';
  return rowsFound(brief, preview) ? 'rows' : 'refresh';
}
