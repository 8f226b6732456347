<!-- Puts a row or a figure on the desk, and takes it off. -->
<script lang="ts">
  import Eye from '@lucide/svelte/icons/eye';
  import EyeOff from '@lucide/svelte/icons/eye-off';
  import { api, ask, type WatchInfo } from '../api/client';
  import { sameJson } from '../api/json';

  interface Props {
    queryId: number;
    watch: WatchInfo['watch'];
  }
  let { queryId, watch }: Props = $props();
  let all = $state.raw<WatchInfo[] | null>(null);
  let failed = $state(false);
  const own = $derived(
    all?.find((one) => one.query_id === queryId && sameJson({ ...one.watch }, { ...watch })) ?? null,
  );

  async function load(): Promise<void> {
    all = await ask(api.GET('/api/watches'));
  }
  load().catch(() => (failed = true));

  async function toggle(): Promise<void> {
    try {
      failed = false;
      if (own) await ask(api.DELETE('/api/watches/{number}', { params: { path: { number: own.id } } }));
      else await ask(api.POST('/api/watches', { body: { query_id: queryId, watch } }));
      await load();
    } catch {
      failed = true;
    }
  }
</script>

{#if all}
  <button
    class="press"
    aria-pressed={!!own}
    title={own ? 'It is on the desk' : 'Put it on the desk'}
    onclick={toggle}
  >
    {#if own}<EyeOff size={15} /> Watch no more{:else}<Eye size={15} /> Watch{/if}
  </button>
{/if}
{#if failed}<span class="text-[13px]" role="alert">The watch list cannot be changed now.</span>{/if}
