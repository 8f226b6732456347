<!-- How pages are turned: the way, its fields, the total and the limits. -->
<script lang="ts">
  import type { Preview } from '../lib/api/client';
  import { cleaned, FIELDS, pagesOf, WAYS, type By, type ListingBy, type Pages } from '../lib/pages';

  interface Props {
    pages: Pages;
    preview: Preview | null;
    ondone: (pages: Pages) => void;
  }
  let { pages, preview, ondone }: Props = $props();
  // The form is a draft of its own until it is done.
  // svelte-ignore state_referenced_locally
  let form = $state($state.snapshot(pages)) as Pages;
  const fields = $derived(FIELDS[form.by]);
  const values = $derived(form as unknown as Record<string, string | number | null>);
  const guesses = $derived(preview?.pagination_guesses ?? []);

  function choose(by: By): void {
    const seen = guesses.find((guess) => guess.pages.by === by)?.pages;
    form = by === form.by ? form : seen ? structuredClone($state.snapshot(seen)) : pagesOf(by, form);
  }

  function chooseListing(by: ListingBy): void {
    if (form.by === 'ids')
      form = { ...form, listing: pagesOf(by, form.listing ?? { by: 'none' }) as typeof form.listing };
  }

  function done(event: SubmitEvent): void {
    event.preventDefault();
    const made = cleaned($state.snapshot(form) as Pages);
    if (made.by === 'ids' && made.listing)
      made.listing = cleaned(made.listing as Pages) as typeof made.listing;
    ondone(made);
  }
</script>

{#snippet fieldOf(target: Record<string, string | number | null>, field: (typeof fields)[number])}
  <label>
    <span class="label">{field.label}</span>
    {#if field.choices}
      <select class="field" name="pages-{field.name}" bind:value={target[field.name]}>
        {#each field.choices as [value, words] (value)}<option {value}>{words}</option>{/each}
      </select>
    {:else if field.kind === 'number'}
      <input
        class="field"
        type="number"
        name="pages-{field.name}"
        min={field.least}
        required={field.required}
        placeholder={field.placeholder}
        bind:value={target[field.name]}
      />
    {:else}
      <input
        class="field mono"
        name="pages-{field.name}"
        required={field.required}
        placeholder={field.placeholder}
        bind:value={target[field.name]}
      />
    {/if}
  </label>
{/snippet}

<form onsubmit={done} class="space-y-3">
  {#each guesses as guess (guess.words)}
    <p class="seen"><strong>Seen in the answer, {guess.words}:</strong> {guess.evidence.join(', ')}.</p>
  {/each}
  <label class="block">
    <span class="label">Pages are turned</span>
    <select
      class="field"
      name="pages-by"
      value={form.by}
      onchange={(event) => choose(event.currentTarget.value as By)}
    >
      {#each WAYS as [by, words] (by)}<option value={by}>{words}</option>{/each}
    </select>
  </label>
  {#if fields.length}
    <div class="grid grid-cols-2 gap-3">
      {#each fields as field (field.name)}{@render fieldOf(values, field)}{/each}
    </div>
  {/if}
  {#if form.by === 'ids'}
    {@const listing = form.listing ?? { by: 'none' }}
    <label class="block">
      <span class="label">The pages of the list are turned</span>
      <select
        class="field"
        name="listing-by"
        value={listing.by}
        onchange={(event) => chooseListing(event.currentTarget.value as ListingBy)}
      >
        {#each WAYS.filter(([by]) => by !== 'dates' && by !== 'ids') as [by, words] (by)}
          <option value={by}>{words}</option>
        {/each}
      </select>
    </label>
    {#if FIELDS[listing.by as By].length}
      <div class="grid grid-cols-2 gap-3">
        {#each FIELDS[listing.by as By] as field (field.name)}
          {@render fieldOf(listing as unknown as Record<string, string | number | null>, field)}
        {/each}
      </div>
    {/if}
  {/if}
  <label class="block">
    <span class="label">Place of the total number of rows, to check against; header:NAME for a header</span>
    <input class="field mono" name="pages-total" bind:value={form.total} placeholder="the API states none" />
  </label>
  {#if form.by !== 'none'}
    <div class="grid grid-cols-2 gap-3">
      <label>
        <span class="label">Never more calls than</span>
        <input
          class="field"
          type="number"
          name="pages-most"
          min="1"
          max="100000"
          bind:value={form.most}
          required
        />
      </label>
      <label>
        <span class="label">Only the first rows, to have a look</span>
        <input
          class="field"
          type="number"
          name="pages-most_rows"
          min="1"
          bind:value={form.most_rows}
          placeholder="all of them"
        />
      </label>
    </div>
  {/if}
  <div class="sticky bottom-0 -mx-1 px-1 pt-2 pb-1" style="background: var(--paper)">
    <button class="press main small">Done</button>
  </div>
</form>
