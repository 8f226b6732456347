<!-- The line over a table: where its rows went, what it is filtered and searched by. -->
<script lang="ts">
  import Columns3 from '@lucide/svelte/icons/columns-3';
  import X from '@lucide/svelte/icons/x';
  import { untrack, type Snippet } from 'svelte';
  import type { RowFlowStep, TableRef } from '../api/client';
  import { count, counted } from '../domain/words/format';
  import { conditionWords } from '../domain/words/conditions';
  import { type TableView } from './tableview.svelte';
  import FindBox from '../ui/FindBox.svelte';

  interface Props {
    look: TableView;
    table: TableRef;
    rowFlow: RowFlowStep[];
    /** How many rows are seen, and how many there are. */
    seen: number;
    total: number;
    columns: number;
    hidden: number;
    oncolumns: () => void;
    /** What else is to be said, at the right. */
    children?: Snippet;
  }
  let { look, table, rowFlow, seen, total, columns, hidden, oncolumns, children }: Props = $props();

  let text = $state('');
  let box = $state<ReturnType<typeof FindBox>>();
  let timer: ReturnType<typeof setTimeout> | undefined;

  /** Put the cursor into the search box. */
  export function focus(): void {
    box?.focus();
  }

  function typed(): void {
    clearTimeout(timer);
    timer = setTimeout(() => void look.search(table, text), 180);
  }

  // What was found belongs to the table as it was.
  $effect(() => {
    void table;
    void look.spec;
    untrack(() => look.find && void look.search(table, look.find));
  });

  const ONE: Record<string, [string, string]> = {
    answers: ['answer', 'answers'],
    records: ['record', 'records'],
    rows: ['row', 'rows'],
    table: ['row', 'rows'],
  };

  function words(stage: RowFlowStep): string {
    const own = ONE[stage.what];
    return own
      ? `${count(stage.count)} ${stage.count === 1 ? own[0] : own[1]}`
      : stage.what.replace(/^look up /, '+ ');
  }
</script>

<div class="bar">
  <ol class="stages" aria-label="Where the rows went">
    {#each rowFlow as stage, at (at)}
      {#if at}<li aria-hidden="true" class="arrow">→</li>{/if}
      <li class="stage" title={stage.words}>
        {words(stage)}{#if stage.words}<span class="words">{stage.words}</span>{/if}
      </li>
    {/each}
  </ol>
  {#each look.where as one, at (at)}
    <button class="chip" title="Take this filter off" onclick={() => look.unfilter(one)}>
      {conditionWords(one)}
      <X size={12} />
    </button>
  {/each}
  {#if look.where.length}
    <span class="straw">{count(seen)} of {counted(total, 'row')} in sight</span>
  {/if}
  <span class="ml-auto"></span>
  {@render children?.()}
  <FindBox
    bind:this={box}
    bind:text
    label="Find in the table"
    placeholder="Find in the table"
    found={look.found}
    ontype={typed}
    onstep={(by) => look.step(by)}
    onclear={() => {
      text = '';
      void look.search(table, '');
    }}
  />
  <button class="columns" onclick={oncolumns} title="All columns: choose, order, hide, rename">
    <Columns3 size={14} />
    {counted(columns, 'column')}{hidden ? `, ${count(hidden)} hidden` : ''}
  </button>
</div>

<style>
  .bar {
    display: flex;
    align-items: center;
    gap: 8px;
    flex: none;
    min-height: 31px;
    padding: 2px 12px;
    border-bottom: 1px solid var(--hair);
    font-size: 12.5px;
    overflow: hidden;
  }
  .stages {
    display: flex;
    align-items: baseline;
    gap: 5px;
    min-width: 0;
    flex: 0 1 auto;
    overflow: hidden;
    white-space: nowrap;
    color: var(--muted);
  }
  .stage {
    flex: none;
  }
  .stage .words::before {
    content: ' (';
  }
  .stage .words::after {
    content: ')';
  }
  .words {
    color: var(--link);
  }
  .chip {
    display: inline-flex;
    align-items: center;
    gap: 4px;
    flex: none;
    max-width: 220px;
    height: 21px;
    padding: 0 7px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    border: 1px solid var(--damson-edge);
    border-radius: 11px;
    background: var(--damson-wash);
    color: var(--damson);
    cursor: pointer;
  }
  .straw {
    flex: none;
    padding: 0 6px;
    border-radius: 4px;
    background: var(--straw-wash);
  }
  .columns {
    display: inline-flex;
    align-items: center;
    gap: 5px;
    flex: none;
    color: var(--link);
    cursor: pointer;
  }
  .columns:hover {
    text-decoration: underline;
  }
</style>
