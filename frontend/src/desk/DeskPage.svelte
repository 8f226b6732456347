<script lang="ts">
  import Plus from '@lucide/svelte/icons/plus';
  import Search from '@lucide/svelte/icons/search';
  import { onMount } from 'svelte';
  import { push } from 'svelte-spa-router';
  import { api, ask, problemOf, type Desk, type Pasted, type Problem, type WatchInfo } from '../api/client';
  import BeginQuery from './BeginQuery.svelte';
  import DeskAttention from './DeskAttention.svelte';
  import EmptyDesk from './EmptyDesk.svelte';
  import DeskTable from './DeskTable.svelte';
  import WatchList from './WatchList.svelte';
  import { linesWith } from '../domain/desk';
  import { count } from '../domain/words/format';
  import Dialog from '../ui/Dialog.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import { dropTyped, keepTyped, markTyped } from '../ui/typed.svelte';
  import SheetDialog from '../parts/SheetDialog.svelte';
  import { whileSeen } from '../ui/whileSeen';

  let desk = $state<Desk | null>(null);
  let watches = $state.raw<WatchInfo[]>([]);
  /** What an action met, and what the last look at the server met. */
  let problem = $state<Problem | null>(null);
  let unread = $state<Problem | null>(null);
  let text = $state('');
  let pasted = $state<Pasted | null>(null);
  /** Somebody said that a text with what looks like a key is rows all the same. */
  let asRows = $state(false);
  /** Such a text, out of sight until then. */
  let hidden = '';
  let now = $state(Date.now());
  let view = $state<HTMLElement>();

  /** Up to so many queries are seen at a glance. */
  const FEW = 12;
  let wanted = $state('');
  const lines = $derived(linesWith(desk?.queries ?? [], wanted));

  // What was pasted, and what was understood of it, waits here until a query was made of it or it was cleared.
  const KEEP = 'pasted on the desk';
  keepTyped(
    () => KEEP,
    () => ({ text, pasted }),
    (held) => ({ text, pasted } = held),
  );
  $effect(() => {
    if (text.trim() || pasted) markTyped(KEEP);
    else dropTyped(KEEP);
  });

  async function load(): Promise<void> {
    now = Date.now();
    try {
      desk = await ask(api.GET('/api/desk'));
      unread = null;
      watches = await ask(api.GET('/api/watches'));
    } catch (error) {
      unread = problemOf(error);
    }
  }

  onMount(() => {
    document.title = 'Desk · Tin Bucket';
    void load();
    const ends = [
      whileSeen(load, 5000),
      // What is being counted is there soon.
      whileSeen(() => desk?.queries.some((line) => line.counting) && load(), 700),
    ];
    return () => ends.forEach((end) => end());
  });

  async function begin(event?: SubmitEvent): Promise<void> {
    event?.preventDefault();
    try {
      asRows = false;
      pasted = await ask(api.POST('/api/paste', { body: { text } }));
      // A key must not stay on the screen.
      if (pasted.held) text = '';
      else if (pasted.kind === 'sheet' && pasted.keys_seen?.length) [hidden, text] = [text, ''];
      problem = null;
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function refreshAll(): Promise<void> {
    const problems: Problem[] = [];
    for (const line of lines) {
      // What starts from other tables is fresh when those are.
      if (line.running !== null || line.starts) continue;
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
</script>

<svelte:window
  onpaste={(event) => {
    // Wherever the keyboard is: what is pasted on the desk begins a query.
    const target = event.target as HTMLElement;
    const pastedText = event.clipboardData?.getData('text/plain') ?? '';
    if (pasted || target.closest('input, textarea, select, [role=dialog]') || !pastedText.trim()) return;
    text = pastedText;
    void begin();
  }}
/>

<div class="h-full overflow-auto px-5 py-4" bind:this={view} style="background: var(--band)">
  {#if desk?.queries.length !== 0}<h1 class="sr-only">Desk</h1>{/if}
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
      <button type="button" class="press" onclick={refreshAll}
        >{lines.length < desk.queries.length ? `Refresh these ${count(lines.length)}` : 'Refresh all'}</button
      >
    {/if}
  </form>
  {#each [unread, problem].filter((one) => one !== null) as one (one)}
    <div class="mt-3"><ProblemNote problem={one} /></div>
  {/each}

  {#if desk}
    {#if watches.length}<WatchList {watches} onchange={load} />{/if}
    {#if desk.attention.length > 0}
      <DeskAttention notes={desk.attention} />
    {/if}

    {#if desk.queries.length === 0}
      <EmptyDesk
        known={desk.services > 0}
        ontry={(example) => {
          text = example;
          void begin();
        }}
      />
    {:else}
      <div class="flex items-baseline justify-between gap-4">
        <div>
          {#if desk.queries.length > FEW}
            <label class="find">
              <Search size={13} aria-hidden="true" />
              <input type="search" placeholder="Find a query" aria-label="Find a query" bind:value={wanted} />
              {#if wanted.trim()}
                <span class="muted" role="status">{count(lines.length)} of {count(desk.queries.length)}</span>
              {/if}
            </label>
          {/if}
        </div>
        {#if desk.queries.some((one) => one.snapshots > 1)}
          <a class="plain text-[13.5px]" href="#/changes">What changed, day by day</a>
        {/if}
      </div>
      <DeskTable {lines} now={new Date(now)} {view} />
    {/if}
  {/if}
</div>

{#if pasted?.kind === 'sheet' && pasted.keys_seen?.length && !asRows}
  <Dialog
    title="A key may be in this text"
    open
    onclose={() => {
      pasted = null;
      text = hidden;
    }}
    holds
  >
    <div class="space-y-3">
      <p>
        This text is neither an address nor a command that is understood. As rows of a sheet, all of it would
        be stored and shown, also what looks like a key:
        <strong>{pasted.keys_seen.slice(0, 5).join('; ')}</strong>{pasted.keys_seen.length > 5 ? ' …' : ''}.
      </p>
      <p class="muted">
        Paste only the address or the command to begin a query. The key has a field of its own, and is stored
        encrypted.
      </p>
      <div class="flex flex-wrap gap-2">
        <button
          class="press main"
          onclick={() => {
            pasted = null;
            text = '';
          }}>Clear the text</button
        >
        <button
          class="press"
          onclick={() => {
            pasted = null;
            text = hidden;
          }}>Change the text</button
        >
        <button
          class="press"
          onclick={() => {
            text = hidden;
            asRows = true;
          }}>They are rows, without a key</button
        >
      </div>
    </div>
  </Dialog>
{:else if pasted?.kind === 'sheet'}
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
  .find {
    display: flex;
    align-items: center;
    gap: 6px;
    margin-top: 14px;
    color: var(--muted);
  }
  .find input {
    width: 220px;
    height: 26px;
    padding: 0 8px;
    border: 1px solid var(--line);
    border-radius: 6px;
    background: var(--paper);
    color: var(--ink);
  }
  .paste:focus-within {
    border-color: var(--damson);
    border-style: solid;
  }
  .paste textarea::placeholder {
    color: var(--muted);
  }
  @media (max-width: 700px) {
    .paste {
      flex-wrap: wrap;
    }
    .paste textarea {
      flex-basis: 100%;
      min-height: 54px;
    }
  }
</style>
