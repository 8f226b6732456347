<!-- The history of runs: what each cost, how it ended, and going on where that helps. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { push } from 'svelte-spa-router';
  import { api, ask, problemOf, type Asked, type HandOver, type Problem, type Run } from '../api/client';
  import { bytes, count, span, when, whyEnded } from '../domain/words/format';
  import { remaining } from '../domain/words/strip';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import FindingsList from './FindingsList.svelte';
  import WeekAhead from './WeekAhead.svelte';
  import { whileSeen } from '../ui/whileSeen';

  let runs = $state.raw<Run[] | null>(null);
  let asked = $state.raw<Asked[]>([]);
  let ends = $state<'all' | 'bad' | 'running'>('all');
  let handed = $state.raw<HandOver[]>([]);
  let query = $state('');
  let cause = $state('');
  /** What an action met, and what the last look at the server met. */
  let problem = $state<Problem | null>(null);
  let unread = $state<Problem | null>(null);
  const bad = (run: Run): boolean => !['complete', 'unverified', 'running'].includes(run.state);
  const queries = $derived([...new Map((runs ?? []).map((run) => [run.query_id, run.query_name]))]);
  const causes = $derived([...new Set((runs ?? []).map((run) => run.cause))]);
  const shown = $derived(
    (runs ?? []).filter(
      (run) =>
        (ends === 'all' || (ends === 'bad' ? bad(run) : run.state === 'running')) &&
        (!query || String(run.query_id) === query) &&
        (!cause || run.cause === cause),
    ),
  );
  const SIGNS: Record<string, string> = {
    complete: '✓',
    running: '…',
    unverified: '?',
    incomplete: '◐',
    failed: '✕',
    cancelled: '–',
    interrupted: '✕',
  };

  /** What did not come out of a run's table: the newest time of each feed counts. */
  const notHanded = $derived.by(() => {
    const seen: string[] = [];
    return handed.filter((one) => {
      const feed = `${one.query_id} ${one.key} ${one.snapshot_id}`;
      if (seen.includes(feed)) return false;
      seen.push(feed);
      return one.state === 'failed';
    });
  });

  const load = (): Promise<void> =>
    Promise.all([
      ask(api.GET('/api/runs', { params: { query: { most: 500 } } })),
      ask(api.GET('/api/feeds/history')),
    ]).then(
      ([all, done]) => {
        runs = all;
        handed = done;
        unread = null;
      },
      (error: unknown) => {
        unread = problemOf(error);
      },
    );

  onMount(() => {
    document.title = 'Runs · Tin Bucket';
    void load();
    void ask(api.GET('/api/findings')).then(
      (found) => (asked = found),
      () => {},
    );
    return whileSeen(load, 3000);
  });

  function took(run: Run): string {
    if (!run.ended) return '';
    return span(new Date(run.ended).getTime() - new Date(run.started).getTime());
  }

  function ended(run: Run): string {
    if (run.problem) return run.problem.what + (run.problem.words ? ` “${run.problem.words}”` : '');
    return whyEnded(run);
  }

  async function resume(run: Run): Promise<void> {
    try {
      await ask(api.POST('/api/runs/{run_id}/resume', { params: { path: { run_id: run.id } } }));
      await push(`/query/${run.query_id}`);
    } catch (error) {
      problem = problemOf(error);
    }
  }
</script>

<div class="h-full overflow-auto px-6 py-5" style="background: var(--band)">
  <div class="flex flex-wrap items-center gap-3">
    <h1 class="flex-1 text-[19px] font-bold">Runs</h1>
    <select class="field w-56" aria-label="Runs of" bind:value={query}>
      <option value="">of all queries</option>
      {#each queries as [id, name] (id)}<option value={String(id)}>{name}</option>{/each}
    </select>
    <select class="field w-44" aria-label="Begun" bind:value={cause}>
      <option value="">any trigger</option>
      {#each causes as one (one)}<option value={one}>{one}</option>{/each}
    </select>
    <label><input type="radio" value="all" bind:group={ends} /> all</label>
    <label><input type="radio" value="bad" bind:group={ends} /> only what went wrong</label>
    <label><input type="radio" value="running" bind:group={ends} /> under way</label>
  </div>
  {#each [unread, problem].filter((one) => one !== null) as one (one)}
    <div class="mt-3"><ProblemNote problem={one} /></div>
  {/each}
  <WeekAhead />
  {#if asked.length}<FindingsList {asked} />{/if}
  {#if runs && shown.length === 0}
    <p class="muted mt-10 text-center">
      {runs.length === 0
        ? 'No run yet. Refresh a query to make one.'
        : ends === 'bad'
          ? 'Nothing went wrong.'
          : 'No run matches.'}
    </p>
  {:else if runs}
    <div class="overflow-x-auto">
      <table class="listing mt-4 w-full text-[13.5px]">
        <thead>
          <tr>
            <th><span class="sr-only">State</span></th><th>Query</th><th>Started</th><th>Trigger</th><th
              class="right">Took</th
            ><th class="right">Waited</th>
            <th class="right">Calls</th><th class="right">Retries</th><th class="right">Size</th>
            <th class="right">Rows</th><th>How it ended</th>
          </tr>
        </thead>
        <tbody>
          {#each shown as run (run.id)}
            {@const cost = run.report.tally}
            <tr class:bad={bad(run)}>
              <td class="center">{SIGNS[run.state] ?? ''}</td>
              <td class="name"><a class="font-semibold" href="#/query/{run.query_id}">{run.query_name}</a></td
              >
              <td>{when(run.started)}</td>
              <td class="muted">{run.cause}{run.resumed_from ? ', resumed' : ''}</td>
              <td class="right">{took(run)}</td>
              <td class="right">{cost.waited >= 1 ? remaining(cost.waited) : ''}</td>
              <td class="right">
                {count(run.calls)}
                {#if cost.unchanged}<small
                    >{cost.unchanged === run.calls ? 'all' : count(cost.unchanged)} unchanged</small
                  >{/if}
                {#if cost.saved}<small>+ {count(cost.saved)} saved</small>{/if}
              </td>
              <td class="right">{cost.retries ? count(cost.retries) : ''}</td>
              <td class="right">{cost.bytes ? bytes(cost.bytes) : ''}</td>
              <td class="right">
                {run.snapshot_id ? count(run.rows) : '–'}
                {#if run.stated_total !== null && run.stated_total !== undefined}
                  <small>{run.rows === run.records ? 'of' : 'from'} {count(run.stated_total)}</small>
                {/if}
              </td>
              <td class="end">
                <strong>{run.state}</strong> <span class="muted">{ended(run)}</span>
                {#each notHanded.filter((one) => run.snapshot_id && one.snapshot_id === run.snapshot_id) as one (one.id)}
                  <a class="not" href="#/feeds">not handed over to {one.place}: {one.problem?.what}</a>
                {/each}
                {#if run.can_resume}<button class="plain" onclick={() => resume(run)}>resume</button>{/if}
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    {#if runs.length >= 500}<p class="muted mt-3">The newest 500 runs are shown.</p>{/if}
  {/if}
</div>

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
  .center {
    text-align: center;
    width: 30px;
  }
  td.name {
    max-width: 220px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  td.end {
    white-space: normal;
    min-width: 240px;
  }
  small {
    color: var(--muted);
  }
  .not {
    display: block;
    background: var(--straw-wash);
  }
</style>
