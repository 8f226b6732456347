<!-- The rows of a sheet that is stored, in windows as they are scrolled into sight. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import { writeJson } from '../api/json';
  import { api, ask, problemOf, type SheetInfo } from '../api/client';
  import { count, counted } from '../domain/words/format';
  import { RowSource } from '../table/rows.svelte';
  import Dialog from '../ui/Dialog.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import VirtualList from '../ui/VirtualList.svelte';

  interface Props {
    sheet: SheetInfo;
    onclose: () => void;
  }
  let { sheet: given, onclose }: Props = $props();
  const sheet = untrack(() => given);

  const ROW = 26;
  const source = untrack(
    () =>
      new RowSource<unknown[]>(sheet.rows, async (start, count) => {
        const params = { path: { name: sheet.name }, query: { start, count } };
        const found = await ask(api.GET('/api/sheets/{name}/rows', { params }));
        return { rows: found.rows, total: found.count };
      }),
  );
  let view = $state<HTMLElement>();
  let height = $state(400);
  let top = $state(0);
  $effect(() => {
    const first = Math.floor(top / ROW);
    source.want(first, Math.min(source.total, first + Math.ceil(height / ROW) + 6));
  });
  $effect(() => {
    const own = view;
    const scrolled = (): void => void (top = own?.scrollTop ?? 0);
    own?.addEventListener('scroll', scrolled);
    return () => own?.removeEventListener('scroll', scrolled);
  });

  const shown = (cell: unknown): string =>
    cell === null || cell === undefined ? '' : typeof cell === 'object' ? writeJson(cell) : String(cell);
  // No derived values: the list is drawn once more while the dialog goes.
  let grid = $state('');
  let full = $state('');
  $effect(() => {
    /** Characters of each column, by its heading and the first rows. */
    const widths = sheet.headings.map((heading, at) =>
      Math.min(36, Math.max(6, heading.length, ...source.sample(100).map((row) => shown(row[at]).length))),
    );
    grid = `grid-template-columns: 7ch ${widths.map((width) => `${width + 2}ch`).join(' ')}`;
    full = `min-width: ${widths.reduce((sum, width) => sum + width + 2, 7)}ch`;
  });
</script>

<Dialog title={sheet.name} open {onclose} width={960}>
  <p class="muted mb-2 text-[13px]">{counted(sheet.rows, 'row')} of {sheet.file}</p>
  {#if source.failed}<ProblemNote problem={problemOf(source.failed)} />{/if}
  <div class="frame" role="region" aria-label="Rows of {sheet.name}">
    <div class="row heads" style="{grid}; {full}">
      <span></span>
      {#each sheet.headings as heading, at (at)}<span class="truncate">{heading}</span>{/each}
    </div>
    <VirtualList
      count={source.total}
      rowHeight={ROW}
      class="sheet-rows"
      role="list"
      label="Rows"
      bind:view
      bind:height
      onkeydown={() => {}}
    >
      {#snippet row(at, style)}
        {@const cells = source.at(at)}
        <div class="row" role="listitem" style="{style}; {grid}; {full}">
          <span class="muted number">{count(at + 1)}</span>
          {#each cells ?? [] as cell, column (column)}<span class="truncate" title={shown(cell)}
              >{shown(cell)}</span
            >{/each}
        </div>
      {/snippet}
      {#snippet empty()}<p class="muted p-4">The sheet has no rows.</p>{/snippet}
    </VirtualList>
  </div>
</Dialog>

<style>
  .frame {
    overflow-x: auto;
    border: 1px solid var(--line);
    border-radius: 8px;
  }
  :global(.sheet-rows) {
    height: min(56vh, 500px);
    position: relative;
    overflow-x: hidden !important;
    width: max-content;
    min-width: 100%;
  }
  .row {
    display: grid;
    align-items: center;
    height: 26px;
    padding: 0 8px;
    border-bottom: 1px solid var(--hair);
    font-size: 13px;
    white-space: nowrap;
  }
  .row span {
    padding: 0 6px;
  }
  .heads span {
    font-weight: 600;
  }
  .heads {
    background: var(--band);
  }
  .number {
    text-align: right;
  }
</style>
