<!-- How a service takes its key: the way, its details, and more places where there are some. -->
<script lang="ts">
  import type { Key } from '../api/client';
  import { choices, entryOf, type Values } from '../domain/choices';
  import { made, placementOf, placeOf, wayOf, ways } from '../domain/credentials';
  import ChoiceFields from '../ui/ChoiceFields.svelte';

  interface Props {
    key: Key | null;
    /** What the key is called when nothing is typed. */
    name: string;
  }
  let { key = $bindable(), name }: Props = $props();

  const way = $derived(wayOf(key));
  const source = $derived(key ? entryOf(choices().sources, key.source.by) : null);
  const several = $derived((key?.places.length ?? 0) > 1);

  function choose(id: string): void {
    key = id === 'none' ? null : { name: key?.name ?? '', ...made(id) };
  }

  function setPlace(at: number, change: object): void {
    if (!key) return;
    const places = key.places.map((place, index) => (index === at ? { ...place, ...change } : place));
    key = { ...key, places: places as Key['places'] };
  }

  function setSource(field: string, value: unknown): void {
    if (key) key = { ...key, source: { ...key.source, [field]: value } as Key['source'] };
  }
</script>

<fieldset class="rounded-md border p-3 pt-1" style="border-color: var(--line)">
  <legend class="px-1">Its key</legend>
  <div class="space-y-3">
    <div class="grid grid-cols-2 gap-3">
      <label>
        <span class="label">It needs</span>
        <select
          class="field"
          name="key-way"
          value={way}
          onchange={(event) => choose(event.currentTarget.value)}
        >
          <option value="none">no key</option>
          {#each ways() as one (one.id)}<option value={one.id}>{one.label}</option>{/each}
        </select>
      </label>
      {#if key}
        <label>
          <span class="label">What you call it</span>
          <input class="field" name="key-name" bind:value={key.name} placeholder={name} />
        </label>
      {/if}
    </div>
    {#if key && source?.fields.length}
      <div class="grid grid-cols-2 gap-3">
        <ChoiceFields
          fields={source.fields}
          values={key.source as Values}
          prefix="source-"
          onchange={setSource}
        />
      </div>
    {/if}
    {#each key?.places ?? [] as place, at (at)}
      {@const placement = placementOf(place.at)}
      {@const fields = placement.fields.filter((field) => several || !field.many)}
      <div class="flex items-end gap-2">
        {#if several || !source?.stored}
          <label style="width: 165px">
            <span class="label">{source?.stored ? 'It goes into' : 'The token goes into'}</span>
            <select
              class="field"
              value={place.at}
              onchange={(event) => setPlace(at, placeOf(event.currentTarget.value as typeof place.at))}
            >
              {#each choices().placements as one (one.key)}
                {#if source?.stored || one.for_tokens}<option value={one.key}>{one.label}</option>{/if}
              {/each}
            </select>
          </label>
        {/if}
        {#if fields.length}
          <div class="places flex-1">
            <ChoiceFields
              {fields}
              values={place as Values}
              prefix="place-"
              onchange={(field, value) => setPlace(at, { [field]: value })}
            />
          </div>
        {/if}
        {#if several}
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
    {#if key && source?.stored && key.places.every((place) => 'field' in place)}
      <button
        type="button"
        class="plain text-[13px]"
        onclick={() => key && (key = { ...key, places: [...key.places, placeOf('body')] })}
        >It goes into another place too</button
      >
    {/if}
  </div>
</fieldset>

<style>
  .places {
    display: grid;
    grid-auto-columns: minmax(0, 1fr);
    grid-auto-flow: column;
    gap: 8px;
  }
</style>
