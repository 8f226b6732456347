<!-- One service: its address, what is left of its limits, its key, and what a check found. -->
<script lang="ts">
  import type { Check, ServiceInfo } from '../api/client';
  import { windowWords } from '../domain/limits';
  import { count, when } from '../domain/words/format';
  import KeyStatus from './KeyStatus.svelte';

  interface Props {
    info: ServiceInfo;
    found: Check | 'asking' | undefined;
    oncheck: () => void;
    onedit: () => void;
    ondrop: () => void;
    /** Keep to the limits that the service's own answers tell. */
    onkeep: () => void;
    onkey: () => void;
    onforget: () => void;
    onend: (day: string) => void;
  }
  let { info, found, oncheck, onedit, ondrop, onkeep, onkey, onforget, onend }: Props = $props();
  const service = $derived(info.service);

  const SIGNS: Record<string, string> = {
    reached: '✓',
    'key-accepted': '✓',
    'key-refused': '✕',
    'not-reached': '✕',
  };
  const isGood = (reading: string): boolean => reading === 'reached' || reading === 'key-accepted';
</script>

<article class="rounded-[9px] border p-4" style="border-color: var(--line); background: var(--paper)">
  <div class="flex items-start gap-6 max-[700px]:flex-col max-[700px]:gap-3">
    <div class="min-w-0 flex-1">
      <h2 class="text-[16px] font-bold">{service.name}</h2>
      <p class="wrap-anywhere"><code>{service.base}</code></p>
      <p class="muted mt-1">
        {#if service.docs}<a class="plain" href={service.docs} target="_blank" rel="noreferrer">its docs</a> ·{/if}
        time-out {service.timeout} s{service.note ? ` · ${service.note}` : ''}
      </p>
      <p class="muted mt-1">
        {info.used_by.length ? `used by ${info.used_by.join(', ')}` : 'no query uses it yet'}
      </p>
      {#each info.allowances as one (one.words)}
        <p class="mt-1 flex items-center gap-2">
          <span class="gauge" aria-hidden="true"><i style="width: {(one.left / one.calls) * 100}%"></i></span>
          <span class="muted"
            >{count(one.left)} left of {one.words}{one.left === 0 && one.resets
              ? `, more ${when(one.resets)}`
              : ''}</span
          >
        </p>
      {/each}
      {#if info.advertised?.windows.length}
        <p class="seen mt-2">
          <strong
            >Its answers state a limit of {info.advertised.windows.map(windowWords).join(' and ')}.</strong
          >
          <button class="press small main ml-1" onclick={onkeep}>Use that limit</button>
        </p>
      {/if}
    </div>
    <div class="w-[430px] shrink-0 max-[700px]:w-full">
      <KeyStatus {info} {onkey} {onforget} {onend} />
    </div>
    <div class="flex shrink-0 flex-col gap-2 max-[700px]:flex-row">
      <button class="press small" onclick={oncheck}>Check</button>
      <button class="press small" onclick={onedit}>Edit</button>
      <button class="press small" onclick={ondrop}>Delete</button>
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
</style>
