<!-- A service: base address, where its key goes, time-out, docs. -->
<script lang="ts">
  import { api, ask, problemOf, type Problem, type Service, type ServiceInfo } from '../lib/api/client';
  import ProblemNote from './ProblemNote.svelte';

  interface Props {
    service: Service;
    isNew: boolean;
    onsaved: (info: ServiceInfo) => void;
  }
  let { service, isNew, onsaved }: Props = $props();
  // svelte-ignore state_referenced_locally
  let draft = $state($state.snapshot(service));
  // svelte-ignore state_referenced_locally
  let wantsKey = $state(!!service.key);
  // svelte-ignore state_referenced_locally
  let key = $state(service.key ? { ...service.key } : { name: '', header: 'X-Api-Key', prefix: '' });
  let problem = $state<Problem | null>(null);

  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const body = {
      service: {
        ...$state.snapshot(draft),
        key: wantsKey ? { ...$state.snapshot(key), name: key.name || `${draft.name} key` } : null,
      },
    };
    try {
      const info = isNew
        ? await ask(api.POST('/api/services', { body }))
        : await ask(
            api.PUT('/api/services/{service_id}', { params: { path: { service_id: draft.id } }, body }),
          );
      problem = null;
      onsaved(info);
    } catch (error) {
      problem = problemOf(error);
    }
  }
</script>

<form onsubmit={save} class="space-y-3">
  <div class="grid grid-cols-2 gap-3">
    <label
      ><span class="label">Name</span><input
        class="field"
        name="name"
        bind:value={draft.name}
        required
      /></label
    >
    <label>
      <span class="label">Longest wait for an answer, seconds</span>
      <input class="field" type="number" min="1" max="600" bind:value={draft.timeout} required />
    </label>
  </div>
  <label class="block">
    <span class="label">Base address, the part that all its addresses begin with</span>
    <input class="field mono" name="base" bind:value={draft.base} required placeholder="https://" />
  </label>
  <fieldset class="rounded-md border p-3" style="border-color: var(--line)">
    <legend class="px-1">
      <label class="inline-flex items-center gap-2">
        <input type="checkbox" bind:checked={wantsKey} /> It wants a key in a header
      </label>
    </legend>
    {#if wantsKey}
      <div class="grid grid-cols-3 gap-3">
        <label>
          <span class="label">Name of the header</span>
          <input class="field mono" name="header" bind:value={key.header} required />
        </label>
        <label>
          <span class="label">Text before the key</span>
          <input class="field mono" bind:value={key.prefix} placeholder="none" />
        </label>
        <label>
          <span class="label">What you call the key</span>
          <input class="field" bind:value={key.name} placeholder="{draft.name} key" />
        </label>
      </div>
    {:else}
      <p class="muted">No key is sent.</p>
    {/if}
  </fieldset>
  <div class="grid grid-cols-2 gap-3">
    <label
      ><span class="label">Address of its docs</span><input class="field" bind:value={draft.docs} /></label
    >
    <label><span class="label">Note</span><input class="field" bind:value={draft.note} /></label>
  </div>
  {#if problem}<ProblemNote {problem} />{/if}
  <button class="press main">{isNew ? 'Add the service' : 'Save'}</button>
</form>
