<!-- Where the table is handed on to: a sentence for each feed, and how it went the last time. -->
<script lang="ts">
  import Ellipsis from '@lucide/svelte/icons/ellipsis-vertical';
  import { tick } from 'svelte';
  import { api, ask, type Brief, type Feed, type FeedInfo } from '../../api/client';
  import { writeJson } from '../../api/json';
  import { choices, entryOf } from '../../domain/choices';
  import { againWords, lastWords, SIGNS, stateOf } from '../../domain/feeds';
  import RunFeed from '../../parts/RunFeed.svelte';
  import Popover from '../../ui/Popover.svelte';
  import EditorRow from '../editor/EditorRow.svelte';
  import type { QueryStore } from '../queryStore.svelte';
  import FeedDialog from './FeedDialog.svelte';
  import { whileSeen } from '../../ui/whileSeen';

  interface Props {
    work: QueryStore;
    brief: Brief;
    onchange: (brief: Brief, name?: string) => Promise<void>;
  }
  let { work, brief, onchange }: Props = $props();

  let feeds = $state.raw<FeedInfo[]>([]);
  let editing = $state.raw<{ feed: Feed | null; at: number } | null>(null);
  let root = $state<HTMLElement>();
  const saved = $derived(new Set((work.detail?.brief.hand_over ?? []).map((one) => writeJson(one))));

  async function load(): Promise<void> {
    if (!brief.hand_over.length) {
      feeds = [];
      return;
    }
    const body = { feeds: brief.hand_over as never };
    feeds = await ask(
      api.POST('/api/queries/{query_id}/feeds', { params: { path: { query_id: work.id } }, body }),
    ).catch(() => feeds);
  }

  // As the feeds are written, and behind every refresh.
  $effect(() => {
    void writeJson(brief.hand_over);
    void work.detail?.last_run?.id;
    void load();
  });
  $effect(() => {
    if (!brief.hand_over.length) return;
    return whileSeen(load, 4000);
  });

  const withFeeds = (hand_over: Feed[], name: string): Promise<void> =>
    onchange({ ...brief, hand_over }, name);

  async function done(feed: Feed, now: boolean): Promise<void> {
    const at = editing?.at ?? -1;
    editing = null;
    const next = at < 0 ? [...brief.hand_over, feed] : brief.hand_over.with(at, feed);
    await withFeeds(next, at < 0 ? '+ feed' : 'feed changed');
    await tick();
    root?.scrollIntoView({ block: 'nearest' });
    if (!now || !(await work.save())) return;
    await load();
    const info = feeds.find((_, index) => index === (at < 0 ? feeds.length - 1 : at));
    if (!info || info.live) return;
    await ask(
      api.POST('/api/queries/{query_id}/feeds/{key}/run', {
        params: { path: { query_id: work.id, key: info.key } },
      }),
    ).catch(work.fail);
    await load();
  }
</script>

<div bind:this={root}>
  <EditorRow verb="Hand over">
    {#each brief.hand_over as feed, at (feed.id || at)}
      {@const info = feeds[at]}
      {@const state = info ? stateOf(info) : 'waiting'}
      <span class="feed" class:off={feed.off}>
        {#each info?.words ?? [{ text: entryOf(choices().feeds, feed.to).label, field: 'to' }] as word, number (number)}{#if word.field}<button
              class="phrase"
              onclick={() => (editing = { feed, at })}>{word.text}</button
            >{:else}{word.text}{/if}{/each}<Popover
          label="Feed {at + 1}"
          look="dots"
          width={170}
          placement="bottom-end"
          icon
        >
          {#snippet trigger()}<Ellipsis size={15} />{/snippet}
          {#snippet children(close)}
            {@const act = (doing: () => unknown) => () => {
              close();
              void doing();
            }}
            <div class="deeds">
              <button data-first onclick={act(() => (editing = { feed, at }))}>Edit</button>
              <button
                onclick={act(() =>
                  withFeeds(
                    brief.hand_over.with(at, { ...feed, off: !feed.off }),
                    feed.off ? 'feed on' : 'feed off',
                  ),
                )}>{feed.off ? 'Switch on' : 'Switch off'}</button
              >
              <button onclick={act(() => withFeeds(brief.hand_over.toSpliced(at, 1), '− feed'))}
                >Remove</button
              >
            </div>
          {/snippet}
        </Popover>
        {#if info}
          <small class:failed={state === 'failed'}>
            <span aria-hidden="true">{SIGNS[state]}</span>
            {#if feed.off}off
            {:else if info.live}
              {#if saved.has(writeJson(feed))}readers with a key find it there:
                <a class="plain" href="#/feeds">keys and how to read it</a>
              {:else}<em>It is there when the query is saved.</em>{/if}
            {:else}
              {lastWords(info.last)}
              {#if state === 'failed'}{info.last?.problem?.do} {againWords(info)}{/if}
              {#if saved.has(writeJson(feed))}
                <RunFeed
                  feed={{ ...info, query_id: work.id }}
                  onran={() => void load()}
                  onproblem={(one) => (work.problem = one)}
                />
              {:else}<em>It runs when the query is saved.</em>{/if}
            {/if}
          </small>
        {/if}
      </span>
    {/each}
    {#if !brief.hand_over.length}<span class="muted">the table to a workbook, a file or a live address:</span
      >{/if}
    <button class="phrase quiet" onclick={() => (editing = { feed: null, at: -1 })}
      >{brief.hand_over.length ? 'and to…' : 'choose where to'}</button
    >
  </EditorRow>
</div>
{#if editing}
  <FeedDialog
    queryId={work.id}
    {brief}
    feed={editing.feed}
    columns={work.columns.map((column) => column.name)}
    onclose={() => (editing = null)}
    ondone={done}
  />
{/if}

<style>
  .feed {
    display: block;
    margin-bottom: 5px;
  }
  .off {
    opacity: 0.65;
  }
  small {
    display: block;
    color: var(--muted);
    font-size: 12.5px;
    line-height: 17px;
  }
  small.failed {
    background: var(--straw-wash);
    color: var(--ink);
  }
  .feed :global(.dots) {
    padding: 1px 2px;
    color: var(--muted);
    cursor: pointer;
    vertical-align: middle;
  }
  .deeds {
    display: flex;
    flex-direction: column;
  }
  .deeds button {
    padding: 4px 6px;
    border-radius: 5px;
    text-align: left;
    cursor: pointer;
  }
  .deeds button:hover {
    background: var(--damson-wash);
  }
</style>
