<!-- Who may read live addresses: each reader has a key of its own. And how an address is read. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { api, ask, problemOf, type FeedInfo, type Problem, type Schemas } from '../api/client';
  import { when } from '../domain/words/format';
  import ProblemNote from '../ui/ProblemNote.svelte';

  interface Props {
    /** The live addresses that are switched on. */
    addresses: FeedInfo[];
  }
  let { addresses }: Props = $props();

  let readers = $state.raw<Schemas['ReaderInfo'][]>([]);
  let name = $state('');
  let made = $state.raw<Schemas['NewReader'] | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let copied = $state(false);
  let asking = $state<number | null>(null);
  const base = location.origin;
  let chosen = $state('');
  const first = $derived(
    addresses.find((one) => one.place === chosen)?.place ?? addresses[0]?.place ?? '/tables/NAME',
  );
  const odata = $derived(first.replace('/tables/', '/odata/'));

  const take = (found: Schemas['ReadersInfo']): void => {
    readers = found.readers;
  };
  onMount(() => {
    ask(api.GET('/api/readers')).then(take, (error: unknown) => (problem = problemOf(error)));
  });

  async function add(): Promise<void> {
    try {
      made = await ask(api.POST('/api/readers', { body: { name } }));
      readers = [made.reader, ...readers];
      name = '';
      copied = false;
      problem = null;
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function revoke(id: number): Promise<void> {
    try {
      take(await ask(api.DELETE('/api/readers/{reader_id}', { params: { path: { reader_id: id } } })));
      if (made?.reader.id === id) made = null;
      asking = null;
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function copy(): Promise<void> {
    if (!made) return;
    await navigator.clipboard.writeText(made.key).then(
      () => (copied = true),
      () => (copied = false),
    );
  }
</script>

{#if addresses.length || readers.length}
  <section class="mt-7" aria-label="Readers">
    <h2 class="mb-1 text-[15px] font-bold">Live addresses and their readers</h2>
    {#if problem}<div class="mb-3"><ProblemNote {problem} /></div>{/if}
    <div class="grid gap-6" style="grid-template-columns: repeat(auto-fit, minmax(min(420px, 100%), 1fr))">
      <div>
        <form
          class="mb-2 flex items-center gap-2"
          onsubmit={(event) => {
            event.preventDefault();
            if (name.trim()) void add();
          }}
        >
          <input
            class="field min-w-0"
            name="reader name"
            placeholder="who or what reads, such as Monthly report"
            aria-label="Name of a new reader"
            bind:value={name}
          />
          <button class="press small shrink-0" disabled={!name.trim()}>Make a key</button>
        </form>
        {#if made}
          <div class="seen mb-2" role="status">
            <p>
              The key of <strong>{made.reader.name}</strong>. It is shown this once; only its digest is kept.
            </p>
            <p class="mt-1 flex items-center gap-2">
              <code class="min-w-0 flex-1 wrap-anywhere" data-key>{made.key}</code>
              <button class="press small" onclick={copy}>{copied ? 'Copied' : 'Copy'}</button>
            </p>
          </div>
        {/if}
        {#if readers.length}
          <div class="overflow-x-auto">
            <table class="listing w-full text-[13px]">
              <thead
                ><tr><th>Reader</th><th>Key</th><th>Last used</th><th><span class="sr-only">Do</span></th></tr
                ></thead
              >
              <tbody>
                {#each readers as reader (reader.id)}
                  <tr class:gone={!!reader.revoked}>
                    <td class="name">{reader.name}</td>
                    <td><code>{reader.begins}…</code></td>
                    <td>{reader.last_used ? when(reader.last_used) : 'never'}</td>
                    <td class="right">
                      {#if reader.revoked}<span class="muted">revoked {when(reader.revoked)}</span>
                      {:else if asking === reader.id}
                        <button class="press small" onclick={() => revoke(reader.id)}>Revoke its key</button>
                        <button class="plain" onclick={() => (asking = null)}>Cancel</button>
                      {:else}<button class="plain" onclick={() => (asking = reader.id)}>Revoke…</button>{/if}
                    </td>
                  </tr>
                {/each}
              </tbody>
            </table>
          </div>
        {:else}<p class="muted text-[13px]">Nobody has a key yet, so nobody can read.</p>{/if}
      </div>
      <div class="how">
        <h3>
          How to read
          {#if addresses.length > 1}
            <select
              class="field small"
              name="address"
              aria-label="Live address"
              value={first}
              onchange={(event) => (chosen = event.currentTarget.value)}
            >
              {#each addresses as one (one.place)}<option value={one.place}
                  >{one.query_name}: {one.place}</option
                >{/each}
            </select>
          {:else}{addresses[0] ? `${addresses[0].query_name}: ${first}` : 'a table'}{/if}
        </h3>
        <dl>
          <dt>A spreadsheet</dt>
          <dd>
            Import from the web with the address <code>{base}{first}.csv</code> (or <code>.html</code>,
            <code>.xlsx</code>). Where it asks, any user will do; the key is the password.
          </dd>
          <dt>A report tool</dt>
          <dd>
            Connect to the OData service <code>{base}/odata/</code> with user and password. This table is
            <code>{odata}</code>; <code>$filter</code>, <code>$select</code>, <code>$orderby</code>,
            <code>$top</code>
            and
            <code>$count</code> work.
          </dd>
          <dt>A script</dt>
          <dd>
            Send the header <code>Authorization: Bearer KEY</code> to <code>{base}{first}.json</code>,
            <code>.jsonl</code> or <code>.parquet</code>.
          </dd>
          <dt>A program that can do none of these</dt>
          <dd>
            Put the key into the address: <code>{base}{first}.csv?key=KEY</code>. That is weaker: addresses
            stay in histories and bookmarks.
          </dd>
          <dt>Another date</dt>
          <dd>
            <code>?on=2026-11-20</code> gives the table as of that day, <code>?since=2026-11-18</code> what is new,
            changed and gone since.
          </dd>
        </dl>
        <p class="muted">Programs on this machine alone reach these addresses.</p>
      </div>
    </div>
  </section>
{/if}

<style>
  .gone {
    opacity: 0.6;
  }
  .how {
    font-size: 13px;
  }
  .how h3 {
    font-weight: 600;
  }
  .small {
    width: auto;
    display: inline-block;
  }
  dt {
    font-weight: 600;
    margin-top: 6px;
  }
  dd {
    overflow-wrap: anywhere;
  }
  td.name {
    max-width: 200px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
</style>
