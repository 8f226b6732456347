<!-- Puts a key into the vault. The field is never filled from anywhere, and is emptied when it was stored. -->
<script lang="ts">
  import { api, ask, problemOf, type Problem, type ServiceInfo } from '../lib/api/client';
  import ProblemNote from './ProblemNote.svelte';

  interface Props {
    service: { id: string; name: string; key?: { name: string; header: string } | null };
    onstored: (info: ServiceInfo) => void;
  }
  let { service, onstored }: Props = $props();
  let secret = $state('');
  let problem = $state<Problem | null>(null);
  let busy = $state(false);

  async function store(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    try {
      const info = await ask(
        api.PUT('/api/services/{service_id}/key', {
          params: { path: { service_id: service.id } },
          body: { secret },
        }),
      );
      secret = '';
      problem = null;
      onstored(info);
    } catch (error) {
      problem = problemOf(error);
    }
    busy = false;
  }
</script>

<form onsubmit={store} class="space-y-2">
  <label class="block">
    <span class="label">
      The key’s text. It goes to {service.name} in the header <code>{service.key?.header}</code>, is stored
      encrypted, and is not shown again.
    </span>
    <input
      class="field mono"
      type="password"
      name="new-key"
      autocomplete="off"
      spellcheck="false"
      bind:value={secret}
      required
      placeholder="paste the key"
    />
  </label>
  {#if problem}<ProblemNote {problem} />{/if}
  <button class="press main" disabled={busy || !secret.trim()}>Store the key</button>
</form>
