<!-- What was understood of a pasted address, before anything is sent. -->
<script lang="ts">
  import { api, ask, problemOf, type Pasted, type Problem, type Service } from '../lib/api/client';
  import { defaultWords } from '../lib/words';
  import ProblemNote from './ProblemNote.svelte';
  import Window from './Window.svelte';

  interface Props {
    pasted: Pasted;
    onclose: () => void;
    onmade: (id: number) => void;
  }
  let { pasted, onclose, onmade }: Props = $props();
  // svelte-ignore state_referenced_locally
  let name = $state(pasted.brief.name);
  // svelte-ignore state_referenced_locally
  let serviceName = $state(pasted.service_name);
  let wantsKey = $state(true);
  let header = $state('X-Api-Key');
  let prefix = $state('');
  let secret = $state('');
  let problem = $state<Problem | null>(null);
  let busy = $state(false);
  /** The service that was made already, when a later step failed and the button is pressed again. */
  let made: string | null = null;

  async function make(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    try {
      const service = pasted.service_id ?? made ?? (await makeService());
      const brief = { ...pasted.brief, name: name.trim(), ask: { ...pasted.brief.ask, service } };
      const query = await ask(api.POST('/api/queries', { body: { brief } }));
      onmade(query.id);
    } catch (error) {
      problem = problemOf(error);
    }
    busy = false;
  }

  async function makeService(): Promise<string> {
    const service: Service = {
      id: 'new',
      name: serviceName,
      base: pasted.base,
      headers: [],
      timeout: 30,
      docs: '',
      note: '',
      key: wantsKey ? { name: `${serviceName} key`, header, prefix } : null,
    };
    const info = await ask(api.POST('/api/services', { body: { service } }));
    made = info.service.id;
    if (wantsKey && secret.trim()) {
      const path = { service_id: made };
      await ask(api.PUT('/api/services/{service_id}/key', { params: { path }, body: { secret } }));
      secret = '';
    }
    return made;
  }
</script>

<Window title="New query" open {onclose} width={620}>
  <form onsubmit={make} class="space-y-4">
    <p class="muted">This was read out of the address. Nothing has been sent yet.</p>
    {#if pasted.left_out.length}
      <p class="seen">
        <strong>{pasted.left_out.join(', ')}</strong> looks like a key, so it was left out of the address. Store
        it as the service’s key instead, and take care that the address is not shared with the key in it.
      </p>
    {/if}
    <dl class="read">
      <dt>Service</dt>
      <dd>
        {#if pasted.service_id}
          <strong>{pasted.service_name}</strong> <span class="muted">known already</span>
        {:else}
          <strong>new</strong> at <code>{pasted.base}</code>
        {/if}
      </dd>
      <dt>Path</dt>
      <dd><code>{pasted.brief.ask.path}</code></dd>
      {#if pasted.brief.ask.query.length}
        <dt>Parameters</dt>
        <dd class="space-y-0.5">
          {#each pasted.brief.ask.query as pair (pair.name)}
            {@const parameter = pasted.brief.parameters.find((one) => pair.value === `{${one.name}}`)}
            <div>
              <code>{pair.name}</code> is
              {#if parameter}
                <strong>{defaultWords(parameter)}</strong>
                <span class="muted"
                  >{parameter.kind === 'date' ? 'a date' : 'a text'}, can be changed at each refresh</span
                >
              {:else}
                <strong>{pair.value}</strong> <span class="muted">fixed, has to do with pages</span>
              {/if}
            </div>
          {/each}
        </dd>
      {/if}
    </dl>
    <label class="block">
      <span class="label">Name of the query</span>
      <input class="field" name="query-name" bind:value={name} required maxlength="200" />
    </label>
    {#if !pasted.service_id}
      <div class="space-y-3 rounded-md border p-3" style="border-color: var(--line)">
        <label class="block">
          <span class="label">Name of the service</span>
          <input class="field" name="service-name" bind:value={serviceName} required />
        </label>
        <label class="flex items-center gap-2"
          ><input type="checkbox" bind:checked={wantsKey} /> It wants a key in a header</label
        >
        {#if wantsKey}
          <div class="grid grid-cols-[1fr_110px_1.4fr] gap-3">
            <label
              ><span class="label">Header</span><input
                class="field mono"
                name="key-header"
                bind:value={header}
                required
              /></label
            >
            <label
              ><span class="label">Text before it</span><input
                class="field mono"
                bind:value={prefix}
                placeholder="none"
              /></label
            >
            <label>
              <span class="label">Key, goes into the vault</span>
              <input
                class="field mono"
                type="password"
                name="key-text"
                autocomplete="off"
                bind:value={secret}
                placeholder="now or later"
              />
            </label>
          </div>
        {/if}
      </div>
    {/if}
    {#if problem}<ProblemNote {problem} />{/if}
    <div class="flex gap-2">
      <button class="press main" disabled={busy}>Make the query</button>
      <button type="button" class="press" onclick={onclose}>Leave it</button>
    </div>
  </form>
</Window>

<style>
  .read {
    display: grid;
    grid-template-columns: 90px 1fr;
    gap: 5px 12px;
  }
  dt {
    color: var(--muted);
    text-align: right;
  }
  dd {
    overflow-wrap: anywhere;
  }
</style>
