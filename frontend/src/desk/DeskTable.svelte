<!-- The queries with their newest snapshots, a line each. -->
<script lang="ts">
  import { push } from 'svelte-spa-router';
  import type { QueryLine } from '../api/client';
  import { count, counted, when } from '../domain/words/format';
  import { sinceWords } from '../domain/words/runs';
  import { stateWords } from '../domain/words/proof';
  import CountLine from '../table/CountLine.svelte';
  import BucketMark from '../ui/BucketMark.svelte';
  import { RowsInSight } from '../ui/rowsInSight.svelte';

  interface Props {
    lines: QueryLine[];
    now: Date;
    /** The element that scrolls. */
    view: HTMLElement | undefined;
  }
  let { lines, now, view }: Props = $props();

  const ROW = 55; // Pixels.
  let body = $state<HTMLElement>();
  const sight = new RowsInSight();
  $effect(() => (view && body ? sight.follow(view, body) : undefined));
  const span = $derived(sight.span(ROW, lines.length));

  /** How full the bucket is: from 1 right after a refresh to 0 when the next one is due. */
  function level(line: QueryLine): number {
    if (!line.latest) return 0;
    const age = (now.getTime() - new Date(line.latest.taken).getTime()) / 1000;
    return 1 - Math.min(1, age / (line.every_seconds ?? 30 * 86_400)) * 0.9;
  }

  function total(line: QueryLine): string {
    const latest = line.latest;
    if (!latest) return '';
    if (latest.stated_total === null || latest.stated_total === undefined) return '';
    if (line.records !== null && line.records !== undefined && line.records !== latest.rows)
      return `from ${counted(latest.stated_total, 'record')}`;
    return `of ${count(latest.stated_total)}`;
  }
</script>

<table class="listing mt-3 w-full" aria-rowcount={lines.length + 1}>
  <colgroup>
    <col style="width: 56px" />
    <col />
    <col class="wide" style="width: 150px" />
    <col class="rows" />
    <col class="wide" style="width: 200px" />
    <col class="wide" style="width: 130px" />
    <col class="wide" style="width: 96px" />
  </colgroup>
  <thead>
    <tr>
      <th><span class="sr-only">Freshness</span></th>
      <th>Query</th>
      <th class="wide">Refreshed</th>
      <th class="right">Rows</th>
      <th class="wide">Since the snapshot before</th>
      <th class="wide">Next</th>
      <th class="right wide">Snapshots</th>
    </tr>
  </thead>
  <tbody bind:this={body}>
    {#if span.first}<tr aria-hidden="true" style="height: {span.first * ROW}px"></tr>{/if}
    {#each lines.slice(span.first, span.last) as line, at (line.id)}
      {@const failed = line.last_state === 'failed' || line.last_state === 'interrupted'}
      <tr
        class="line"
        style="height: {ROW}px"
        aria-rowindex={span.first + at + 2}
        onclick={() => push(`/query/${line.id}`)}
      >
        <td class="center">
          <BucketMark
            level={level(line)}
            dented={failed}
            busy={line.running !== null}
            label={failed
              ? 'the last run failed'
              : line.counting
                ? 'its rows are being counted'
                : line.latest
                  ? 'fresh or ageing'
                  : 'never refreshed'}
          />
        </td>
        <td class="name">
          <a href="#/query/{line.id}" class="font-bold" onclick={(event) => event.stopPropagation()}>
            {line.name}
          </a>
          <small>
            {#if line.unsaved}<strong style="color: var(--damson)">draft, not saved</strong> ·{/if}
            {line.parameters ? `${counted(line.parameters, 'parameter')} · ` : ''}{line.service}
            {#if line.handed_to.length}
              <span title="Handed over to {line.handed_to.join('; ')}"
                >· <span aria-hidden="true">→</span><span class="sr-only">handed over to</span>
                {line.handed_to[0]}{line.handed_to.length > 1
                  ? ` and ${line.handed_to.length - 1} more`
                  : ''}</span
              >
            {/if}
            {#if line.drift}· <span style="color: var(--straw-ink)">{line.drift}</span>{/if}
          </small>
        </td>
        <td class="wide">
          {#if line.waiting}
            <span style="color: var(--straw-ink)">waiting for its key</span>
          {:else if line.running !== null && line.running !== undefined}
            <span style="color: var(--damson)">refreshing…</span>
          {:else if line.latest}
            {when(line.latest.taken, now)}
            {#if failed}<small class="bad">last run {line.last_state}</small>{/if}
          {:else if !line.counting}
            <span class="muted">never</span>
          {/if}
        </td>
        <td class="right">
          <div class="flex items-center justify-end gap-4">
            <span class="wide"><CountLine counts={line.counts} /></span>
            <div>
              {#if line.counting}<span class="muted">counting…</span>{/if}
              <span class="font-bold">{line.latest ? count(line.latest.rows) : ''}</span>
              <small
                class:bad={line.latest && line.latest.state !== 'complete'}
                title={line.latest ? stateWords(line.latest.state, line.latest.evidence) : ''}
              >
                {#if line.made_with}<span
                    class="bad"
                    title="The query was changed after this snapshot was made. Open it to see its table as it is now."
                    >{line.made_with.asks ? 'of an earlier question' : 'read in another way'}</span
                  >{:else}{total(line)}{/if}{line.latest && line.latest.state !== 'complete'
                  ? `${line.made_with || total(line) ? ', ' : ''}${line.latest.state}`
                  : ''}
              </small>
            </div>
          </div>
        </td>
        <td class="wide">
          {#if line.unseen}
            <a
              class="unseen"
              href="#/query/{line.id}/compare?then={encodeURIComponent(line.unseen.taken)}"
              title="What changed since you looked, {when(line.unseen.taken)}"
              onclick={(event) => event.stopPropagation()}>{count(line.unseen.dates)} since you looked</a
            >
          {/if}
          {#if line.latest && sinceWords(line.latest.since)}
            <span class="muted">{sinceWords(line.latest.since)}</span>
          {:else if line.latest && 'new' in line.latest.since}
            {@const since = line.latest.since}
            {#if since.new || since.gone || since.changed}
              <a
                href="#/query/{line.id}/compare"
                class="since"
                onclick={(event) => event.stopPropagation()}
                title="Compare with the snapshot before{line.matched
                  ? ''
                  : '. Rows are told apart by all that is in them: no match columns are chosen'}"
              >
                <span>+ {count(since.new ?? 0)}<span class="sr-only"> new</span></span>
                <span>− {count(since.gone ?? 0)}<span class="sr-only"> gone</span></span>
                {#if line.matched}
                  <span class="changed" class:none={!since.changed}
                    >● {count(since.changed ?? 0)}<span class="sr-only"> changed</span></span
                  >
                {:else}<small class="muted">whole rows</small>{/if}
              </a>
            {:else}
              <span class="muted">nothing changed</span>
            {/if}
          {/if}
        </td>
        <td class="muted wide">
          {line.paused ? 'paused' : line.next_time ? when(line.next_time, now) : 'by hand'}
        </td>
        <td class="right muted wide">{line.counting ? '' : count(line.snapshots)}</td>
      </tr>
    {/each}
    {#if span.last < lines.length}
      <tr aria-hidden="true" style="height: {(lines.length - span.last) * ROW}px"></tr>
    {/if}
  </tbody>
</table>

<style>
  .rows {
    width: 220px;
  }
  @media (max-width: 700px) {
    .wide {
      display: none;
    }
    .rows {
      width: 120px;
    }
  }
  table {
    table-layout: fixed;
  }
  td {
    overflow: hidden;
    text-overflow: ellipsis;
  }
  td.name a,
  td.name small {
    display: block;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .line {
    cursor: pointer;
  }
  .line:hover td {
    background: var(--damson-wash);
  }
  .center :global(svg) {
    margin: auto;
  }
  small {
    display: block;
    color: var(--muted);
    font-size: 12px;
  }
  .bad {
    color: var(--straw-ink);
  }
  .unseen {
    display: block;
    width: fit-content;
    padding: 0 6px;
    border-radius: 8px;
    background: var(--damson-wash);
    color: var(--damson);
    font-size: 12px;
    line-height: 17px;
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
