<!-- The address at which a report is read, and who has a key for it. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { api, ask, problemOf, type Problem, type Report, type Schemas } from '../api/client';
  import { when } from '../domain/words/format';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import type { ReportStore } from './reportStore.svelte';

  interface Props {
    store: ReportStore;
  }
  let { store }: Props = $props();
  let readers = $state.raw<Schemas['ReaderInfo'][]>([]);
  let made = $state.raw<Schemas['NewReader'] | null>(null);
  let name = $state('');
  let problem = $state.raw<Problem | null>(null);
  let copied = $state('');
  const report = $derived(store.report as Report);
  const address = $derived(`${location.origin}/reports/${report.address}`);
  const path = $derived({ report_id: store.id });

  const fail = (error: unknown): void => {
    problem = problemOf(error);
  };
  const load = (): Promise<void> =>
    ask(api.GET('/api/reports/{report_id}/readers', { params: { path } })).then((found) => {
      readers = found;
    }, fail);
  onMount(() => void load());

  /** Letters, digits and hyphens, of a title. */
  const slug = (text: string): string =>
    text
      .normalize('NFKD')
      .toLowerCase()
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-+|-+$/g, '')
      .slice(0, 60)
      .replace(/-+$/, '') || 'report';

  async function setAddress(text: string): Promise<void> {
    store.change({ ...report, address: text ? slug(text) : '' });
    await store.keep();
    if (store.unkept?.kind === 'address-taken') store.undo();
  }
  async function add(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    problem = null;
    try {
      const body = { name: name.trim() };
      made = await ask(api.POST('/api/reports/{report_id}/readers', { params: { path }, body }));
      name = '';
      await load();
    } catch (error) {
      fail(error);
    }
  }
  async function revoke(id: number): Promise<void> {
    try {
      await ask(api.DELETE('/api/readers/{reader_id}', { params: { path: { reader_id: id } } }));
      if (made?.reader.id === id) made = null;
      await load();
    } catch (error) {
      fail(error);
    }
  }
  async function copy(text: string): Promise<void> {
    await navigator.clipboard.writeText(text).catch(() => undefined);
    copied = text;
  }
</script>

<div class="readers">
  <b>For readers</b>
  {#if !report.address}
    <p class="muted">At an address of its own it is read with a key that opens nothing else.</p>
    <button class="press" onclick={() => void setAddress(report.title)}>Give it an address</button>
  {:else}
    <label class="block"
      ><span class="label">{location.origin}/reports/</span>
      <input
        class="field mono"
        name="report-address"
        value={report.address}
        onchange={(event) => void setAddress(event.currentTarget.value)}
      /></label
    >
    <form class="flex gap-2" onsubmit={add}>
      <input
        class="field"
        name="new-reader"
        aria-label="Name of a reader"
        placeholder="who reads it"
        required
        maxlength="200"
        bind:value={name}
      />
      <button class="press">Make a key</button>
    </form>
    {#if made}
      <div class="made" role="status">
        The key of <b>{made.reader.name}</b> is shown this once.
        <code>{made.key}</code>
        <button type="button" class="press small" onclick={() => void copy(`${address}#key=${made?.key}`)}
          >{copied ? 'Copied' : 'Copy the address with the key'}</button
        >
      </div>
    {/if}
    <ul>
      {#each readers as one (one.id)}
        <li>
          <span class="who" title={one.name}>{one.name}</span>
          <span class="muted"
            >{one.revoked ? 'revoked' : one.last_used ? `read ${when(one.last_used)}` : 'not read yet'}</span
          >
          {#if !one.revoked}<button class="plain" onclick={() => void revoke(one.id)}>Revoke</button>{/if}
        </li>
      {/each}
    </ul>
    <button class="plain" onclick={() => void setAddress('')}>Take the address away</button>
  {/if}
  {#if problem}<ProblemNote {problem} />{/if}
</div>

<style>
  .readers {
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    gap: 7px;
    padding-top: 9px;
    border-top: 1px solid var(--line);
  }
  .made {
    padding: 7px 9px;
    border-radius: 7px;
    background: var(--straw-wash);
    overflow-wrap: anywhere;
  }
  li {
    display: flex;
    align-items: baseline;
    gap: 10px;
  }
  .who {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
</style>
