<!-- Every value of a column among the rows that are seen: how often, and what part; to filter by, copy, or open as a query. -->
<script lang="ts">
  import { push } from 'svelte-spa-router';
  import {
    api,
    ask,
    problemOf,
    type Cell,
    type Column,
    type ColumnValues,
    type Problem,
    type TableRef,
    type View,
  } from '../../api/client';
  import { cellText, count, percent } from '../../domain/words/format';
  import SheetDialog from '../../parts/SheetDialog.svelte';
  import VirtualList from '../../ui/VirtualList.svelte';

  interface Props {
    column: Column;
    table: TableRef;
    view: View;
    /** The values that the table is filtered by. */
    chosen: string[];
    /** A value as filters know it. */
    plain: (value: unknown) => string;
    ontoggle: (value: string) => void;
  }
  let { column, table, view, chosen, plain, ontoggle }: Props = $props();

  let found = $state.raw<ColumnValues | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let wanted = $state('');
  let copied = $state('');
  let opening = $state(false);

  $effect(() => {
    const body = { ...table, column: column.name, view };
    let current = true;
    ask(api.POST('/api/table/values', { body })).then(
      (told) => current && (found = told),
      (error: unknown) => current && (problem = problemOf(error)),
    );
    return () => (current = false);
  });

  const show = (value: unknown): string => cellText((value ?? null) as Cell, column, 0) || 'empty text';
  const values = $derived(
    found?.values.filter((one) => show(one.value).toLowerCase().includes(wanted.trim().toLowerCase())) ?? [],
  );
  /** As cells of a sheet: value, count, percent. A value that would part the cells has spaces there instead. */
  const asRows = $derived(
    [
      [column.name, 'count', 'percent'],
      ...values.map((one) => [
        String(one.value ?? ''),
        String(one.count),
        ((one.count / Math.max(1, found?.rows ?? 1)) * 100).toFixed(2),
      ]),
    ]
      .map((cells) => cells.map((cell) => cell.replaceAll(/[\t\r\n]+/g, ' ')).join('\t'))
      .join('\n'),
  );

  async function copy(): Promise<void> {
    try {
      await navigator.clipboard.writeText(asRows);
      copied = `${count(values.length)} copied`;
    } catch {
      copied = 'the browser did not allow copying';
    }
  }
</script>

{#if found}
  <div class="space-y-2">
    <p class="text-[13px]">
      {found.capped ? 'More than ' : ''}{count(found.distinct)} different in {count(found.rows)} rows{found.empty
        ? `; ${count(found.empty)} empty (${percent(found.empty, found.rows)})`
        : ''}
    </p>
    {#if found.distinct > 12}
      <input
        class="field"
        type="search"
        placeholder="Find a value"
        aria-label="Find a value"
        bind:value={wanted}
      />
    {/if}
    <VirtualList
      count={values.length}
      rowHeight={24}
      class="values-of-column"
      role="group"
      label="Values of {column.name}"
      height={216}
    >
      {#snippet row(number, style)}
        {@const one = values[number]}
        {#if one}
          <label {style} title="Show these rows alone">
            <input
              type="checkbox"
              checked={chosen.includes(plain(one.value))}
              onchange={() => ontoggle(plain(one.value))}
            />
            <span class="truncate">{show(one.value)}</span>
            <span>{count(one.count)}</span>
            <span class="muted">{percent(one.count, found?.rows ?? 1)}</span>
          </label>
        {/if}
      {/snippet}
    </VirtualList>
    <div class="flex flex-wrap items-center gap-1.5">
      <button class="press small" onclick={copy}>Copy with counts</button>
      <button class="press small" onclick={() => (opening = true)}>Open as a query…</button>
      <span class="muted text-[12.5px]" role="status">{copied}</span>
    </div>
  </div>
{:else if problem}
  <p>{problem.what} {problem.do}</p>
{:else}
  <p class="muted">Counting all values…</p>
{/if}

{#if opening}
  <SheetDialog
    file="values of {column.name}.tsv"
    data={asRows}
    onclose={() => (opening = false)}
    ondone={(id) => {
      opening = false;
      void push(id !== null ? `/query/${id}` : '/sheets');
    }}
  />
{/if}

<style>
  :global(.values-of-column) {
    max-height: 216px;
    border: 1px solid var(--line);
    border-radius: 6px;
    padding: 2px 4px;
  }
  label {
    display: grid;
    grid-template-columns: 18px minmax(0, 1fr) auto 52px;
    align-items: center;
    gap: 6px;
    height: 24px;
    font-size: 13px;
  }
  label span:nth-child(n + 3) {
    text-align: right;
    font-variant-numeric: tabular-nums;
  }
</style>
