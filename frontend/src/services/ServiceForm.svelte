<!-- A service: base address, where its key goes, fixed headers, time-outs, docs. -->
<script lang="ts">
  import { api, ask, problemOf, type Key, type Problem, type Service, type ServiceInfo } from '../api/client';
  import ErrorRulesField from './ErrorRulesField.svelte';
  import KeyWay from '../parts/KeyWay.svelte';
  import LimitsField from './LimitsField.svelte';
  import PairsField from '../ui/PairsField.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';

  interface Props {
    service: Service;
    isNew: boolean;
    onsaved: (info: ServiceInfo) => void;
  }
  let { service, isNew, onsaved }: Props = $props();
  // svelte-ignore state_referenced_locally
  let draft = $state($state.snapshot(service));
  // svelte-ignore state_referenced_locally
  let key = $state<Key | null>($state.snapshot(service.key) ?? null);
  // svelte-ignore state_referenced_locally
  let headers = $state($state.snapshot(service.headers));
  let problem = $state<Problem | null>(null);
  const keyName = $derived(`${draft.name || 'its'} key`);

  async function save(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const body = {
      service: {
        ...$state.snapshot(draft),
        headers: $state.snapshot(headers).filter((pair) => pair.name.trim()),
        key: key ? { ...$state.snapshot(key), name: key.name || keyName } : null,
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
  <div class="grid grid-cols-[1fr_1.5fr] gap-3">
    <label
      ><span class="label">Name</span><input
        class="field"
        name="name"
        bind:value={draft.name}
        required
      /></label
    >
    <label>
      <span class="label">Base address, the part that all its addresses begin with</span>
      <input class="field mono" name="base" bind:value={draft.base} required placeholder="https://" />
    </label>
  </div>
  <KeyWay bind:key name={keyName} />
  <LimitsField bind:service={draft} />
  <details>
    <summary class="plain cursor-pointer text-[13px]" style="color: var(--link)"
      >Headers, time-outs, check, errors, docs and note</summary
    >
    <div class="mt-2.5 space-y-3">
      <PairsField
        legend="Headers that go with every call, such as who is calling"
        bind:pairs={headers}
        more="one more header"
      />
      <div class="grid grid-cols-4 gap-3">
        <label>
          <span class="label">Whole answer, seconds</span>
          <input class="field" type="number" min="1" max="600" bind:value={draft.timeout} required />
        </label>
        <label>
          <span class="label">Connection, seconds</span>
          <input class="field" type="number" min="1" max="600" bind:value={draft.connect} required />
        </label>
        <label>
          <span class="label">Longest address, characters</span>
          <input
            class="field"
            type="number"
            name="most_address"
            min="100"
            max="100000"
            placeholder="found out"
            value={draft.most_address}
            onchange={(event) => (draft.most_address = Number(event.currentTarget.value) || null)}
          />
        </label>
        <label>
          <span class="label">Path that a check asks for</span>
          <input class="field mono" name="check" bind:value={draft.check} required />
        </label>
      </div>
      <ErrorRulesField bind:error_rules={draft.error_rules} />
      <div class="grid grid-cols-2 gap-3">
        <label
          ><span class="label">Address of its docs</span><input
            class="field"
            bind:value={draft.docs}
          /></label
        >
        <label><span class="label">Note</span><input class="field" bind:value={draft.note} /></label>
      </div>
    </div>
  </details>
  {#if problem}<ProblemNote {problem} />{/if}
  <button class="press main">{isNew ? 'Add the service' : 'Save'}</button>
</form>
