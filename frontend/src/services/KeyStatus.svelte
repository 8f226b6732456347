<!-- A service's key: where it goes, whether it is stored, and when it ends. -->
<script lang="ts">
  import type { ServiceInfo } from '../api/client';
  import { isPasted, placeWords, sourceWords } from '../domain/credentials';
  import { when } from '../domain/words/format';

  interface Props {
    info: ServiceInfo;
    onkey: () => void;
    onforget: () => void;
    onend: (day: string) => void;
  }
  let { info, onkey, onforget, onend }: Props = $props();
  const service = $derived(info.service);
</script>

{#if service.key && info.key}
  {@const key = service.key}
  {@const known = info.key}
  <p>
    <strong>{key.name}</strong>
    {#each key.places as place, at (at)}
      {@const words = placeWords(place)}
      <span class="muted">{at ? ' and ' : ' '}{words.where}</span> <code>{words.shown}</code>
    {/each}
  </p>
  {#if sourceWords(key)}<p class="muted">{sourceWords(key)}</p>{/if}
  <p class="muted mt-1">
    {#if isPasted(key)}
      {known.token_ends
        ? `token valid until ${when(known.token_ends)}`
        : 'no token stored; a refresh that needs one asks for it'}
    {:else if !known.stored}
      <span class="loud">not stored yet</span>
    {:else if !known.fits}
      <span class="loud">stored for {known.bound_to}; enter it again</span>
    {:else if !known.ready}
      <span class="loud">incomplete; enter it again</span>
    {:else}
      {#if known.fingerprint}<code>…{known.fingerprint}</code>,{/if}
      stored {when(known.stored)}, {known.last_used
        ? `last used ${when(known.last_used)}`
        : 'not used yet'}{known.token_ends ? `, token until ${when(known.token_ends)}` : ''}
    {/if}
  </p>
  {#if info.waiting.length}
    <p class="loud mt-1">
      {info.waiting.join(', ')}
      {info.waiting.length === 1 ? 'waits' : 'wait'} for it
    </p>
  {/if}
  <div class="mt-2 flex flex-wrap items-center gap-2">
    <button class="press small" onclick={onkey}
      >{isPasted(key) ? 'Paste a token' : known.stored ? 'Replace the key' : 'Store the key'}</button
    >
    {#if known.stored}
      <button class="press small" onclick={onforget}>Delete the key</button>
      <label class="muted ml-1 flex items-center gap-1.5 text-[12.5px]">
        expires on
        <input
          class="end"
          type="date"
          aria-label="Day on which {key.name} ends"
          value={known.expires?.slice(0, 10) ?? ''}
          onchange={(event) => onend(event.currentTarget.value)}
        />
      </label>
    {/if}
  </div>
{:else}
  <p class="muted">needs no key</p>
{/if}

<style>
  .loud {
    color: var(--straw-ink);
    font-weight: 600;
  }
  .end {
    height: 25px;
    border: 1px solid var(--line);
    border-radius: 5px;
    padding: 0 5px;
    background: var(--paper);
    color: var(--ink);
    font-size: 12.5px;
  }
</style>
