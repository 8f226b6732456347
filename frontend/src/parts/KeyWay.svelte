<!-- How a service takes its key: the way, its details, and more places where there are some. -->
<script lang="ts">
  import type { Key } from '../lib/api/client';
  import { durationOf, minutesOf, PLACES, placeOf, WAYS, wayOf } from '../lib/keys';

  interface Props {
    key: Key | null;
    /** What the key is called when nothing is typed. */
    name: string;
  }
  let { key = $bindable(), name }: Props = $props();

  const way = $derived(wayOf(key));
  const source = $derived(key?.source);

  function choose(id: string): void {
    const chosen = WAYS.find((one) => one.id === id);
    key = chosen ? { name: key?.name ?? '', ...chosen.make() } : null;
  }

  function setPlace(at: number, change: object): void {
    if (!key) return;
    const places = key.places.map((place, index) => (index === at ? { ...place, ...change } : place));
    key = { ...key, places: places as Key['places'] };
  }

  function setSource(change: object): void {
    if (key) key = { ...key, source: { ...key.source, ...change } as Key['source'] };
  }

  let signInBody = $state('');
  let bodyProblem = $state('');
  $effect(() => {
    if (source?.by === 'sign-in' && source.body?.kind === 'json' && !bodyProblem)
      signInBody = JSON.stringify(source.body.value);
  });

  function setBody(text: string): void {
    signInBody = text;
    try {
      setSource({ body: text.trim() ? { kind: 'json', value: JSON.parse(text) } : null });
      bodyProblem = '';
    } catch {
      bodyProblem = 'This is not JSON yet.';
    }
  }
</script>

<fieldset class="rounded-md border p-3 pt-1" style="border-color: var(--line)">
  <legend class="px-1">Its key</legend>
  <div class="space-y-3">
    <div class="grid grid-cols-2 gap-3">
      <label>
        <span class="label">It wants</span>
        <select
          class="field"
          name="key-way"
          value={way}
          onchange={(event) => choose(event.currentTarget.value)}
        >
          <option value="none">no key</option>
          {#each WAYS as one (one.id)}<option value={one.id}>{one.words}</option>{/each}
        </select>
      </label>
      {#if key}
        <label>
          <span class="label">What you call it</span>
          <input class="field" name="key-name" bind:value={key.name} placeholder={name} />
        </label>
      {/if}
    </div>
    {#if key && source?.by === 'client credentials'}
      <div class="grid grid-cols-[1.6fr_1fr] gap-3">
        <label>
          <span class="label">Token address, whole or below the base address</span>
          <input
            class="field mono"
            name="token-address"
            value={source.address}
            oninput={(event) => setSource({ address: event.currentTarget.value })}
          />
        </label>
        <label>
          <span class="label">Id and secret go</span>
          <select
            class="field"
            value={source.send}
            onchange={(event) => setSource({ send: event.currentTarget.value })}
          >
            <option value="header">into the header</option><option value="body">into the body</option>
          </select>
        </label>
        <label class="col-span-2">
          <span class="label">Scope, if the docs name one</span>
          <input
            class="field mono"
            value={source.scope}
            oninput={(event) => setSource({ scope: event.currentTarget.value })}
          />
        </label>
      </div>
    {:else if key && source?.by === 'sign-in'}
      <div class="grid grid-cols-[90px_1fr_1fr] gap-3">
        <label>
          <span class="label">Method</span>
          <select
            class="field"
            value={source.method}
            onchange={(event) => setSource({ method: event.currentTarget.value })}
          >
            <option>POST</option><option>GET</option><option>PUT</option>
          </select>
        </label>
        <label>
          <span class="label">Address of the sign-in</span>
          <input
            class="field mono"
            name="sign-in-address"
            value={source.address}
            oninput={(event) => setSource({ address: event.currentTarget.value })}
          />
        </label>
        <label>
          <span class="label">Fields that you put in, by commas</span>
          <input
            class="field mono"
            value={source.wants.join(', ')}
            onchange={(event) =>
              setSource({
                wants: event.currentTarget.value
                  .split(',')
                  .map((one) => one.trim())
                  .filter(Boolean),
              })}
          />
        </label>
        <label class="col-span-3">
          <span class="label">Body as JSON; a field stands in braces</span>
          <textarea
            class="field mono"
            rows="2"
            value={signInBody}
            oninput={(event) => setBody(event.currentTarget.value)}></textarea>
          {#if bodyProblem}<small style="color: var(--straw-ink)">{bodyProblem}</small>{/if}
        </label>
        <label class="col-span-2">
          <span class="label">Place of the token in the answer</span>
          <input
            class="field mono"
            value={source.token}
            oninput={(event) => setSource({ token: event.currentTarget.value })}
          />
        </label>
        <label>
          <span class="label">Place of its life</span>
          <input
            class="field mono"
            value={source.life ?? ''}
            placeholder="none"
            oninput={(event) => setSource({ life: event.currentTarget.value || null })}
          />
        </label>
      </div>
    {/if}
    {#if key && (source?.by === 'sign-in' || source?.by === 'asked')}
      <label class="block">
        <span class="label">A token lasts, in minutes, when nothing else is known of it</span>
        <input
          class="field"
          type="number"
          min="1"
          style="width: 110px"
          value={minutesOf(source.lasts)}
          onchange={(event) => setSource({ lasts: durationOf(Number(event.currentTarget.value)) })}
        />
      </label>
    {/if}
    {#each key?.places ?? [] as place, at (at)}
      <div class="flex items-end gap-2">
        {#if (key?.places.length ?? 0) > 1 || source?.by !== 'stored'}
          <label style="width: 165px">
            <span class="label">{source?.by === 'stored' ? 'It goes into' : 'The token goes into'}</span>
            <select
              class="field"
              value={place.at}
              onchange={(event) => setPlace(at, placeOf(event.currentTarget.value as typeof place.at))}
            >
              {#each PLACES as [id, words] (id)}
                {#if source?.by === 'stored' || id !== 'user and password'}<option value={id}>{words}</option
                  >{/if}
              {/each}
            </select>
          </label>
        {/if}
        {#if place.at === 'header'}
          <label class="flex-1">
            <span class="label">Name of the header</span>
            <input
              class="field mono"
              name="key-header"
              value={place.name}
              oninput={(event) => setPlace(at, { name: event.currentTarget.value })}
            />
          </label>
          <label style="width: 120px">
            <span class="label">Text before it</span>
            <input
              class="field mono"
              value={place.prefix}
              placeholder="none"
              oninput={(event) => setPlace(at, { prefix: event.currentTarget.value })}
            />
          </label>
        {:else if place.at === 'address'}
          <label class="flex-1">
            <span class="label">Name of the address parameter</span>
            <input
              class="field mono"
              name="key-parameter"
              value={place.name}
              oninput={(event) => setPlace(at, { name: event.currentTarget.value })}
            />
          </label>
        {:else if place.at === 'body'}
          <label class="flex-1">
            <span class="label">Place in the body</span>
            <input
              class="field mono"
              name="key-place"
              value={place.place}
              oninput={(event) => setPlace(at, { place: event.currentTarget.value })}
            />
          </label>
        {/if}
        {#if (key?.places.length ?? 0) > 1}
          {#if place.at !== 'body'}
            <label style="width: 140px">
              <span class="label">On</span>
              <select
                class="field"
                value={place.calls}
                onchange={(event) => setPlace(at, { calls: event.currentTarget.value })}
              >
                <option value="all">all calls</option><option value="with body">calls with a body</option>
                <option value="without body">calls without one</option>
              </select>
            </label>
          {/if}
          {#if place.at !== 'user and password'}
            <label style="width: 100px">
              <span class="label">Field</span>
              <input
                class="field mono"
                value={place.field}
                onchange={(event) => setPlace(at, { field: event.currentTarget.value.trim() || 'key' })}
              />
            </label>
          {/if}
          <button
            type="button"
            class="press small"
            style="height: 31px"
            onclick={() => key && (key = { ...key, places: key.places.filter((_, index) => index !== at) })}
            >Remove</button
          >
        {/if}
      </div>
    {/each}
    {#if key && source?.by === 'stored' && way !== 'user and password'}
      <button
        type="button"
        class="plain text-[13px]"
        onclick={() => key && (key = { ...key, places: [...key.places, placeOf('body')] })}
        >It goes into another place too</button
      >
    {/if}
  </div>
</fieldset>
