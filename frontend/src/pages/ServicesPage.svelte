<script lang="ts">
  import { onMount } from 'svelte';
  import {
    api,
    ask,
    problemOf,
    type Check,
    type Problem,
    type Service,
    type ServiceInfo,
  } from '../lib/api/client';
  import { when } from '../lib/format';
  import KeyForm from '../parts/KeyForm.svelte';
  import ProblemNote from '../parts/ProblemNote.svelte';
  import ServiceForm from '../parts/ServiceForm.svelte';
  import Window from '../parts/Window.svelte';

  let services = $state.raw<ServiceInfo[] | null>(null);
  let checks = $state<Record<string, Check | 'asking'>>({});
  let editing = $state.raw<Service | null>(null);
  let isNew = $state(false);
  let keyFor = $state.raw<Service | null>(null);
  let dropping = $state.raw<ServiceInfo | null>(null);
  let problem = $state<Problem | null>(null);
  const blank: Service = {
    id: 'new',
    name: '',
    base: '',
    headers: [],
    timeout: 30,
    docs: '',
    note: '',
    key: null,
  };

  onMount(() => {
    document.title = 'Services and keys · Tin Bucket';
    void load();
  });

  async function load(): Promise<void> {
    try {
      services = await ask(api.GET('/api/services'));
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

  const SIGNS: Record<string, string> = { reached: '✓', 'key-refused': '✕', 'not-reached': '✕' };
</script>

<div class="h-full overflow-auto px-6 py-5" style="background: var(--band)">
  <div class="flex items-center">
    <div class="flex-1">
      <h1 class="text-[19px] font-bold">Services and keys</h1>
      <p class="muted">
        A service is one API. Its key is stored once, encrypted in this workspace, and goes to that service
        alone.
      </p>
    </div>
    <button class="press main" onclick={() => ((isNew = true), (keyFor = null), (editing = blank))}
      >Add a service</button
    >
  </div>
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
              waits {service.timeout} s{service.note ? ` · ${service.note}` : ''}
            </p>
            <p class="muted mt-1">
              {info.used_by.length ? `asked by ${info.used_by.join(', ')}` : 'no query asks it yet'}
            </p>
          </div>
          <div class="w-[430px] shrink-0">
            {#if service.key}
              <p>
                <strong>{service.key.name}</strong>
                <span class="muted">in</span> <code>{service.key.header}: {service.key.prefix}••••</code>
              </p>
              <p class="muted mt-1">
                {#if !info.key_stored}
                  <span style="color: var(--straw-ink); font-weight: 600">not stored yet</span>
                {:else if !info.key_fits}
                  <span style="color: var(--straw-ink); font-weight: 600"
                    >stored for {info.key_bound_to}, put it in again</span
                  >
                {:else}
                  stored {when(info.key_stored)}, {info.key_last_used
                    ? `last used ${when(info.key_last_used)}`
                    : 'not used yet'}
                {/if}
              </p>
              <div class="mt-2 flex gap-2">
                <button class="press small" onclick={() => (keyFor = service)}
                  >{info.key_stored ? 'Replace the key' : 'Store the key'}</button
                >
                {#if info.key_stored}<button class="press small" onclick={() => forget(service)}
                    >Delete the key</button
                  >{/if}
              </div>
            {:else}
              <p class="muted">wants no key</p>
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
              <strong style="color: {found.reading === 'reached' ? 'var(--link)' : 'var(--straw-ink)'}"
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
  <Window
    title={keyFor ? `The key of ${keyFor.name}` : isNew ? 'Add a service' : (editing?.name ?? '')}
    open
    onclose={() => (editing = keyFor = null)}
    width={keyFor ? 480 : 640}
  >
    {#if keyFor}
      <KeyForm
        service={keyFor}
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
          if (isNew && info.service.key) keyFor = info.service;
          void load();
        }}
      />
    {/if}
  </Window>
{/if}
{#if dropping}
  <Window title="Delete {dropping.service.name}?" open onclose={() => (dropping = null)} width={460}>
    {#if dropping.used_by.length}
      <p>
        It is asked by {dropping.used_by.join(', ')}. Delete those queries first, or let them ask another
        service.
      </p>
    {:else}
      <p>No query asks it. Its key is deleted with it.</p>
    {/if}
    <div class="mt-4 flex gap-2">
      <button class="press main" disabled={dropping.used_by.length > 0} onclick={drop}>Delete it</button>
      <button class="press" onclick={() => (dropping = null)}>Keep it</button>
    </div>
  </Window>
{/if}
