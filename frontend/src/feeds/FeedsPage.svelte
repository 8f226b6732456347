<!-- All feeds of all queries: how each went the last time, when it is tried again, and what it did. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { api, ask, problemOf, type FeedInfo, type HandOver, type Problem } from '../api/client';
  import { againWords, SIGNS, stateOf } from '../domain/feeds';
  import { count, when } from '../domain/words/format';
  import RunFeed from '../parts/RunFeed.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import Readers from './Readers.svelte';
  import VersionsDialog from './VersionsDialog.svelte';
  import { whileSeen } from '../ui/whileSeen';

  let feeds = $state.raw<FeedInfo[] | null>(null);
  let history = $state.raw<HandOver[]>([]);
  /** What an action met, and what the last look at the server met. */
  let problem = $state<Problem | null>(null);
  let unread = $state<Problem | null>(null);
  let onlyBad = $state(false);
  let versionsOf = $state.raw<FeedInfo | null>(null);
  const bad = (feed: FeedInfo): boolean => stateOf(feed) === 'failed';
  const shown = $derived((feeds ?? []).filter((feed) => !onlyBad || bad(feed)));
  const failing = $derived((feeds ?? []).filter(bad).length);
  const past = $derived(history.filter((one) => !onlyBad || one.state === 'failed'));

  const load = (): Promise<void> =>
    Promise.all([ask(api.GET('/api/feeds')), ask(api.GET('/api/feeds/history'))]).then(
      ([all, done]) => {
        feeds = all;
        history = done;
        unread = null;
      },
      (error: unknown) => {
        unread = problemOf(error);
      },
    );

  onMount(() => {
    document.title = 'Feeds · Tin Bucket';
    void load();
    return whileSeen(load, 4000);
  });
</script>

<div class="h-full overflow-auto px-6 py-5" style="background: var(--band)">
  <div class="flex flex-wrap items-center gap-3">
    <h1 class="flex-1 text-[19px] font-bold">Feeds</h1>
    {#if feeds?.length}
      <label class="flex items-center gap-2"
        ><input type="checkbox" bind:checked={onlyBad} /> only what failed{failing
          ? ` (${failing})`
          : ''}</label
      >
    {/if}
  </div>
  {#each [unread, problem].filter((one) => one !== null) as one (one)}
    <div class="mt-3"><ProblemNote problem={one} /></div>
  {/each}
  {#if feeds && !feeds.length}
    <div class="mx-auto mt-12 max-w-xl text-center">
      <p class="text-[15px]">No query hands its table over yet.</p>
      <p class="muted mt-2">
        A feed keeps a sheet of a workbook up to date, writes a file, or adds to a history after each refresh.
        Open a query, and choose where to in its line “Hand over”.
      </p>
    </div>
  {:else if feeds && !shown.length}
    <p class="muted mt-10 text-center">Nothing failed.</p>
  {:else if feeds}
    <div class="overflow-x-auto">
      <table class="listing feeds mt-4 w-full text-[13.5px]">
        <thead>
          <tr>
            <th><span class="sr-only">State</span></th><th>Query</th><th>Hands over</th><th>Last time</th><th
              class="right">Rows</th
            ><th>What it did</th><th><span class="sr-only">Do</span></th>
          </tr>
        </thead>
        <tbody>
          {#each shown as feed (`${feed.query_id} ${feed.key}`)}
            {@const state = stateOf(feed)}
            <tr class:bad={state === 'failed'} class:off={feed.off}>
              <td class="center" title={state}
                ><span aria-hidden="true">{SIGNS[state]}</span><span class="sr-only">{state}</span></td
              >
              <td class="name"
                ><a class="font-semibold" href="#/query/{feed.query_id}" title={feed.query_name}
                  >{feed.query_name}</a
                ></td
              >
              <td class="what">{feed.words.map((word) => word.text).join('')}</td>
              <td>{feed.last ? when(feed.last.ended) : ''}</td>
              <td class="right">{feed.last && feed.last.state !== 'failed' ? count(feed.last.rows) : ''}</td>
              <td class="end">
                {#if feed.off}<span class="muted">switched off</span>
                {:else if feed.live}<span class="muted">read by those with a key, below</span>
                {:else if !feed.last}<span class="muted">not handed over yet</span>
                {:else if feed.last.state === 'failed'}
                  {feed.last.problem?.what}
                  <span class="muted">{feed.last.problem?.do} {againWords(feed)}</span>
                {:else}{feed.last.told.join(' ')}{/if}
              </td>
              <td class="deeds">
                {#if !feed.off && !feed.live}<RunFeed
                    {feed}
                    words={state === 'failed' ? 'Try again now' : 'Hand over now'}
                    onran={() => {
                      problem = null;
                      void load();
                    }}
                    onproblem={(one) => (problem = one)}
                  />{/if}
                {#if feed.versions}<button class="plain" onclick={() => (versionsOf = feed)}>Versions</button
                  >{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
  <Readers addresses={(feeds ?? []).filter((feed) => feed.live && !feed.off)} />
  {#if past.length}
    <h2 class="mt-7 mb-1 text-[15px] font-bold">What was handed over</h2>
    <div class="overflow-x-auto">
      <table class="listing w-full text-[13px]">
        <thead>
          <tr
            ><th>When</th><th>Query</th><th>Where to</th><th>Trigger</th><th>As of</th><th class="right"
              >Rows</th
            ><th>How it went</th></tr
          >
        </thead>
        <tbody>
          {#each past as one (one.id)}
            <tr class:bad={one.state === 'failed'}>
              <td>{when(one.ended)}</td>
              <td class="name"
                ><a href="#/query/{one.query_id}" title={one.query_name}>{one.query_name}</a></td
              >
              <td class="what">{one.place}</td>
              <td class="muted">{one.cause}</td>
              <td>{one.taken ? when(one.taken) : ''}</td>
              <td class="right">{one.state === 'failed' ? '–' : count(one.rows)}</td>
              <td class="end">{one.problem ? one.problem.what : one.told.join(' ')}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
</div>
{#if versionsOf}
  <VersionsDialog feed={versionsOf} onclose={() => (versionsOf = null)} onback={() => void load()} />
{/if}

<style>
  th {
    padding-inline: 8px;
  }
  td {
    padding: 5px 8px;
    vertical-align: top;
  }
  .bad td {
    background: var(--straw-wash);
  }
  .off {
    opacity: 0.7;
  }
  .center {
    text-align: center;
    width: 30px;
  }
  td.name {
    max-width: 190px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  td.what {
    white-space: normal;
    min-width: 200px;
    max-width: 340px;
    overflow-wrap: anywhere;
  }
  td.end {
    white-space: normal;
    min-width: 240px;
  }
  td.deeds {
    white-space: nowrap;
  }
  td.deeds :global(.plain + .plain) {
    margin-left: 10px;
  }
  /* Narrow windows have a feed below the other, each as a paragraph. */
  @media (max-width: 700px) {
    .feeds thead {
      display: none;
    }
    .feeds tr {
      display: grid;
      grid-template-columns: 24px minmax(0, 1fr) auto;
      padding-block: 4px;
      background: var(--paper);
      border-bottom: 1px solid var(--line);
    }
    .feeds tr.bad {
      background: var(--straw-wash);
    }
    .feeds td {
      background: none;
      padding: 1px 6px;
      border: 0;
      min-width: 0;
      max-width: none;
    }
    .feeds td:nth-child(4) {
      grid-area: 1 / 3;
    }
    .feeds td.what,
    .feeds td.end,
    .feeds td.deeds {
      grid-column: 2 / -1;
    }
    .feeds td.right {
      display: none;
    }
  }
</style>
