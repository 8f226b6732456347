<!-- Two tables laid over each other: the sentence, the counts, and the rows. -->
<script lang="ts">
  import Search from '@lucide/svelte/icons/search';
  import type { Cell, MergedRow, Side } from '../api/client';
  import { count, counted } from '../domain/words/format';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import ColumnTotals from './ColumnTotals.svelte';
  import CompareSentence from './CompareSentence.svelte';
  import type { CompareStore, RowsShown } from './compareStore.svelte';
  import CountBar from './CountBar.svelte';
  import GroupList from './GroupList.svelte';
  import MergedGrid from './MergedGrid.svelte';
  import { storyAddress } from '../history/links';
  import SizeBar from './SizeBar.svelte';

  interface Props {
    store: CompareStore;
    called: (side: Side) => string;
    /** The sentence as it stands. */
    told: HTMLElement | null;
    /** The query whose rows have stories. */
    queryId?: number;
  }
  let { store, called, queryId, told = $bindable() }: Props = $props();

  const found = $derived(store.found);
  let grid = $state<ReturnType<typeof MergedGrid>>();
  const most = $derived(Math.max(1, ...(found?.columns ?? []).map((one) => one.cells)));
  const places = $derived(
    (found?.match ?? []).map((name) => found?.headings.findIndex((one) => one.name === name) ?? -1),
  );
  function story(row: MergedRow): string | null {
    const cells = row.now ?? row.then;
    if (!queryId || !found || !cells || places.includes(-1)) return null;
    return storyAddress(
      queryId,
      found.match,
      places.map((at) => (cells[at] ?? null) as Cell),
    );
  }

  const states = $derived(
    (
      [
        ['differs', '', 'all that differs', store.differing],
        ['new', '+', 'new', found?.counts.new ?? 0],
        ['gone', '−', 'gone', found?.counts.gone ?? 0],
        ['changed', '●', 'changed', found?.counts.changed ?? 0],
        ['alike', '≈', 'differ only in what counts as the same', found?.counts.alike ?? 0],
        ['same', '', 'the same', found?.counts.same ?? 0],
        ['repeated', '', 'of match values that stand for several', found?.repeated_rows ?? 0],
      ] as [RowsShown, string, string, number][]
    ).filter(([key, , , number]) => number > 0 || (key !== 'alike' && key !== 'repeated')),
  );
</script>

{#if store.problem}<div class="p-4"><ProblemNote problem={store.problem} /></div>{/if}
{#if found}
  <CompareSentence {store} {found} {called} bind:told />
  <div class="flex min-h-0 flex-1 max-[700px]:flex-col">
    <aside
      class="w-[252px] shrink-0 overflow-auto border-r px-3 py-3 max-[700px]:max-h-40 max-[700px]:w-full max-[700px]:border-r-0 max-[700px]:border-b"
      style="border-color: var(--line); background: var(--brief)"
    >
      <label class="find">
        <Search size={15} aria-hidden="true" />
        <input
          class="field"
          type="search"
          name="find"
          placeholder="Find in these rows"
          aria-label="Find in these rows"
          maxlength="1000"
          bind:value={store.typed}
        />
      </label>
      {#if store.find || store.group !== null}
        <p class="muted px-2 pb-2 text-[13px]" role="status">
          {store.total === null ? 'searching' : `${count(store.total)} of ${counted(store.all, 'row')}`}
        </p>
      {/if}
      {#each states as [key, sign, words, number] (key)}
        <button
          class="state"
          class:on={!store.column && store.show === key}
          aria-pressed={!store.column && store.show === key}
          onclick={() => store.see(key)}
        >
          <strong>{count(number)}</strong><span>{sign} {words}</span>
        </button>
      {/each}
      {#if store.total}
        <p class="steps">
          <button class="plain" title="Key p, in the table" onclick={() => void grid?.go(-1)}
            >‹ change before</button
          >
          <button class="plain" title="Key n, in the table" onclick={() => void grid?.go(1)}
            >next change ›</button
          >
        </p>
      {/if}
      {#if found.columns.length}
        <h2 class="mt-4 mb-1 px-2 text-[13.5px] font-bold">Changed cells by column</h2>
        {#each found.columns as one (one.name)}
          {@const alike = found.alike_cells[one.name] ?? 0}
          <CountBar
            kind="change"
            name={one.name}
            parts={[{ look: 'changed', rows: one.cells }]}
            {most}
            on={store.column === one.name}
            title={alike ? `${counted(alike, 'more row')} differ only in what counts as the same` : undefined}
            onclick={() => store.seeColumn(one.name)}
          />
        {/each}
      {/if}
      <GroupList {store} />
    </aside>
    <section class="flex min-w-0 flex-1 flex-col">
      {#if store.column}
        {@const own = found.columns.find((one) => one.name === store.column)}
        <SizeBar
          column={store.column}
          unit={own?.unit ?? ''}
          numeric={store.numeric.has(store.column)}
          choice={store.size}
          shown={store.total}
          all={own?.cells ?? 0}
          onchange={(next) => (store.size = next)}
          onignore={() => store.addRule({ by: 'ignored', columns: [store.column] })}
          onclose={() => (store.column = '')}
        />
        {#if store.numeric.has(store.column)}
          <ColumnTotals {store} column={store.column} unit={own?.unit ?? ''} />
        {/if}
      {/if}
      <div class="min-h-0 flex-1">
        {#if store.total === null}
          <p class="muted p-8">Searching.</p>
        {:else if store.total === 0}
          <p class="muted p-8">
            {store.group !== null
              ? `No row of “${store.group || 'no value'}” is like this.`
              : store.find
                ? store.all
                  ? `None of these rows has “${store.find}” in it, now or then.`
                  : 'No row is in this state.'
                : store.column
                  ? 'No change is like this.'
                  : 'No row is in this state.'}
          </p>
        {:else}
          <MergedGrid
            bind:this={grid}
            columns={found.headings}
            source={store.source}
            differences={store.numeric}
            first={store.first}
            {story}
            sort={store.sort}
            onsort={store.sortBy}
          />
        {/if}
      </div>
    </section>
  </div>
{/if}

<style>
  .find {
    position: relative;
    display: block;
    margin-bottom: 8px;
    color: var(--muted);
  }
  .find :global(svg) {
    position: absolute;
    left: 9px;
    top: 8px;
  }
  .find input {
    height: 31px;
    padding-left: 30px;
  }
  .steps {
    display: flex;
    justify-content: space-between;
    padding: 6px 8px 0;
    font-size: 13px;
  }
  .state {
    display: grid;
    grid-template-columns: 56px 1fr;
    gap: 10px;
    width: 100%;
    padding: 3px 8px;
    border-left: 3px solid transparent;
    border-radius: 5px;
    text-align: left;
    cursor: pointer;
  }
  .state strong {
    text-align: right;
  }
  .state:hover {
    background: var(--band);
  }
  .state.on {
    background: var(--damson-wash);
    border-left-color: var(--damson);
    color: var(--damson);
  }
</style>
