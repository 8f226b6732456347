<script lang="ts">
  import { Plus } from '@lucide/svelte';
  import { onMount } from 'svelte';
  import { push } from 'svelte-spa-router';
  import { api, ask, problemOf, type Desk, type Pasted, type Problem, type QueryLine } from '../api/client';
  import { count, counted, when } from '../domain/words/format';
  import BeginQuery from './BeginQuery.svelte';
  import BucketMark from '../ui/BucketMark.svelte';
  import CountLine from '../table/CountLine.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import SheetDialog from '../parts/SheetDialog.svelte';

  let desk = $state<Desk | null>(null);
  let problem = $state<Problem | null>(null);
  let text = $state('');
  let pasted = $state<Pasted | null>(null);
  let now = $state(Date.now());

  async function load(): Promise<void> {
    now = Date.now();
    try {
      desk = await ask(api.GET('/api/desk'));
    } catch (error) {
      problem = problemOf(error);
    }
  }

  onMount(() => {
    document.title = 'Desk · Tin Bucket';
    void load();
    const timer = setInterval(() => document.visibilityState === 'visible' && void load(), 5000);
    return () => clearInterval(timer);
  });

  async function begin(event?: SubmitEvent): Promise<void> {
    event?.preventDefault();
    try {
      pasted = await ask(api.POST('/api/paste', { body: { text } }));
      // A key must not stay on the screen.
      if (pasted.held) text = '';
      problem = null;
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function refreshAll(): Promise<void> {
    const problems: Problem[] = [];
    for (const line of desk?.queries ?? []) {
      if (line.running !== null) continue;
      try {
        const path = { query_id: line.id };
        await ask(api.POST('/api/queries/{query_id}/refresh', { params: { path }, body: { values: {} } }));
      } catch (error) {
        problems.push({ ...problemOf(error), where: line.name });
      }
    }
    problem = problems[0] ?? null;
    await load();
  }

  /** How full the bucket is: from 1 right after a refresh to 0 when the next one is due. */
  function level(line: QueryLine): number {
    if (!line.latest) return 0;
    const age = (now - new Date(line.latest.taken).getTime()) / 1000;
    return 1 - Math.min(1, age / (line.every_seconds ?? 30 * 86_400)) * 0.9;
  }

  function total(line: QueryLine): string {
    const latest = line.latest;
    if (!latest) return '';
    if (latest.stated_total === null || latest.stated_total === undefined) return 'no total stated';
    if (line.records !== null && line.records !== undefined && line.records !== latest.rows)
      return `from ${counted(latest.stated_total, 'record')}`;
    return `of ${count(latest.stated_total)}`;
  }
</script>

<div class="h-full overflow-auto px-5 py-4" style="background: var(--band)">
  <form class="paste" onsubmit={begin}>
    <textarea
      aria-label="Address, command or rows to begin a query with"
      placeholder="Paste an address or a command from an API’s docs, or rows of a sheet, to begin a query…"
      autocomplete="off"
      spellcheck="false"
      rows={Math.min(8, text.split('\n').length)}
      bind:value={text}
      onpaste={() => setTimeout(begin, 0)}
      onkeydown={(event) => {
        if (event.key === 'Enter' && !event.shiftKey && text.trim()) {
          event.preventDefault();
          void begin();
        }
      }}></textarea>
    <button class="press main" disabled={!text.trim()}><Plus size={15} /> New query</button>
    {#if desk && desk.queries.length > 0}
      <button type="button" class="press" onclick={refreshAll}>Refresh all</button>
    {/if}
  </form>
  {#if problem}<div class="mt-3"><ProblemNote {problem} /></div>{/if}

  {#if desk}
    {#if desk.attention.length > 0}
      <div class="mt-3 grid grid-cols-2 gap-2.5">
        {#each desk.attention as wants (wants.kind + wants.title)}
          <div class="seen">
            <strong>{wants.title}</strong>
            {['key', 'vault', 'waiting', 'allowance'].includes(wants.kind)
              ? ''
              : `· ${wants.kind === 'incomplete' ? 'rows may be missing' : wants.kind}.`}
            {wants.what}
            {#if wants.query_id}
              <a class="plain" href="#/query/{wants.query_id}">Open the query</a>
            {:else}
              <a class="plain" href="#/services"
                >{wants.kind === 'vault'
                  ? 'Open it'
                  : wants.kind === 'allowance'
                    ? 'See its limits'
                    : 'Put the key in'}</a
              >
            {/if}
          </div>
        {/each}
      </div>
    {/if}

    {#if desk.queries.length === 0}
      <div class="mx-auto mt-16 max-w-xl text-center">
        <div class="flex justify-center"><BucketMark level={0} size={64} /></div>
        <h1 class="mt-4 text-xl font-bold">The desk is empty</h1>
        <p class="muted mt-2">
          A query asks a web API, turns the answer into a table, and keeps a dated copy of it at each refresh.
          Paste an example address from an API’s docs into the box above: it is taken apart for you, and
          nothing is sent before you say so.
        </p>
        {#if desk.services === 0}
          <p class="muted mt-2">
            Or <a class="plain" href="#/services">set up a service and its key</a> first.
          </p>
        {/if}
      </div>
    {:else}
      <table class="lines mt-4 w-full">
        <thead>
          <tr>
            <th class="w-14"><span class="sr-only">Freshness</span></th>
            <th>Query</th>
            <th>Refreshed</th>
            <th class="right">Rows</th>
            <th>Since the snapshot before</th>
            <th>Next</th>
            <th class="right">Snapshots</th>
          </tr>
        </thead>
        <tbody>
          {#each desk.queries as line (line.id)}
            {@const failed = line.last_run?.state === 'failed' || line.last_run?.state === 'broken off'}
            <tr onclick={() => push(`/query/${line.id}`)}>
              <td class="center">
                <BucketMark
                  level={level(line)}
                  dented={failed}
                  busy={line.running !== null}
                  label={failed ? 'the last run failed' : line.latest ? 'fresh or ageing' : 'never refreshed'}
                />
              </td>
              <td class="name">
                <a href="#/query/{line.id}" class="font-bold" onclick={(event) => event.stopPropagation()}>
                  {line.name}
                </a>
                <small>
                  {line.parameters ? `${counted(line.parameters, 'parameter')} · ` : ''}{line.service}
                  {#if line.drift}· <span style="color: var(--straw-ink)">{line.drift}</span>{/if}
                </small>
              </td>
              <td>
                {#if line.waiting}
                  <span style="color: var(--straw-ink)">waits for its key</span>
                {:else if line.running !== null && line.running !== undefined}
                  <span style="color: var(--damson)">refreshing…</span>
                {:else if line.latest}
                  {when(line.latest.taken, new Date(now))}
                  {#if failed}<small class="bad">last run {line.last_run?.state}</small>{/if}
                {:else}
                  <span class="muted">never</span>
                {/if}
              </td>
              <td class="right">
                <div class="flex items-center justify-end gap-4">
                  <CountLine counts={line.counts} />
                  <div>
                    <span class="font-bold">{line.latest ? count(line.latest.rows) : ''}</span>
                    <small class:bad={line.latest && !line.latest.complete}>
                      {total(line)}{line.latest && !line.latest.complete ? ', incomplete' : ''}
                    </small>
                  </div>
                </div>
              </td>
              <td>
                {#if line.latest && 'new' in line.latest.since}
                  {@const since = line.latest.since}
                  {#if since.new || since.gone || since.changed}
                    <a
                      href="#/query/{line.id}/compare"
                      class="since"
                      onclick={(event) => event.stopPropagation()}
                      aria-label="{since.new} new, {since.gone} gone, {since.changed} changed: compare"
                    >
                      <span>+ {count(since.new ?? 0)}</span>
                      <span>− {count(since.gone ?? 0)}</span>
                      <span class="changed" class:none={!since.changed}>● {count(since.changed ?? 0)}</span>
                    </a>
                  {:else}
                    <span class="muted">nothing changed</span>
                  {/if}
                {/if}
              </td>
              <td class="muted">
                {line.paused ? 'paused' : line.next_time ? when(line.next_time, new Date(now)) : 'by hand'}
              </td>
              <td class="right muted">{count(line.snapshots)}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
  {/if}
</div>

{#if pasted?.kind === 'sheet'}
  <SheetDialog
    file="pasted"
    data={text}
    onclose={() => (pasted = null)}
    ondone={(id) => {
      pasted = null;
      text = '';
      void push(id !== null ? `/query/${id}` : '/sheets');
    }}
  />
{:else if pasted?.brief}
  <BeginQuery
    {pasted}
    brief={pasted.brief}
    onclose={() => (pasted = null)}
    onmade={(id) => {
      pasted = null;
      text = '';
      push(`/query/${id}`);
    }}
  />
{/if}

<style>
  .paste {
    display: flex;
    align-items: center;
    gap: 10px;
    padding: 10px 14px;
    border: 1px dashed var(--faint);
    border-radius: 9px;
    background: var(--paper);
  }
  .paste textarea {
    flex: 1;
    min-height: 34px;
    padding: 7px 0;
    line-height: 20px;
    resize: none;
    background: none;
    outline: none;
    border: 0;
    color: var(--ink);
    font-size: 14px;
  }
  .paste:focus-within {
    border-color: var(--damson);
    border-style: solid;
  }
  .paste textarea::placeholder {
    color: var(--muted);
  }
  .lines {
    border-collapse: collapse;
  }
  th {
    text-align: left;
    font-weight: 400;
    color: var(--muted);
    font-size: 12.5px;
    padding: 4px 10px 7px;
    border-bottom: 1px solid var(--faint);
  }
  td {
    background: var(--paper);
    border-bottom: 1px solid var(--line);
    padding: 7px 10px;
    vertical-align: middle;
    white-space: nowrap;
  }
  td.name {
    max-width: 340px;
  }
  td.name a,
  td.name small {
    display: block;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  tbody tr {
    cursor: pointer;
  }
  tbody tr:hover td {
    background: var(--damson-wash);
  }
  .right {
    text-align: right;
  }
  .center :global(svg) {
    margin: auto;
  }
  small {
    display: block;
    color: var(--muted);
    font-size: 12px;
  }
  small.bad {
    color: var(--straw-ink);
  }
  .since {
    display: inline-flex;
    gap: 12px;
    color: var(--ink);
  }
  .since:hover {
    text-decoration: underline;
    text-underline-offset: 3px;
  }
  .changed {
    background: var(--straw-wash);
    padding: 0 7px;
    border-radius: 4px;
  }
  .changed.none {
    background: none;
  }
</style>
