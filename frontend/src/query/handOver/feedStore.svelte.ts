/** The feeds of the query at hand: how each went, and the one that is being written. */
import { api, ask, type Brief, type Feed, type FeedInfo } from '../../api/client';
import type { QueryStore } from '../queryStore.svelte';

export class FeedStore {
  /** Each feed of the brief in words, and how it went the last time. */
  feeds = $state.raw<FeedInfo[]>([]);
  /** The feed that is being changed, with its place in the brief; below 0 for a new one. */
  editing = $state.raw<{ feed: Feed | null; at: number } | null>(null);

  readonly #work: () => QueryStore;

  constructor(work: () => QueryStore) {
    this.#work = work;
  }

  async load(brief: Brief): Promise<void> {
    if (!brief.hand_over.length) {
      this.feeds = [];
      return;
    }
    const body = { feeds: brief.hand_over as never };
    this.feeds = await ask(
      api.POST('/api/queries/{query_id}/feeds', {
        params: { path: { query_id: this.#work().id } },
        body,
      }),
    ).catch(() => this.feeds);
  }

  /** Take the feed that was written into the brief; and hand over, if that is wanted at once. */
  async done(brief: Brief, feed: Feed, now: boolean): Promise<void> {
    const work = this.#work();
    const at = this.editing?.at ?? -1;
    this.editing = null;
    const hand_over = at < 0 ? [...brief.hand_over, feed] : brief.hand_over.with(at, feed);
    const next = { ...brief, hand_over };
    await work.change(next, at < 0 ? '+ feed' : 'feed changed');
    if (!now || !(await work.save())) return;
    await this.load(next);
    const info = this.feeds[at < 0 ? this.feeds.length - 1 : at];
    if (!info || info.live) return;
    await ask(
      api.POST('/api/queries/{query_id}/feeds/{key}/run', {
        params: { path: { query_id: work.id, key: info.key } },
      }),
    ).catch(work.fail);
    await this.load(next);
  }
}
