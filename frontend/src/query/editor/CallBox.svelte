<!-- The exact call that will be sent first, key masked; to copy; and what is likely a slip in it. -->
<script lang="ts">
  import Check from '@lucide/svelte/icons/check';
  import Copy from '@lucide/svelte/icons/copy';
  import type { FirstCall } from '../../api/client';
  import { readable } from '../../domain/words/address';
  import { count, counted } from '../../domain/words/format';

  interface Props {
    firstCall: FirstCall;
    /** What the question is asked for, such as a day. */
    noun: string;
  }
  let { firstCall, noun }: Props = $props();
  let copied = $state('');

  async function copy(what: string, text: string): Promise<void> {
    try {
      await navigator.clipboard.writeText(text);
      copied = what;
      setTimeout(() => (copied = ''), 1500);
    } catch {
      copied = 'failed';
    }
  }

  const body = $derived(
    firstCall.body && firstCall.body.length > 600 ? `${firstCall.body.slice(0, 600)}…` : firstCall.body,
  );
</script>

<section class="box" aria-label="The call that will be sent">
  {#if firstCall.problem}
    <p class="slip"><strong>{firstCall.problem.what}</strong> {firstCall.problem.do}</p>
  {:else if firstCall.address}
    <p class="call" title={firstCall.address}>
      <strong>{firstCall.method}</strong>
      {readable(firstCall.address)}
    </p>
    {#each firstCall.headers.filter((header) => header.name.toLowerCase() !== 'user-agent') as header, at (at)}
      <p class="call"><span class="muted">{header.name}:</span> {header.value}</p>
    {/each}
    {#if body}<p class="call body">{body}</p>{/if}
    {#if firstCall.iterations > 1}
      <p class="more">
        and so on, for <strong>{counted(firstCall.iterations, noun)}</strong>, at least {count(
          firstCall.iterations,
        )} calls
      </p>
    {/if}
    <div class="copy">
      <button onclick={() => copy('address', firstCall.address)}>
        {#if copied === 'address'}<Check size={12} />{:else}<Copy size={12} />{/if} address
      </button>
      {#if firstCall.command}
        <button
          onclick={() => copy('command', firstCall.command)}
          title="The key is a variable in it, never its text"
        >
          {#if copied === 'command'}<Check size={12} />{:else}<Copy size={12} />{/if} shell command
        </button>
      {:else}
        <span class="muted">no shell command: the call holds a control character</span>
      {/if}
      {#if copied === 'failed'}<span class="muted">the browser did not allow copying</span>{/if}
    </div>
  {/if}
  {#each firstCall.hints as hint (hint.where + hint.what)}
    <p class="slip">{hint.what} <span class="muted">{hint.do}</span></p>
  {/each}
</section>

<style>
  .box {
    margin: 2px 0 6px 12px;
    border-left: 2px solid var(--line);
    padding: 1px 0 1px 9px;
    font-size: 12.5px;
    line-height: 17px;
  }
  .call {
    font-family: var(--mono);
    font-size: 12px;
    overflow-wrap: anywhere;
    color: var(--muted);
  }
  .call strong {
    color: var(--ink);
  }
  .body {
    max-height: 85px;
    overflow: auto;
    white-space: pre-wrap;
  }
  .more {
    margin-top: 2px;
  }
  .copy {
    display: flex;
    gap: 12px;
    margin-top: 2px;
  }
  .copy button {
    display: inline-flex;
    gap: 4px;
    align-items: center;
    color: var(--link);
    cursor: pointer;
  }
  .copy button:hover {
    text-decoration: underline;
  }
  .slip {
    margin-top: 3px;
    background: var(--straw-wash);
    border: 1px solid var(--straw);
    border-radius: 5px;
    padding: 2px 7px;
  }
</style>
