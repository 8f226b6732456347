<!-- The limits of a service: any number of windows, how many calls at once, how often one is tried. -->
<script lang="ts">
  import AgainField from './AgainField.svelte';
  import type { Service } from '../api/client';
  import { LIMIT_UNITS } from '../domain/limits';
  import { amountOf, isoOf, type Unit } from '../domain/words/durations';

  interface Props {
    service: Service;
  }
  let { service = $bindable() }: Props = $props();

  function change(at: number, edit: Partial<Service['limits'][number]>): void {
    service.limits = service.limits.map((window, index) => (index === at ? { ...window, ...edit } : window));
  }

  function span(at: number, amount: number, unit: Unit): void {
    const per = isoOf(Math.max(1, amount || 1), unit);
    change(at, { per, ...(per === 'P1D' ? {} : { starts: 'any time' as const }) });
  }
</script>

<fieldset class="rounded-md border px-3 pt-1 pb-3" style="border-color: var(--line)">
  <legend class="px-1 text-[13px]">Rate limits: calls wait so that none is exceeded</legend>
  {#each service.limits as window, at (at)}
    {@const per = amountOf(window.per) ?? { amount: 1, unit: 'TM' as const }}
    <div class="mt-1.5 flex flex-wrap items-center gap-2">
      <input
        class="field w-24"
        type="number"
        min="1"
        aria-label="Calls of limit {at + 1}"
        value={window.calls}
        onchange={(event) => change(at, { calls: Math.max(1, Number(event.currentTarget.value) || 1) })}
      />
      calls in
      <input
        class="field w-20"
        type="number"
        min="1"
        aria-label="Length of limit {at + 1}"
        value={per.amount}
        onchange={(event) => span(at, Number(event.currentTarget.value), per.unit)}
      />
      <select
        class="field w-28"
        aria-label="Unit of limit {at + 1}"
        value={per.unit}
        onchange={(event) => span(at, per.amount, event.currentTarget.value as Unit)}
      >
        {#each LIMIT_UNITS as [unit, words] (unit)}<option value={unit}>{words}</option>{/each}
      </select>
      {#if window.per === 'P1D'}
        <label class="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={window.starts === 'calendar'}
            onchange={(event) =>
              change(at, { starts: event.currentTarget.checked ? 'calendar' : 'any time' })}
          /> from midnight
        </label>
        {#if window.starts === 'calendar'}
          <input
            class="field mono w-36"
            aria-label="Time zone of limit {at + 1}"
            value={window.zone}
            onchange={(event) => change(at, { zone: event.currentTarget.value.trim() || 'UTC' })}
          />
        {/if}
      {/if}
      <label class="flex items-center gap-1.5">
        <input
          type="checkbox"
          checked={window.of === 'key'}
          onchange={(event) => change(at, { of: event.currentTarget.checked ? 'key' : 'service' })}
        /> counted for the key, not for the service
      </label>
      <button
        type="button"
        class="plain ml-auto"
        onclick={() => (service.limits = service.limits.filter((_, index) => index !== at))}>remove</button
      >
    </div>
  {/each}
  <button
    type="button"
    class="plain mt-2"
    onclick={() =>
      (service.limits = [
        ...service.limits,
        { calls: 60, per: 'PT1M', starts: 'any time', zone: 'UTC', of: 'service' },
      ])}>{service.limits.length ? 'add another limit' : 'add a rate limit'}</button
  >
  <div class="mt-3 grid grid-cols-2 gap-3">
    <label>
      <span class="label">Concurrent calls, at most; after a refusal fewer are made</span>
      <input
        class="field"
        type="number"
        name="at_once"
        min="1"
        max="32"
        bind:value={service.at_once}
        required
      />
    </label>
    <label>
      <span class="label">Attempts at a call that fails transiently</span>
      <input class="field" type="number" name="tries" min="1" max="20" bind:value={service.tries} required />
    </label>
  </div>
  <AgainField bind:again={service.again} />
  <label class="mt-2 flex items-start gap-2">
    <input class="mt-0.5" type="checkbox" name="conditional" bind:checked={service.conditional} />
    <span>On a refresh, ask only for what changed since it was saved (ETag, Last-Modified)</span>
  </label>
  {#if service.conditional}
    <label class="mt-1 ml-6 flex items-start gap-2">
      <input
        class="mt-0.5"
        type="checkbox"
        name="unchanged_counts"
        checked={service.unchanged_counts}
        onchange={(event) => (service.unchanged_counts = event.currentTarget.checked)}
      />
      <span>The answer that nothing changed (304) counts against the rate limits</span>
    </label>
  {/if}
  <label class="mt-2 flex items-start gap-2">
    <input class="mt-0.5" type="checkbox" name="find_out" bind:checked={service.find_out} />
    <span>When asking once, find out by itself whether there is more: up to 6 calls that only read</span>
  </label>
</fieldset>
