<!-- A service refused calls as too many: the limit that it seems to keep, to be kept from now on. -->
<script lang="ts">
  import { api, ask, problemOf, type Problem, type Run } from '../api/client';
  import { windowWords } from '../domain/limits';
  import { counted } from '../domain/words/format';
  import ProblemNote from '../ui/ProblemNote.svelte';

  interface Props {
    refusal: Run['report']['refusals'][number];
  }
  let { refusal }: Props = $props();

  let limit = $derived(refusal.limit ?? null);
  /** Whether the limit is kept already: nothing is said before that is known. */
  let stands = $state<'asking' | 'open' | 'kept'>('asking');
  let problem = $state.raw<Problem | null>(null);

  const path = $derived({ service_id: refusal.service_id });
  const service = async () => {
    const found = (await ask(api.GET('/api/services'))).find((one) => one.service.id === refusal.service_id);
    return found?.service ?? null;
  };
  $effect(() => {
    service().then(
      (found) => (stands = !found || found.limits.length ? 'kept' : 'open'),
      () => {},
    );
  });

  async function keepTo(): Promise<void> {
    if (!limit) return;
    try {
      const found = await service();
      if (!found) return;
      const body = { service: { ...found, limits: [...found.limits, limit] } };
      await ask(api.PUT('/api/services/{service_id}', { params: { path }, body }));
      [stands, problem] = ['kept', null];
    } catch (error) {
      problem = problemOf(error);
    }
  }
</script>

{#if stands === 'open'}
  <div class="seen mx-3 mt-3 mb-2 flex flex-wrap items-center gap-x-3 gap-y-1">
    <p class="min-w-0 flex-1">
      <strong>{refusal.service}</strong> refused {counted(refusal.calls, 'call')} as too many, and they were made
      again.
      {#if limit}It seems to allow {windowWords(limit)}.{:else}No limit is set for it.{/if}
    </p>
    {#if limit}
      <button class="press small main" onclick={keepTo}>Keep to {windowWords(limit)}</button>
    {/if}
    <a class="plain" href="#/services">Set limits</a>
    {#if problem}<ProblemNote {problem} />{/if}
  </div>
{/if}
