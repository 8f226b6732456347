<!-- Puts a key into the vault, field by field. The fields are never filled from anywhere, and are emptied when it was stored. -->
<script lang="ts">
  import { api, ask, problemOf, type Key, type Problem, type ServiceInfo } from '../api/client';
  import { isPasted, placeWords } from '../domain/credentials';
  import { fieldWords } from '../domain/words/labels';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import SecretFields from './SecretFields.svelte';
  import { dropTyped, keepTyped, markTyped } from '../ui/typed.svelte';

  interface Props {
    service: { id: string; name: string; key?: Key | null };
    fields: string[];
    onstored: (info: ServiceInfo) => void;
    /** Whether to ask for the day on which it ends. */
    asksEnd?: boolean;
  }
  let { service, fields, onstored, asksEnd = true }: Props = $props();
  let secret = $state<Record<string, string>>({});
  let expires = $state('');
  let problem = $state<Problem | null>(null);
  let busy = $state(false);
  const keep = $derived(`key of ${service.id}`);
  keepTyped(
    () => keep,
    () => ({ secret: $state.snapshot(secret), expires }),
    (held) => ({ secret, expires } = held),
  );
  const asked = $derived(isPasted(service.key));
  const complete = $derived(fields.every((field) => field === 'password' || secret[field]?.trim()));

  async function store(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    try {
      const typed = Object.fromEntries(fields.map((field) => [field, secret[field] ?? '']));
      const info = await ask(
        api.PUT('/api/services/{service_id}/key', {
          params: { path: { service_id: service.id } },
          body: { secret: typed, expires: expires || null },
        }),
      );
      secret = {};
      dropTyped(keep);
      problem = null;
      onstored(info);
    } catch (error) {
      problem = problemOf(error);
    }
    busy = false;
  }
</script>

<form onsubmit={store} oninput={() => markTyped(keep)} class="space-y-2.5">
  <p class="label">
    {#if asked}
      A token for {service.name}. It is kept in memory until it ends, and never stored.
    {:else}
      The {fields.map(fieldWords).join(' and ')} for {service.name}: stored encrypted, sent to that service
      alone, not shown again.
      {#if service.key}
        It goes
        {#each service.key.places as place, at (at)}{@const words = placeWords(place)}{at
            ? ' and '
            : ''}{words.where}{/each}.
      {/if}
    {/if}
  </p>
  <SecretFields {fields} bind:secret />
  {#if asksEnd && !asked}
    <label class="block">
      <span class="label">The day it ends, if it does; you are told two weeks before</span>
      <input class="field" type="date" name="expires" style="width: 170px" bind:value={expires} />
    </label>
  {/if}
  {#if problem}<ProblemNote {problem} />{/if}
  <button class="press main" disabled={busy || !complete}>{asked ? 'Use the token' : 'Store the key'}</button>
</form>
