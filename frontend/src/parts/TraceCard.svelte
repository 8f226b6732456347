<!-- Where a cell came from. -->
<script lang="ts">
  import { X } from '@lucide/svelte';
  import { api, ask, problemOf, type Column, type Problem, type Trace } from '../lib/api/client';
  import { cellText, count, span, when } from '../lib/format';

  interface Props {
    snapshot: number;
    row: number;
    column: number;
    heading: Column;
    box: DOMRect;
    onclose: () => void;
  }
  let { snapshot, row, column, heading, box, onclose }: Props = $props();
  let trace = $state<Trace | null>(null);
  let problem = $state<Problem | null>(null);
  let card = $state<HTMLElement>();

  $effect(() => {
    const path = { snapshot_id: snapshot };
    ask(api.GET('/api/snapshots/{snapshot_id}/trace', { params: { path, query: { row, column } } })).then(
      (found) => (trace = found),
      (error: unknown) => (problem = problemOf(error)),
    );
  });

  const WIDTH = 340;
  const left = $derived(Math.max(8, Math.min(box.left, window.innerWidth - WIDTH - 12)));
  const below = $derived(box.bottom + 230 < window.innerHeight);
  const lit = $derived.by(() => {
    const fragment = trace?.fragment ?? '';
    const last = trace?.pointer?.split('/').at(-1)?.replaceAll('~1', '/').replaceAll('~0', '~') ?? '';
    const start = fragment.indexOf(`${JSON.stringify(last)}:`);
    if (start < 0) return [fragment, '', ''];
    const from = start + JSON.stringify(last).length + 1;
    const rest = fragment.slice(from);
    const value = /^("(?:[^"\\]|\\.)*"|[^,}\]{[]+)/.exec(rest)?.[0] ?? '';
    return [fragment.slice(0, from), value, rest.slice(value.length)];
  });
</script>

<svelte:window
  onkeydown={(event) => event.key === 'Escape' && onclose()}
  onpointerdown={(event) => card && !card.contains(event.target as globalThis.Node) && onclose()}
/>

<section
  class="card"
  aria-label="Where this cell came from"
  bind:this={card}
  style="left: {left}px; width: {WIDTH}px; {below
    ? `top: ${box.bottom + 6}px`
    : `bottom: ${window.innerHeight - box.top + 6}px`}"
>
  <button class="absolute top-2 right-2 cursor-pointer p-1" aria-label="Close" onclick={onclose}
    ><X size={15} /></button
  >
  {#if trace}
    <p class="pr-6">
      <strong class="wrap-anywhere">
        {heading.name}
        {cellText(trace.value as never, heading) || '(empty)'}
      </strong>
      <span class="muted">· row {count(row + 1)}</span>
    </p>
    {#if trace.call}
      <p class="mt-1">
        {trace.source === 'page'
          ? `Call ${trace.call} of ${trace.calls}`
          : `Looked up as ${trace.source}`}{trace.label ? `, ${trace.label}` : ''} · {when(trace.sent)} · {span(
          trace.ms,
        )}
      </p>
      <p class="mt-1 wrap-anywhere" style="color: var(--link)">
        <code>{trace.pointer ?? heading.place}</code>
      </p>
    {:else}
      <p class="mt-1">No call was made for this cell: the value it is looked up by is empty.</p>
    {/if}
    {#if trace.fragment}
      <pre class="piece">{lit[0]}<mark>{lit[1]}</mark>{lit[2]}</pre>
    {:else if trace.call}
      <p class="muted mt-2">
        {typeof trace.value === 'object' && trace.value !== null
          ? 'The service has nothing under this code.'
          : 'The raw answer of this run is not kept any more.'}
      </p>
    {/if}
  {:else if problem}
    <p class="pr-6">{problem.what} {problem.do}</p>
  {:else}
    <p class="muted">Looking…</p>
  {/if}
</section>

<style>
  .card {
    position: fixed;
    z-index: 30;
    border: 1px solid var(--line);
    border-radius: 10px;
    background: var(--paper);
    box-shadow: var(--shadow);
    padding: 11px 14px;
    font-size: 13.5px;
  }
  .piece {
    margin-top: 7px;
    padding: 6px 9px;
    border-radius: 6px;
    background: var(--band);
    font-family: var(--mono);
    font-size: 12.5px;
    white-space: pre-wrap;
    overflow-wrap: anywhere;
  }
  mark {
    background: var(--straw);
    color: inherit;
    border-radius: 3px;
  }
</style>
