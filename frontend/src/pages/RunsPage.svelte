<script lang="ts">
  import { onMount } from 'svelte';
  import { api, ask, problemOf, type Problem, type Run } from '../lib/api/client';
  import { count, span, when, whyEnded } from '../lib/format';
  import ProblemNote from '../parts/ProblemNote.svelte';

  let runs = $state.raw<Run[] | null>(null);
  let only = $state<'all' | 'bad'>('all');
  let problem = $state<Problem | null>(null);
  const bad = (run: Run): boolean => !['whole', 'running'].includes(run.state);
  const shown = $derived((runs ?? []).filter((run) => only === 'all' || bad(run)));
  const SIGNS: Record<string, string> = {
    whole: '✓',
    running: '…',
    short: '◐',
    failed: '✕',
    cancelled: '–',
    'broken off': '✕',
  };

  onMount(() => {
    document.title = 'Runs · Tin Bucket';
    const load = () =>
      ask(api.GET('/api/runs')).then(
        (found) => (runs = found),
        (error: unknown) => (problem = problemOf(error)),
      );
    void load();
    const timer = setInterval(() => document.visibilityState === 'visible' && void load(), 3000);
    return () => clearInterval(timer);
  });

  function took(run: Run): string {
    if (!run.ended) return '';
    return span(new Date(run.ended).getTime() - new Date(run.started).getTime());
  }

  function cause(run: Run): string {
    if (run.problem) return run.problem.what + (run.problem.words ? ` “${run.problem.words}”` : '');
    return whyEnded(run);
  }
</script>

<div class="h-full overflow-auto px-6 py-5" style="background: var(--band)">
  <div class="flex items-center gap-3">
    <h1 class="flex-1 text-[19px] font-bold">Runs</h1>
    <label><input type="radio" value="all" bind:group={only} /> all</label>
    <label><input type="radio" value="bad" bind:group={only} /> only what went wrong</label>
  </div>
  {#if problem}<div class="mt-3"><ProblemNote {problem} /></div>{/if}
  {#if runs && shown.length === 0}
    <p class="muted mt-10 text-center">
      {only === 'bad' ? 'Nothing went wrong.' : 'No run yet. Refresh a query to make one.'}
    </p>
  {:else if runs}
    <table class="mt-4 w-full">
      <thead>
        <tr>
          <th></th><th>Query</th><th>Started</th><th>Cause</th><th class="right">Took</th><th class="right"
            >Calls</th
          >
          <th class="right">Rows</th><th>How it ended</th>
        </tr>
      </thead>
      <tbody>
        {#each shown as run (run.id)}
          <tr class:bad={bad(run)}>
            <td class="center">{SIGNS[run.state] ?? ''}</td>
            <td class="name"><a class="font-semibold" href="#/query/{run.query_id}">{run.query_name}</a></td>
            <td>{when(run.started)}</td>
            <td class="muted">{run.cause}</td>
            <td class="right">{took(run)}</td>
            <td class="right">{count(run.calls)}</td>
            <td class="right">
              {run.snapshot_id ? count(run.rows) : '–'}
              {#if run.stated_total !== null && run.stated_total !== undefined}
                <small>{run.rows === run.records ? 'of' : 'from'} {count(run.stated_total)}</small>
              {/if}
            </td>
            <td class="end"><strong>{run.state}</strong> <span class="muted">{cause(run)}</span></td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
</div>

<style>
  table {
    border-collapse: collapse;
    font-size: 13.5px;
  }
  th {
    text-align: left;
    font-weight: 400;
    color: var(--muted);
    font-size: 12.5px;
    padding: 4px 10px 6px;
    border-bottom: 1px solid var(--faint);
  }
  td {
    background: var(--paper);
    border-bottom: 1px solid var(--line);
    padding: 5px 10px;
    vertical-align: top;
    white-space: nowrap;
  }
  .bad td {
    background: var(--straw-wash);
  }
  .right {
    text-align: right;
  }
  .center {
    text-align: center;
    width: 30px;
  }
  td.name {
    max-width: 260px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  td.end {
    white-space: normal;
    min-width: 260px;
  }
  small {
    color: var(--muted);
  }
</style>
