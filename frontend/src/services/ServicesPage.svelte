<script lang="ts">
  import { onMount } from 'svelte';
  import {
    api,
    ask,
    problemOf,
    type About,
    type Check,
    type Problem,
    type Service,
    type ServiceInfo,
  } from '../api/client';
  import { count, when } from '../domain/words/format';
  import { blankService, windowWords } from '../domain/limits';
  import { isPasted, placeWords, sourceWords } from '../domain/credentials';
  import TransferDialog from './TransferDialog.svelte';
  import KeyForm from '../parts/KeyForm.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import ServiceForm from './ServiceForm.svelte';
  import VaultLine from './VaultLine.svelte';
  import Dialog from '../ui/Dialog.svelte';

  let services = $state.raw<ServiceInfo[] | null>(null);
  let checks = $state<Record<string, Check | 'asking'>>({});
  let editing = $state.raw<Service | null>(null);
  let isNew = $state(false);
  let keyFor = $state.raw<ServiceInfo | null>(null);
  let forgetting = $state.raw<ServiceInfo | null>(null);
  let about = $state.raw<About | null>(null);
  let carrying = $state(false);
  let dropping = $state.raw<ServiceInfo | null>(null);
  let problem = $state<Problem | null>(null);
  const blank = (): Service => blankService(about?.caller ?? '');

  /** Keep to the limits that the service's own answers tell. */
  async function keepTo(info: ServiceInfo): Promise<void> {
    const service = {
      ...info.service,
      limits: [...info.service.limits, ...(info.advertised?.windows ?? [])],
    };
    try {
      const path = { service_id: service.id };
      await ask(api.PUT('/api/services/{service_id}', { params: { path }, body: { service } }));
      problem = null;
    } catch (error) {
      problem = problemOf(error);
    }
    await load();
  }

  onMount(() => {
    document.title = 'Services and keys · Tin Bucket';
    void load();
  });

  async function load(): Promise<void> {
    try {
      services = await ask(api.GET('/api/services'));
      about = await ask(api.GET('/api/about'));
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function check(service: Service): Promise<void> {
    checks[service.id] = 'asking';
    try {
      checks[service.id] = await ask(
        api.POST('/api/services/{service_id}/check', { params: { path: { service_id: service.id } } }),
      );
    } catch (error) {
      const found = problemOf(error);
      checks[service.id] = { reading: 'not-reached', what: found.what, do: found.do };
    }
  }

  async function forget(service: Service): Promise<void> {
    try {
      await ask(
        api.DELETE('/api/services/{service_id}/key', { params: { path: { service_id: service.id } } }),
      );
    } catch (error) {
      problem = problemOf(error);
    }
    forgetting = null;
    await load();
  }

  async function setEnd(service: Service, day: string): Promise<void> {
    try {
      await ask(
        api.PUT('/api/services/{service_id}/key/expires', {
          params: { path: { service_id: service.id } },
          body: { expires: day || null },
        }),
      );
    } catch (error) {
      problem = problemOf(error);
    }
    await load();
  }

  async function drop(): Promise<void> {
    if (!dropping) return;
    try {
      await ask(
        api.DELETE('/api/services/{service_id}', { params: { path: { service_id: dropping.service.id } } }),
      );
      problem = null;
    } catch (error) {
      problem = problemOf(error);
    }
    dropping = null;
    await load();
  }

  const SIGNS: Record<string, string> = {
    reached: '✓',
    'key-accepted': '✓',
    'key-refused': '✕',
    'not-reached': '✕',
  };
  const isGood = (reading: string): boolean => reading === 'reached' || reading === 'key-accepted';
</script>

<div class="h-full overflow-auto px-6 py-5" style="background: var(--band)">
  <div class="flex items-center">
    <div class="flex-1">
      <h1 class="text-[19px] font-bold">Services and keys</h1>
      <p class="muted">
        A service is one API. Its key is stored once, encrypted in this workspace, and goes to that service
        alone. {#if about && about.vault !== 'closed'}<VaultLine
            {about}
            onchange={(now) => (about = now)}
          />{/if}
      </p>
    </div>
    <button class="press mr-2" onclick={() => (carrying = true)}>Export / import…</button>
    <button class="press main" onclick={() => ((isNew = true), (keyFor = null), (editing = blank()))}
      >Add a service</button
    >
  </div>
  {#if about?.vault === 'closed'}
    <VaultLine
      {about}
      onchange={(now) => {
        about = now;
        void load();
      }}
    />
  {/if}
  {#if problem}<div class="mt-3"><ProblemNote {problem} /></div>{/if}
  {#if services?.length === 0}
    <p class="muted mt-10 text-center">
      No service yet. Add one here, or paste an API’s address on the desk.
    </p>
  {/if}
  <div class="mt-4 space-y-3">
    {#each services ?? [] as info (info.service.id)}
      {@const service = info.service}
      {@const found = checks[service.id]}
      <article class="rounded-[9px] border p-4" style="border-color: var(--line); background: var(--paper)">
        <div class="flex items-start gap-6">
          <div class="min-w-0 flex-1">
            <h2 class="text-[16px] font-bold">{service.name}</h2>
            <p class="wrap-anywhere"><code>{service.base}</code></p>
            <p class="muted mt-1">
              {#if service.docs}<a class="plain" href={service.docs} target="_blank" rel="noreferrer"
                  >its docs</a
                > ·{/if}
              time-out {service.timeout} s{service.note ? ` · ${service.note}` : ''}
            </p>
            <p class="muted mt-1">
              {info.used_by.length ? `used by ${info.used_by.join(', ')}` : 'no query uses it yet'}
            </p>
            {#each info.allowances as one (one.words)}
              <p class="mt-1 flex items-center gap-2">
                <span class="gauge" aria-hidden="true"
                  ><i style="width: {(one.left / one.calls) * 100}%"></i></span
                >
                <span class="muted"
                  >{count(one.left)} left of {one.words}{one.left === 0 && one.resets
                    ? `, more ${when(one.resets)}`
                    : ''}</span
                >
              </p>
            {/each}
            {#if info.advertised?.windows.length}
              <p class="seen mt-2">
                <strong>Its answers tell of {info.advertised.windows.map(windowWords).join(' and ')}.</strong>
                <button class="press small main ml-1" onclick={() => keepTo(info)}>Keep to that</button>
              </p>
            {/if}
          </div>
          <div class="w-[430px] shrink-0">
            {#if service.key && info.key}
              {@const key = service.key}
              {@const known = info.key}
              <p>
                <strong>{key.name}</strong>
                {#each key.places as place, at (at)}
                  {@const words = placeWords(place)}
                  <span class="muted">{at ? ' and ' : ' '}{words.where}</span> <code>{words.shown}</code>
                {/each}
              </p>
              {#if sourceWords(key)}<p class="muted">{sourceWords(key)}</p>{/if}
              <p class="muted mt-1">
                {#if isPasted(key)}
                  {known.token_ends
                    ? `a token is here until ${when(known.token_ends)}`
                    : 'no token now; it is asked for when a refresh needs it'}
                {:else if !known.stored}
                  <span class="loud">not stored yet</span>
                {:else if !known.fits}
                  <span class="loud">stored for {known.bound_to}, put it in again</span>
                {:else if !known.ready}
                  <span class="loud">a part of it is missing, put it in again</span>
                {:else}
                  {#if known.fingerprint}<code>…{known.fingerprint}</code>,{/if}
                  stored {when(known.stored)}, {known.last_used
                    ? `last used ${when(known.last_used)}`
                    : 'not used yet'}{known.token_ends ? `, token until ${when(known.token_ends)}` : ''}
                {/if}
              </p>
              {#if info.waiting.length}
                <p class="loud mt-1">
                  {info.waiting.join(', ')}
                  {info.waiting.length === 1 ? 'waits' : 'wait'} for it
                </p>
              {/if}
              <div class="mt-2 flex flex-wrap items-center gap-2">
                <button class="press small" onclick={() => (keyFor = info)}
                  >{isPasted(key)
                    ? 'Paste a token'
                    : known.stored
                      ? 'Replace the key'
                      : 'Store the key'}</button
                >
                {#if known.stored}
                  <button class="press small" onclick={() => (forgetting = info)}>Delete the key</button>
                  <label class="muted ml-1 flex items-center gap-1.5 text-[12.5px]">
                    good until
                    <input
                      class="end"
                      type="date"
                      aria-label="Day on which {key.name} ends"
                      value={known.expires?.slice(0, 10) ?? ''}
                      onchange={(event) => setEnd(service, event.currentTarget.value)}
                    />
                  </label>
                {/if}
              </div>
            {:else}
              <p class="muted">needs no key</p>
            {/if}
          </div>
          <div class="flex shrink-0 flex-col gap-2">
            <button class="press small" onclick={() => check(service)}>Check</button>
            <button class="press small" onclick={() => ((isNew = false), (editing = service))}>Edit</button>
            <button class="press small" onclick={() => (dropping = info)}>Delete</button>
          </div>
        </div>
        {#if found}
          <p class="mt-3 border-t pt-2.5" style="border-color: var(--hair)" aria-live="polite">
            {#if found === 'asking'}
              <span class="muted">asking…</span>
            {:else}
              <strong style="color: {isGood(found.reading) ? 'var(--link)' : 'var(--straw-ink)'}"
                >{SIGNS[found.reading]}</strong
              >
              {found.what} <span class="muted">{found.do}</span>
            {/if}
          </p>
        {/if}
      </article>
    {/each}
  </div>
</div>

{#if editing || keyFor}
  <!-- One window for both steps of a new service: set it up, then store its key. -->
  <Dialog
    title={keyFor ? `The key of ${keyFor.service.name}` : isNew ? 'Add a service' : (editing?.name ?? '')}
    open
    onclose={() => (editing = keyFor = null)}
    width={keyFor ? 480 : 760}
  >
    {#if keyFor}
      <KeyForm
        service={keyFor.service}
        wants={keyFor.key?.wants ?? []}
        onstored={() => {
          keyFor = null;
          void load();
        }}
      />
    {:else if editing}
      <ServiceForm
        service={editing}
        {isNew}
        onsaved={(info) => {
          editing = null;
          if (isNew && info.service.key) keyFor = info;
          void load();
        }}
      />
    {/if}
  </Dialog>
{/if}
{#if forgetting}
  {@const info = forgetting}
  <Dialog title="Delete the key of {info.service.name}?" open onclose={() => (forgetting = null)} width={480}>
    <p>
      {#if info.used_by.length}
        {info.used_by.join(', ')}
        {info.used_by.length === 1 ? 'uses' : 'use'} it and cannot be refreshed without it.
      {:else}
        No query uses it.
      {/if}
      Its text is deleted for good; it can be put in again at any time.
    </p>
    <div class="mt-4 flex gap-2">
      <button class="press main" onclick={() => forget(info.service)}>Delete the key</button>
      <button class="press" onclick={() => (forgetting = null)}>Keep it</button>
    </div>
  </Dialog>
{/if}
{#if carrying}
  <TransferDialog
    onclose={() => {
      carrying = false;
      void load();
    }}
  />
{/if}
{#if dropping}
  <Dialog title="Delete {dropping.service.name}?" open onclose={() => (dropping = null)} width={460}>
    {#if dropping.used_by.length}
      <p>
        It is used by {dropping.used_by.join(', ')}. Delete those queries first, or let them ask another
        service.
      </p>
    {:else}
      <p>No query asks it. Its key is deleted with it.</p>
    {/if}
    <div class="mt-4 flex gap-2">
      <button class="press main" disabled={dropping.used_by.length > 0} onclick={drop}>Delete it</button>
      <button class="press" onclick={() => (dropping = null)}>Keep it</button>
    </div>
  </Dialog>
{/if}

<style>
  .gauge {
    display: inline-block;
    width: 64px;
    height: 8px;
    border: 1px solid var(--muted);
    border-radius: 4px;
    overflow: hidden;
    flex: none;
  }
  .gauge i {
    display: block;
    height: 100%;
    background: var(--link);
  }
  .loud {
    color: var(--straw-ink);
    font-weight: 600;
  }
  .end {
    height: 25px;
    border: 1px solid var(--line);
    border-radius: 5px;
    padding: 0 5px;
    background: var(--paper);
    color: var(--ink);
    font-size: 12.5px;
  }
</style>
