<!-- What happened between two tables, in a sentence. -->
<script lang="ts">
  import type { Comparison, Side } from '../api/client';
  import { count, counted, signed } from '../domain/words/format';
  import { careWords } from '../domain/words/proof';
  import type { CompareStore } from './compareStore.svelte';

  interface Props {
    store: CompareStore;
    found: Comparison;
    /** How a side is called. */
    called: (side: Side) => string;
    told: HTMLElement | null;
  }
  let { store, found, called, told = $bindable() }: Props = $props();

  const moved = $derived(
    found.columns
      .filter((one) => one.mean !== null && store.numeric.has(one.name))
      .sort((a, b) => b.rose + b.fell - a.rose - a.fell)
      .slice(0, 1),
  );
  const care = $derived(careWords(found.then.snapshot ?? null, found.now.snapshot ?? null));
  const proposed = $derived(store.proposals?.match ?? null);
  const otherKey = $derived(store.proposals?.other_key ?? 0);
  const likely = $derived(store.proposals?.renamed ?? []);

  const are = (number: number): string => (number === 1 ? 'is' : 'are');
</script>

<p
  bind:this={told}
  class="sentence border-b px-4 py-2.5"
  style="border-color: var(--line); background: var(--brief)"
>
  Between <strong>{called(found.then)}</strong> and <strong>{called(found.now)}</strong>:
  {#if store.differing === 0}
    nothing differs.
  {:else}
    <strong>{count(found.counts.new ?? 0)}</strong>
    {found.counts.new === 1 ? 'row is' : 'rows are'} new,
    <strong>{count(found.counts.gone ?? 0)}</strong>
    {are(found.counts.gone ?? 0)} gone,
    <strong>{count(found.counts.changed ?? 0)}</strong> changed{#if found.columns.length}&nbsp;in <strong
        >{counted(found.columns.length, 'column')}</strong
      >{/if}.
    {#each moved as one (one.name)}
      <em>{one.name}</em> rose in {counted(one.rose, 'row')} and fell in {count(one.fell)}, by
      <strong>{signed(one.mean ?? 0)} {one.unit}</strong> on average.
    {/each}
  {/if}
  {#if found.counts.alike}<strong>{count(found.counts.alike)}</strong>
    {found.counts.alike === 1 ? 'differs' : 'differ'} only in what counts as the same.{/if}
  <span class="muted">{count(found.counts.same ?? 0)} stayed as they were.</span>
  {#if care}
    <span style="color: var(--straw-ink)"><strong>Take care:</strong> {care}</span>
  {/if}
  {#if found.asked_otherwise.length}
    <span style="color: var(--straw-ink)">
      <strong>Take care:</strong> another question was asked{#each found.asked_otherwise as one (one.name)};
        {one.name}
        was {[one.then ?? 'left out'].flat().join(', ')} and is {[one.now ?? 'left out']
          .flat()
          .join(', ')}{/each}.
    </span>
  {/if}
  {#each found.renamed as one (one.now)}<span class="muted">{one.then} is called {one.now} now. </span>{/each}
  {#each found.other_kinds as one (one.name)}<span class="muted"
      >{one.name} was of the kind {one.then} and is {one.now}: a number is the same as its text there.
    </span>{/each}
  {#if found.new_columns.length}<span class="muted">New columns: {found.new_columns.join(', ')}.</span>{/if}
  {#if found.gone_columns.length}<span class="muted">Columns that went: {found.gone_columns.join(', ')}.</span
    >{/if}
  {#if found.lacking.length}
    <span style="color: var(--straw-ink)"
      >{found.lacking.join(' and ')} is not in both tables: rows are told apart by all that is in them.</span
    >
  {/if}
  {#if found.repeated_keys}
    <button class="plain" onclick={() => store.see('repeated')}
      >{counted(found.repeated_keys, 'match value stands', 'match values stand')} for several rows.</button
    >
  {/if}
</p>
{#if proposed || likely.length || otherKey}
  <div class="offers" role="status">
    {#if proposed}
      <p>
        A changed row counts as gone and new until a column says which row is which. {proposed.evidence}
        <button class="press small" onclick={() => store.change({ match: proposed.columns })}
          >Match by {proposed.columns.join(' and ')}</button
        >
      </p>
    {/if}
    {#if otherKey}
      <p>
        {counted(otherKey, 'row is', 'rows are')} gone and new again under another {found.match.join(
          ' and ',
        )}: all else is the same.
        <button class="press small" onclick={() => store.withoutKey()}
          >Compare without {found.match.join(' and ')}</button
        >
      </p>
    {/if}
    {#each likely as one (one.then)}
      <p>
        {one.then} went and {one.now} came: {one.in_rows
          ? `they hold the same in ${count(one.equal)} of ${counted(one.compared, 'row')}`
          : `${count(one.equal)} of ${counted(one.compared, 'value')} of the one are in the other`}.
        <button class="press small" onclick={() => store.pair(one.then, one.now)}
          >Compare them as one column</button
        >
      </p>
    {/each}
  </div>
{/if}

<style>
  .sentence {
    line-height: 21px;
  }
  .sentence em {
    font-style: normal;
    font-family: var(--mono);
    font-size: 13px;
  }
  .offers {
    padding: 5px 16px;
    border-bottom: 1px solid var(--line);
    background: var(--straw-wash);
    font-size: 13.5px;
  }
  .offers p {
    margin: 2px 0;
  }
</style>
