<!-- What was sent, key masked, and how it was answered. -->
<script lang="ts">
  import type { Call, CallPreview } from '../lib/api/client';
  import { bytes, count, span } from '../lib/format';

  interface Props {
    calls: Call[];
    preview: CallPreview | null;
    onopen: (index: number) => void;
  }
  let { calls, preview, onopen }: Props = $props();
</script>

<div class="h-full overflow-auto">
  {#if preview?.address}
    <section class="m-3 rounded-md border p-3" style="border-color: var(--line); background: var(--page)">
      <h2 class="muted mb-1 text-[13px]">The call that will be sent first</h2>
      <p class="wrap-anywhere" style="font-family: var(--mono); font-size: 13px">
        <strong>{preview.method}</strong>
        {preview.address}
      </p>
      {#each preview.headers as header (header.name)}
        <p class="wrap-anywhere" style="font-family: var(--mono); font-size: 13px">
          <span class="muted">{header.name}:</span>
          {header.value}
        </p>
      {/each}
      {#if preview.body}
        <p class="wrap-anywhere" style="font-family: var(--mono); font-size: 13px">{preview.body}</p>
      {/if}
    </section>
  {/if}
  {#if calls.length}
    <table>
      <thead>
        <tr>
          <th class="right">#</th><th>For</th><th>Address</th><th class="right">Status</th><th class="right"
            >Time</th
          >
          <th class="right">Size</th><th class="right">Records</th>
        </tr>
      </thead>
      <tbody>
        {#each calls.slice(0, 1000) as call, at (call.number)}
          <tr class:failed={!!call.problem}>
            <td class="right muted">{call.number}</td>
            <td class="whitespace-nowrap"
              >{call.stage === 'sign in'
                ? `sign in, ${call.label}`
                : call.stage === 'pages'
                  ? call.label || 'the answer'
                  : call.label}</td
            >
            <td class="address">
              <button
                class="plain"
                onclick={() => onopen(at)}
                title={call.address}
                disabled={!call.has_answer}
              >
                {call.method === 'GET' || call.method === 'READ'
                  ? ''
                  : `${call.method} `}{call.address.replace(/^https?:\/\/[^/]+/, '')}
              </button>
              {#if call.body}<span class="sent" title={call.body}>{call.body}</span>{/if}
              {#if call.note}<small>{call.note}</small>{/if}
              {#if !call.used && call.stage !== 'sign in' && call.problem}
                <small>Its answer is not part of the table.</small>
              {/if}
              {#if call.problem}
                <small>{call.problem.what} {call.problem.words ? `“${call.problem.words}”` : ''}</small>
              {/if}
            </td>
            <td class="right">{call.status || '–'}</td>
            <td class="right">{span(call.ms)}</td>
            <td class="right">{bytes(call.size)}</td>
            <td class="right">{call.stage === 'pages' ? count(call.records) : ''}</td>
          </tr>
        {/each}
      </tbody>
    </table>
    {#if calls.length > 1000}<p class="muted p-3">
        The first 1,000 of {count(calls.length)} calls are shown.
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
  }
  .address {
    max-width: 380px;
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
  .failed td {
    background: var(--straw-wash);
  }
  small {
    display: block;
    font-family: 'Atkinson Hyperlegible Next Variable', sans-serif;
    color: var(--straw-ink);
  }
</style>
