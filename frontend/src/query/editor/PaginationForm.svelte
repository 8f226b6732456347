<!-- How pages are turned: the way, its fields, the total and the limits. -->
<script lang="ts">
  import type { Preview } from '../../api/client';
  import { choices, type Values } from '../../domain/choices';
  import { cleanedPages, pagesOf, wayOf, type By, type Pages } from '../../domain/pagination';
  import { withNames } from '../../domain/jsonpath';
  import ChoiceFields from '../../ui/ChoiceFields.svelte';
  import { keepTyped } from '../../ui/typed.svelte';

  interface Props {
    pages: Pages;
    preview: Preview | null;
    /** Whose typing it is. */
    keep: string;
    ondone: (pages: Pages) => void;
  }
  let { pages, preview, keep, ondone }: Props = $props();
  // The form is a draft of its own until it is done.
  // svelte-ignore state_referenced_locally
  let form = $state($state.snapshot(pages)) as Pages;
  keepTyped(
    () => keep,
    () => $state.snapshot(form) as Pages,
    (held) => (form = held),
  );
  const way = $derived(wayOf(form.by));
  const values = $derived(form as Values);
  const listing = $derived((values.listing ?? null) as Pages | null);
  const guesses = $derived(preview?.pagination_guesses ?? []);

  function choose(by: By): void {
    const seen = guesses.find((guess) => guess.pages.by === by)?.pages;
    form = by === form.by ? form : seen ? structuredClone($state.snapshot(seen)) : pagesOf(by, form);
  }

  function set(name: string, value: unknown): void {
    form = { ...form, [name]: value };
  }

  function done(event: SubmitEvent): void {
    event.preventDefault();
    ondone(cleanedPages($state.snapshot(form) as Pages));
  }
</script>

<form onsubmit={done} class="space-y-3">
  {#each guesses as guess (guess.words)}
    <p class="seen">
      <strong>Seen in the answer, {guess.words}:</strong>
      {withNames(guess.evidence.join(', '))}.
    </p>
  {/each}
  <label class="block">
    <span class="label">Pages are turned</span>
    <select
      class="field"
      name="pages-by"
      value={form.by}
      onchange={(event) => choose(event.currentTarget.value as By)}
    >
      {#each choices().pagination as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
    </select>
  </label>
  {#if way.fields.length}
    <div class="grid grid-cols-2 gap-3">
      <ChoiceFields fields={way.fields} {values} prefix="pages-" onchange={set} />
    </div>
  {/if}
  {#if listing}
    {@const inner = wayOf(listing.by)}
    <label class="block">
      <span class="label">The pages of the list are turned</span>
      <select
        class="field"
        name="listing-by"
        value={listing.by}
        onchange={(event) => set('listing', pagesOf(event.currentTarget.value as By, listing))}
      >
        {#each choices().pagination.filter((one) => one.lists) as one (one.key)}
          <option value={one.key}>{one.label}</option>
        {/each}
      </select>
    </label>
    {#if inner.fields.length}
      <div class="grid grid-cols-2 gap-3">
        <ChoiceFields
          fields={inner.fields}
          values={listing as Values}
          prefix="listing-"
          onchange={(name, value) => set('listing', { ...listing, [name]: value })}
        />
      </div>
    {/if}
  {/if}
  <label class="block">
    <span class="label">Place of the total number of rows, to check against; header:NAME for a header</span>
    <input class="field mono" name="pages-total" bind:value={form.total} placeholder="the API states none" />
  </label>
  {#if 'most' in form}
    <label class="block">
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
  {/if}
  <div class="sticky bottom-0 -mx-1 px-1 pt-2 pb-1" style="background: var(--paper)">
    <button class="press main small">Done</button>
  </div>
</form>
