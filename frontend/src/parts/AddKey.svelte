<!-- Gives a service that is asked without a key one: how it is sent, and its text. -->
<script lang="ts">
  import { api, ask, problemOf, type Key, type Problem, type Service } from '../api/client';
  import { made } from '../domain/credentials';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import { dropTyped, keepTyped, markTyped } from '../ui/typed.svelte';
  import { keyFields } from './keyFields.svelte';
  import KeyWay from './KeyWay.svelte';
  import SecretFields from './SecretFields.svelte';

  interface Props {
    service: Service;
    onstored: () => void;
  }
  let { service, onstored }: Props = $props();
  let key = $state<Key | null>({ name: '', ...made('header') });
  let secret = $state<Record<string, string>>({});
  let problem = $state.raw<Problem | null>(null);
  let busy = $state(false);

  const keep = $derived(`new key of ${service.id}`);
  keepTyped(
    () => keep,
    () => ({ key: $state.snapshot(key), secret: $state.snapshot(secret) }),
    (held) => ({ key, secret } = held),
  );

  const named = (): Key | null => {
    const plain = $state.snapshot(key) as Key | null;
    return plain && { ...plain, name: plain.name || `${service.name} key` };
  };

  const fields = keyFields(named);

  async function store(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    try {
      const path = { service_id: service.id };
      const body = { service: { ...service, key: named() } };
      await ask(api.PUT('/api/services/{service_id}', { params: { path }, body }));
      if (fields.names.length) {
        const typed = { secret: $state.snapshot(secret), expires: null };
        await ask(api.PUT('/api/services/{service_id}/key', { params: { path }, body: typed }));
      }
      secret = {};
      dropTyped(keep);
      onstored();
    } catch (error) {
      problem = problemOf(error);
    }
    busy = false;
  }
</script>

<form onsubmit={store} oninput={() => markTyped(keep)} class="space-y-2.5">
  <p class="label">
    {service.name} is asked without a key. If the API needs one, say how it is sent, and enter it: it is stored
    encrypted and sent to that service alone.
  </p>
  <KeyWay bind:key name="{service.name} key" />
  <SecretFields fields={fields.names} bind:secret />
  {#if problem}<ProblemNote {problem} />{/if}
  <button
    class="press main"
    disabled={busy || !key || fields.names.some((field) => field !== 'password' && !secret[field]?.trim())}
    >Store the key</button
  >
</form>
