<!-- What was understood of a pasted call, before anything is sent: service, question, parameters, key. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import {
    api,
    ask,
    problemOf,
    type Brief,
    type Key,
    type Parameter,
    type Pasted,
    type Problem,
  } from '../api/client';
  import { made, placeWords } from '../domain/credentials';
  import { choices, entryOf } from '../domain/choices';
  import { readable } from '../domain/words/address';
  import { relative } from '../domain/words/durations';
  import { defaultWords, fieldWords } from '../domain/words/labels';
  import { blankService } from '../domain/limits';
  import { keyFields } from '../parts/keyFields.svelte';
  import KeyWay from '../parts/KeyWay.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import SecretFields from '../parts/SecretFields.svelte';
  import Dialog from '../ui/Dialog.svelte';

  interface Props {
    pasted: Pasted;
    brief: Brief;
    onclose: () => void;
    onmade: (id: number) => void;
  }
  let { pasted, brief, onclose, onmade }: Props = $props();
  let name = $state(untrack(() => brief.name));
  // A second service at one address has a name of its own.
  let serviceName = $state(
    untrack(() => (pasted.service_id ? `${pasted.service_name}, other key` : pasted.service_name)),
  );
  let base = $state(untrack(() => pasted.base));
  let key = $state<Key | null>(untrack(() => (pasted.key ? { ...pasted.key, name: '' } : null)));
  let changesKey = $state(false);
  let fixed = $state<Record<string, boolean>>({});
  let moving = $state<Record<string, boolean>>({});
  let secret = $state<Record<string, string>>({});
  let problem = $state<Problem | null>(null);
  let busy = $state(false);

  type KeyFor = 'service' | 'own' | 'leave';
  /** Whether the key that was seen is not the one of the known service, so that somebody says what becomes of it. */
  const asksFor = $derived(!!pasted.as_sent && Object.keys(pasted.as_sent).length > 0);
  let keyFor = $state<KeyFor>(untrack(() => (pasted.asks_with_key ? 'own' : 'service')));
  const isNew = $derived(!pasted.service_id || (asksFor && keyFor === 'own'));
  const held = $derived(Object.keys(pasted.held_fields ?? {}));
  const fields = keyFields(() => $state.snapshot(key) as Key | null);
  const wanted = $derived(fields.names.filter((field) => !held.includes(field)));
  const call = $derived((asksFor ? pasted.as_sent?.[keyFor] : null) ?? pasted.call);
  const others = $derived(pasted.used_by ?? []);
  const heldWords = $derived(
    held
      .map(
        (field) => fieldWords(field) + (pasted.held_fields?.[field] ? ` …${pasted.held_fields[field]}` : ''),
      )
      .join(', '),
  );

  /** What becomes of the key that was seen, where nobody is asked. */
  const fateWords = $derived.by(() => {
    if (asksFor) return '';
    if (!held.length) return '; its place in the example was empty';
    return pasted.stored_key === 'same'
      ? `; it is the one that is stored for ${pasted.service_name}`
      : ' and goes into the vault';
  });

  const kindWords = (parameter: Parameter): string =>
    parameter.many ? 'a list' : entryOf(choices().parameters, parameter.kind).phrase;
  /** How far the date of a parameter lies from today, where it is near. */
  const near = (parameter: Parameter): string | undefined => pasted.near_dates?.[parameter.name];
  const chosen = (marks: Record<string, boolean>): string[] => Object.keys(marks).filter((one) => marks[one]);

  async function make(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    busy = true;
    try {
      const about = await ask(api.GET('/api/about'));
      const plain = $state.snapshot(key);
      const service = isNew
        ? {
            ...blankService(about.caller),
            name: serviceName,
            base,
            key: plain ? { ...plain, name: plain.name || `${serviceName} key` } : null,
          }
        : null;
      const body = {
        brief: { ...brief, name: name.trim() },
        fixed: chosen(fixed),
        moving: chosen(moving),
        service,
        held: asksFor && keyFor === 'leave' ? null : (pasted.held ?? null),
        secret: $state.snapshot(secret),
        replace_key: asksFor && keyFor === 'service',
        key:
          asksFor && keyFor === 'service' && plain && pasted.stored_key === 'unfit'
            ? { ...plain, name: plain.name || `${pasted.service_name} key` }
            : null,
      };
      const made = await ask(api.POST('/api/begin', { body }));
      onmade(made.id);
    } catch (error) {
      problem = problemOf(error);
    }
    busy = false;
  }
</script>

<Dialog title="New query" open {onclose} width={720} holds>
  <form onsubmit={make} class="space-y-4">
    <p class="muted">This is what was understood. Nothing has been sent yet.</p>
    {#each pasted.notes ?? [] as note (note)}<p class="seen">{note}</p>{/each}
    <dl class="read">
      <dt>Service</dt>
      <dd>
        {#if isNew}
          <div class="flex items-center gap-2">
            <input
              class="field"
              name="service-name"
              aria-label="Name of the service"
              bind:value={serviceName}
              required
            />
            <span class="muted shrink-0">at</span>
            <input
              class="field mono"
              name="service-base"
              aria-label="Base address"
              bind:value={base}
              required
            />
          </div>
        {:else}
          <strong>{pasted.service_name}</strong> <span class="muted">already known</span>
        {/if}
      </dd>
      <dt>Key</dt>
      <dd>
        {#if pasted.keys_seen?.length}
          <p>
            A key was seen: <strong>{pasted.keys_seen.join(', ')}</strong>{heldWords
              ? ` (${heldWords})`
              : ''}. It was taken out of the question{fateWords}.
          </p>
          {#if asksFor}
            <fieldset class="mt-1.5 space-y-0.5">
              <legend class="font-semibold">
                {pasted.asks_with_key
                  ? `${pasted.service_name} is asked with another key. This key is`
                  : `${pasted.service_name} is known, and asked without a key. This key is`}
              </legend>
              <label class="block"
                ><input type="radio" name="key-for" value="own" bind:group={keyFor} /> for a service of its own,
                beside it; nothing else changes</label
              >
              <label class="block"
                ><input type="radio" name="key-for" value="service" bind:group={keyFor} /> for {pasted.service_name}
                from now on{others.length
                  ? `, also when ${others.slice(0, 3).join(', ')}${others.length > 3 ? ` and ${others.length - 3} more` : ''} ask it`
                  : ''}</label
              >
              <label class="block"
                ><input type="radio" name="key-for" value="leave" bind:group={keyFor} /> not used: {pasted.asks_with_key
                  ? 'the stored one is sent'
                  : 'no key is sent'}</label
              >
            </fieldset>
          {/if}
        {:else if isNew && !key}
          <span class="muted">none was seen</span>
        {:else if !isNew}
          <span class="muted">the key of {pasted.service_name}, automatically</span>
        {/if}
        {#if isNew || (asksFor && keyFor === 'service')}
          {#if changesKey}
            <div class="mt-2"><KeyWay bind:key name="{serviceName} key" /></div>
          {:else}
            {#if key}
              <span class="muted">
                It goes {#each key.places as place, at (at)}{at ? ' and ' : ''}{placeWords(place).where}
                  <code>{placeWords(place).shown}</code>{/each}.
              </span>
            {/if}
            <button
              type="button"
              class="plain"
              onclick={() => {
                changesKey = true;
                key ??= { name: '', ...made('header') };
              }}>{key ? 'change' : 'it needs one'}</button
            >
          {/if}
          {#if wanted.length}<div class="mt-2"><SecretFields fields={wanted} bind:secret /></div>{/if}
        {/if}
      </dd>
      <dt>Question</dt>
      <dd>
        <p class="call" title={call?.address}>
          <strong>{call?.method}</strong>
          {readable(call?.address ?? '')}
        </p>
        {#each call?.headers ?? [] as header, at (at)}
          <p class="call"><span class="muted">{header.name}:</span> {header.value}</p>
        {/each}
        {#if call?.body}<p class="call body">{call.body}</p>{/if}
      </dd>
      {#if brief.parameters.length}
        <dt>Parameters</dt>
        <dd>
          <table>
            <tbody>
              {#each brief.parameters as parameter (parameter.name)}
                {@const open =
                  parameter.default === null ||
                  parameter.default === undefined ||
                  typeof parameter.default === 'object'}
                <tr>
                  <td><code>{parameter.name}</code></td>
                  <td class="value">{defaultWords(parameter)}</td>
                  <td class="muted">{kindWords(parameter)}</td>
                  <td class="muted">
                    {#if near(parameter)}
                      <select
                        class="field"
                        style="width: 250px"
                        aria-label="How {parameter.name} is used"
                        value={moving[parameter.name] ? 'moves' : fixed[parameter.name] ? 'fixed' : 'changes'}
                        onchange={(event) => {
                          moving[parameter.name] = event.currentTarget.value === 'moves';
                          fixed[parameter.name] = event.currentTarget.value === 'fixed';
                        }}
                      >
                        <option value="changes">can be changed each time</option>
                        <option value="moves">moves: {relative('today', near(parameter) ?? '')}</option>
                        <option value="fixed">stays as it is</option>
                      </select>
                    {:else if open}
                      can be changed each time
                    {:else}
                      <label
                        ><input
                          type="checkbox"
                          checked={!fixed[parameter.name]}
                          onchange={(event) => (fixed[parameter.name] = !event.currentTarget.checked)}
                        /> can be changed each time</label
                      >
                    {/if}
                  </td>
                </tr>
              {/each}
            </tbody>
          </table>
        </dd>
      {/if}
      <dt>Name</dt>
      <dd>
        <input
          class="field"
          name="query-name"
          aria-label="Name of the query"
          bind:value={name}
          required
          maxlength="200"
        />
      </dd>
    </dl>
    {#if problem}<ProblemNote {problem} />{/if}
    <div class="flex gap-2">
      <button class="press main" disabled={busy}>Create the query</button>
      <button type="button" class="press" onclick={onclose}>Cancel</button>
    </div>
  </form>
</Dialog>

<style>
  .read {
    display: grid;
    grid-template-columns: 84px 1fr;
    gap: 10px 14px;
  }
  dt {
    color: var(--muted);
    text-align: right;
    padding-top: 1px;
  }
  dd {
    overflow-wrap: anywhere;
    min-width: 0;
  }
  td {
    padding: 2px 14px 2px 0;
    vertical-align: top;
  }
  td.value {
    font-weight: 600;
    max-width: 240px;
  }
  .call {
    font-family: var(--mono);
    font-size: 12.5px;
  }
  .body {
    max-height: 100px;
    overflow: auto;
    white-space: pre-wrap;
  }
</style>
