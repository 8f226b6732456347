<script lang="ts">
  import { Trash2 } from '@lucide/svelte';
  import type { Brief, ServiceInfo } from '../lib/api/client';
  import { templateNames, withParameters } from '../lib/words';
  import Sheet from '../parts/Sheet.svelte';
  import Line from './Line.svelte';

  interface Props {
    brief: Brief;
    services: ServiceInfo[];
    onchange: (brief: Brief) => void;
  }
  let { brief, services, onchange }: Props = $props();

  const service = $derived(services.find((one) => one.service.id === brief.ask.service));
  let path = $state('');
  let query = $state<{ name: string; value: string }[]>([]);
  let chosen = $state('');

  function begin(): void {
    path = brief.ask.path;
    query = brief.ask.query.map((pair) => ({ ...pair }));
    chosen = brief.ask.service;
  }

  function done(event: SubmitEvent, close: () => void): void {
    event.preventDefault();
    const kept = query
      .filter((pair) => pair.name.trim())
      .map((pair) => ({ name: pair.name.trim(), value: pair.value }));
    const ask = { ...brief.ask, service: chosen, path: path.trim() || '/', query: kept };
    onchange(withParameters({ ...brief, ask }));
    close();
  }

  function said(value: string): { text: string; isParameter: boolean } {
    const names = templateNames(value);
    return names.length === 1 && value === `{${names[0]}}`
      ? { text: names[0] ?? '', isParameter: true }
      : { text: value || '(empty)', isParameter: false };
  }
</script>

{#snippet form(close: () => void)}
  <form onsubmit={(event) => done(event, close)} class="space-y-3">
    <label class="block">
      <span class="label">Service</span>
      <select class="field" bind:value={chosen}>
        {#each services as one (one.service.id)}<option value={one.service.id}>{one.service.name}</option
          >{/each}
      </select>
    </label>
    <label class="block">
      <span class="label"
        >Path below its base address; a parameter stands in braces, such as <code>{'/ports/{code}'}</code
        ></span
      >
      <input class="field mono" name="path" bind:value={path} />
    </label>
    <fieldset class="space-y-1.5">
      <legend class="label">Address parameters: name, and a value or a parameter in braces</legend>
      {#each query as pair, at (at)}
        <div class="flex gap-1.5">
          <input class="field mono" style="flex: 2" aria-label="Name" bind:value={pair.name} />
          <input class="field mono" style="flex: 3" aria-label="Value" bind:value={pair.value} />
          <button
            type="button"
            class="cursor-pointer px-1"
            aria-label="Remove"
            onclick={() => query.splice(at, 1)}
          >
            <Trash2 size={15} />
          </button>
        </div>
      {/each}
      <button type="button" class="plain text-[13px]" onclick={() => query.push({ name: '', value: '' })}
        >one more</button
      >
    </fieldset>
    <button class="press main small">Done</button>
  </form>
{/snippet}

<Line verb="Ask">
  <Sheet label="The question" onopen={begin} width={440}>
    {#snippet trigger()}{service?.service.name ?? 'no service'}{/snippet}
    {#snippet children(close)}{@render form(close)}{/snippet}
  </Sheet>
  for
  <Sheet label="The question" look="phrase code" onopen={begin} width={440}>
    {#snippet trigger()}{brief.ask.path}{/snippet}
    {#snippet children(close)}{@render form(close)}{/snippet}
  </Sheet>
  {#each brief.ask.query as pair, at (at)}
    {@const value = said(pair.value)}{at === 0 ? ' where ' : ', '}<code>{pair.name}</code> is
    {#if value.isParameter}<Sheet label="The question" onopen={begin} width={440}>
        {#snippet trigger()}{value.text}{/snippet}
        {#snippet children(close)}{@render form(close)}{/snippet}
      </Sheet>{:else}<code>{value.text}</code>{/if}{/each}.
</Line>
