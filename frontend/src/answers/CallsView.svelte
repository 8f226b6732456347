<!-- What was sent, key masked, and how it was answered. -->
<script lang="ts">
  import type { Call, FirstCall } from '../api/client';
  import { bytes, count, span, when } from '../domain/words/format';
  import { STATE_WORDS } from '../domain/words/strip';

  interface Props {
    calls: Call[];
    firstCall: FirstCall | null;
    /** The number of the call that is opened. */
    chosen: number | null;
    /** The run whose calls these are; `null` for a call that was made to look. */
    run: number | null;
    /** Makes the calls again whose answers are missing; absent when none is. */
    onretry?: () => void;
    onopen: (index: number) => void;
  }
  let { calls, firstCall, chosen = $bindable(), run, onretry, onopen }: Props = $props();

  const MOST = 500;
  let only = $state<'all' | 'odd'>('all');
  const odd = $derived(
    calls.filter(
      (call) => call.problem || call.state === 'missing' || call.state === 'unchanged' || call.saved,
    ),
  );
  const wanted = $derived(only === 'odd' ? odd : calls);
  // The chosen one is in sight, however many there are.
  const from = $derived(
    Math.max(0, Math.min(wanted.findIndex((call) => call.number === chosen) - 20, wanted.length - MOST)),
  );
  const shown = $derived(wanted.slice(from, from + MOST));
  const stateOf = (call: Call): string =>
    call.saved ? STATE_WORDS.saved : (STATE_WORDS[call.state as keyof typeof STATE_WORDS] ?? '');

  function scrollTo(node: HTMLElement, number: number): { update: (number: number) => void } {
    const show = (wantedNow: number): void => {
      if (wantedNow === chosen) node.scrollIntoView({ block: 'nearest' });
    };
    show(number);
    return { update: show };
  }
</script>

<div class="h-full overflow-auto">
  {#if firstCall?.address}
    <section class="m-3 rounded-md border p-3" style="border-color: var(--line); background: var(--page)">
      <h2 class="muted mb-1 text-[13px]">The call that will be sent first</h2>
      <p class="sent-line">
        <strong>{firstCall.method}</strong>
        {firstCall.address}
      </p>
      {#each firstCall.headers as header (header.name)}
        <p class="sent-line"><span class="muted">{header.name}:</span> {header.value}</p>
      {/each}
      {#if firstCall.body}<p class="sent-line">{firstCall.body}</p>{/if}
    </section>
  {/if}
  {#if calls.length}
    <div class="mx-3 mb-1 flex items-center gap-4 text-[13px]">
      <label><input type="radio" value="all" bind:group={only} /> all {count(calls.length)} calls</label>
      <label
        ><input type="radio" value="odd" bind:group={only} disabled={!odd.length} />
        {count(odd.length)} failed, not found, retried, saved or unchanged</label
      >
      {#if run !== null}
        <a class="plain ml-auto" href="/api/runs/{run}/har" download>Export calls (HAR 1.2)</a>
      {/if}
    </div>
    <table>
      <thead>
        <tr>
          <th class="right">#</th><th>For</th><th>Address</th><th>How</th><th class="right">Status</th><th
            class="right">Time</th
          >
          <th class="right">Size</th><th class="right">Records</th>
        </tr>
      </thead>
      <tbody>
        {#each shown as call (call.number)}
          {@const open = chosen === call.number}
          <tr class:failed={!!call.problem} class:open use:scrollTo={chosen ?? -1}>
            <td class="right muted">{call.number}</td>
            <td class="whitespace-nowrap"
              >{call.stage === 'sign in'
                ? `sign in, ${call.label}`
                : call.stage === 'list'
                  ? `ids, ${call.label || 'the list'}`
                  : call.label || 'the answer'}</td
            >
            <td class="address">
              <button
                class="plain"
                aria-expanded={open}
                onclick={() => (chosen = open ? null : call.number)}
                title={call.address}
              >
                {call.method === 'GET' || call.method === 'READ'
                  ? ''
                  : `${call.method} `}{call.address.replace(/^https?:\/\/[^/]+/, '')}
              </button>
              {#if call.body && !open}<span class="sent" title={call.body}>{call.body}</span>{/if}
              {#if call.note}<small>{call.note}</small>{/if}
              {#if !call.used && call.stage !== 'sign in' && !call.problem}
                <small>Its answer is not part of the table.</small>
              {/if}
              {#if call.problem}
                <small>{call.problem.what} {call.problem.words ? `“${call.problem.words}”` : ''}</small>
              {/if}
            </td>
            <td class="whitespace-nowrap">{stateOf(call)}</td>
            <td class="right">{call.status || '–'}</td>
            <td class="right">{span(call.ms)}</td>
            <td class="right">{bytes(call.size)}</td>
            <td class="right">{call.stage === 'pages' ? count(call.records) : ''}</td>
          </tr>
          {#if open}
            <tr class="detail">
              <td></td>
              <td colspan="7">
                <p class="sent-line"><strong>{call.method}</strong> {call.address}</p>
                {#each call.headers as header, at (at)}
                  <p class="sent-line"><span class="muted">{header.name}:</span> {header.value}</p>
                {/each}
                {#if call.body}<p class="sent-line mt-1">{call.body}</p>{/if}
                <p class="mt-2">
                  {call.saved ? 'Answered in an earlier run, sent' : 'Sent'}
                  {when(call.sent)}, answered in {span(call.ms)}{call.status
                    ? ` with status ${call.status}`
                    : ', without an answer'}.
                  {#if call.state === 'unchanged' && !call.saved}
                    Nothing has changed since the saved answer was sent, so it is used again.
                  {/if}
                  {#if call.problem?.do}<span class="muted">{call.problem.do}</span>{/if}
                </p>
                <p class="mt-1.5 flex gap-2">
                  {#if call.has_answer}
                    <button class="press small" onclick={() => onopen(calls.indexOf(call))}
                      >See its answer</button
                    >
                  {/if}
                  {#if call.state === 'failed' && onretry}
                    <button class="press small main" onclick={onretry}>Retry</button>
                  {/if}
                </p>
              </td>
            </tr>
          {/if}
        {/each}
      </tbody>
    </table>
    {#if wanted.length > MOST}<p class="muted p-3">
        Calls {count(from + 1)} to {count(from + shown.length)} of {count(wanted.length)} are shown; a click on
        the strip goes to any other.
      </p>{/if}
  {/if}
</div>

<style>
  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 13px;
  }
  th {
    position: sticky;
    top: 0;
    background: var(--band);
    font-weight: 400;
    color: var(--muted);
    text-align: left;
    padding: 4px 10px;
  }
  td {
    padding: 3px 10px;
    border-bottom: 1px solid var(--hair);
    vertical-align: top;
  }
  .right {
    text-align: right;
    white-space: nowrap;
  }
  /* What the other columns leave. */
  .address {
    width: 100%;
    max-width: 0;
    min-width: 160px;
    font-family: var(--mono);
  }
  .address button {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    max-width: 100%;
    text-decoration: none;
  }
  .sent {
    display: block;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    color: var(--muted);
    font-size: 12px;
  }
  .sent-line {
    font-family: var(--mono);
    font-size: 13px;
    overflow-wrap: anywhere;
  }
  .failed td {
    background: var(--straw-wash);
  }
  .open td {
    border-bottom-color: transparent;
    font-weight: 600;
  }
  .detail td {
    background: var(--page);
    padding-bottom: 10px;
  }
  small {
    display: block;
    font-family: 'Atkinson Hyperlegible Next Variable', sans-serif;
    color: var(--straw-ink);
    font-weight: 400;
  }
</style>
