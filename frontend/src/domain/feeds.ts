/** Feeds in words: how one is, and when it is tried again. */
import type { FeedInfo, HandOver } from '../api/client';
import { when } from './words/format';

export type FeedState = 'off' | 'waiting' | 'done' | 'failed';

export function stateOf(feed: Pick<FeedInfo, 'off' | 'last' | 'live'>): FeedState {
  if (feed.off) return 'off';
  if (feed.live) return 'done';
  if (!feed.last) return 'waiting';
  return feed.last.state === 'failed' ? 'failed' : 'done';
}

export const SIGNS: Record<FeedState, string> = { off: '–', waiting: '…', done: '✓', failed: '✕' };

/** What a feed did the last time, in a line. */
export function lastWords(last: HandOver | null | undefined): string {
  if (!last) return 'not handed over yet';
  const what =
    last.state === 'failed' ? (last.problem?.what ?? 'It failed.') : last.told.slice(0, 2).join(' ');
  return `${when(last.ended)}: ${what}`;
}

/** When it is tried again by itself. */
export function againWords(feed: Pick<FeedInfo, 'tries' | 'next_try'>): string {
  if (!feed.next_try) return '';
  return `Failed ${feed.tries === 1 ? 'once' : `${feed.tries} times`}; tried again ${when(feed.next_try)}.`;
}
