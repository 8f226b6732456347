<!-- Where the table is handed on to: a sentence for each feed, and how it went the last time. -->
<script lang="ts">
  import Ellipsis from '@lucide/svelte/icons/ellipsis-vertical';
  import { tick } from 'svelte';
  import type { Brief, Feed } from '../../api/client';
  import { writeJson } from '../../api/json';
  import { choices, entryOf } from '../../domain/choices';
  import { againWords, lastWords, SIGNS, stateOf } from '../../domain/feeds';
  import RunFeed from '../../parts/RunFeed.svelte';
  import Popover from '../../ui/Popover.svelte';
  import EditorRow from '../editor/EditorRow.svelte';
  import type { QueryStore } from '../queryStore.svelte';
  import { whileSeen } from '../../ui/whileSeen';

  interface Props {
    work: QueryStore;
    brief: Brief;
    onchange: (brief: Brief, name?: string) => Promise<void>;
  }
  let { work, brief, onchange }: Props = $props();

  let root = $state<HTMLElement>();
  const handOver = $derived(work.handOver);
  const saved = $derived(new Set((work.detail?.brief.hand_over ?? []).map((one) => writeJson(one))));
  const load = (): Promise<void> => handOver.load(brief);

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
  // A new one is at the end.
  let known = -1;
  $effect(() => {
    const many = brief.hand_over.length;
    if (known >= 0 && many > known) void tick().then(() => root?.scrollIntoView({ block: 'nearest' }));
    known = many;
  });

  const withFeeds = (hand_over: Feed[], name: string): Promise<void> =>
    onchange({ ...brief, hand_over }, name);
</script>

<div bind:this={root}>
  <EditorRow verb="Hand over">
    {#each brief.hand_over as feed, at (feed.id || at)}
      {@const info = handOver.feeds[at]}
      {@const state = info ? stateOf(info) : 'waiting'}
      <span class="feed" class:off={feed.off}>
        {#each info?.words ?? [{ text: entryOf(choices().feeds, feed.to).label, field: 'to' }] as word, number (number)}{#if word.field}<button
              class="phrase"
              onclick={() => (handOver.editing = { feed, at })}>{word.text}</button
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
              <button data-first onclick={act(() => (handOver.editing = { feed, at }))}>Edit</button>
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
    <button class="phrase quiet" onclick={() => (handOver.editing = { feed: null, at: -1 })}
      >{brief.hand_over.length ? 'and to…' : 'choose where to'}</button
    >
  </EditorRow>
</div>

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
