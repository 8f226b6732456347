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
  import { blankService } from '../domain/limits';
  import TransferDialog from './TransferDialog.svelte';
  import KeyForm from '../parts/KeyForm.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import ServiceCard from './ServiceCard.svelte';
  import ServiceForm from './ServiceForm.svelte';
  import VaultLine from './VaultLine.svelte';
  import Confirm from '../ui/Confirm.svelte';
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
</script>

<div class="h-full overflow-auto px-6 py-5" style="background: var(--band)">
  <div class="flex items-center gap-2 max-[700px]:flex-wrap">
    <div class="flex-1 max-[700px]:basis-full">
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
      <ServiceCard
        {info}
        found={checks[info.service.id]}
        oncheck={() => check(info.service)}
        onedit={() => ((isNew = false), (editing = info.service))}
        ondrop={() => (dropping = info)}
        onkeep={() => keepTo(info)}
        onkey={() => (keyFor = info)}
        onforget={() => (forgetting = info)}
        onend={(day) => setEnd(info.service, day)}
      />
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
        fields={keyFor.key?.required_fields ?? []}
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
  <Confirm
    title="Delete the key of {info.service.name}?"
    yes="Delete the key"
    onyes={() => forget(info.service)}
    onno={() => (forgetting = null)}
  >
    {#if info.used_by.length}
      {info.used_by.join(', ')}
      {info.used_by.length === 1 ? 'uses' : 'use'} it and cannot be refreshed without it.
    {:else}
      No query uses it.
    {/if}
    Its text is deleted for good. You can store it again at any time.
  </Confirm>
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
  <Confirm
    title="Delete {dropping.service.name}?"
    yes="Delete it"
    allowed={!dropping.used_by.length}
    onyes={drop}
    onno={() => (dropping = null)}
  >
    {#if dropping.used_by.length}
      It is used by {dropping.used_by.join(', ')}. Delete those queries first, or let them ask another
      service.
    {:else}
      No query uses it. Its key is deleted with it.
    {/if}
  </Confirm>
{/if}
