<!-- The table as a picture: proposed from its columns, changed in place, kept with the query. -->
<script lang="ts">
  import Download from '@lucide/svelte/icons/download';
  import type { Brief, Cell, Column, Condition, TableRef } from '../api/client';
  import { api, ask, problemOf } from '../api/client';
  import { sameJson } from '../api/json';
  import { conditionWords } from '../domain/words/conditions';
  import { type TableView } from '../table/tableview.svelte';
  import { save } from '../domain/saveFile';
  import { counted, numberText } from '../domain/words/format';
  import Popover from '../ui/Popover.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import ChartDrawing from './ChartDrawing.svelte';
  import ChartForm from './ChartForm.svelte';
  import { ChartStore } from './chartStore.svelte';
  import { rowsOf } from './pick';
  import { pngOf } from './picture';
  import FiguresTable from './FiguresTable.svelte';
  import { chartName } from './words';

  interface Props {
    brief: Brief;
    table: TableRef;
    /** Whether there is a table. */
    there: boolean;
    look: TableView;
    columns: Column[];
    /** As of when, for the names of files. */
    asOf: string;
    onchange: (brief: Brief) => void;
    /** The rows behind a mark are to be seen. */
    onrows: () => void;
  }
  let { brief, table, there, look, columns, asOf, onchange, onrows }: Props = $props();
  const store = new ChartStore(
    () => brief,
    () => ({ ref: table, view: look.spec, there }),
    (next) => onchange(next),
  );

  let drawing = $state<ReturnType<typeof ChartDrawing>>();
  let asTable = $state(false);
  let room = $state(600);
  let above = $state(80);
  const chart = $derived(store.chart);
  const made = $derived(store.made);
  const others = $derived(store.proposals.filter((one) => !sameJson(one, chart)).slice(0, 5));

  const title = $derived(chart ? chartName(store.problem ? chart : (store.of ?? chart)) : '');

  async function pick(panel: number, series: number, index: number): Promise<void> {
    const of = store.of;
    if (!made || !of) return;
    const number = made.panels[panel]?.series[series]?.rows[index] ?? -1;
    let row: Cell[] = [];
    if (number >= 0) {
      const body = { ...table, view: { sort: [], where: [] }, start: number, count: 1 };
      const found = await ask(api.POST('/api/table/rows', { body })).catch(() => null);
      row = (found?.rows[0] as Cell[] | undefined) ?? [];
    }
    const wanted: Condition[] = rowsOf(of, made, { panel, series, index }, columns, row);
    if (!wanted.length) return;
    for (const one of wanted) look.filterBy(one);
    onrows();
  }

  const fileName = (ending: string): string =>
    `${brief.name}, ${title}${asOf ? `, ${asOf}` : ''}.${ending}`.replace(/[<>:"/\\|?*]/g, '-');
  async function picture(kind: 'svg' | 'png'): Promise<void> {
    const text = drawing?.svg() ?? '';
    if (!text) return;
    if (kind === 'svg') save(new Blob([text], { type: 'image/svg+xml' }), fileName('svg'));
    else save(await pngOf(text), fileName('png'));
  }
  /** The figures, with a chart that whoever gets it can change. */
  async function workbook(): Promise<void> {
    const of = store.of;
    if (!of) return;
    const about: [string, string][] = [
      ['Query', brief.name],
      ...(asOf ? ([['As of', asOf]] as [string, string][]) : []),
      ...(look.where.length
        ? ([['Rows where', look.where.map(conditionWords).join(', ')]] as [string, string][])
        : []),
    ];
    const width = Math.round(store.width) || 900;
    const body = { ...table, view: look.spec, chart: of, width, within: store.within, title, about };
    try {
      const file = await ask(api.POST('/api/table/chart/workbook', { body, parseAs: 'blob' }));
      save(file as unknown as Blob, fileName('xlsx'));
    } catch (error) {
      store.problem = problemOf(error);
    }
  }
</script>

<div class="flex h-full flex-col overflow-auto" bind:clientHeight={room}>
  {#if chart}
    <div class="top" bind:clientHeight={above}>
      {#if store.kept.length}
        <div class="kept" role="group" aria-label="The charts that are kept">
          {#each store.kept as one, at (at)}
            <button
              class="chip"
              class:on={store.isKept && Math.min(store.index, store.kept.length - 1) === at}
              aria-pressed={store.isKept && Math.min(store.index, store.kept.length - 1) === at}
              onclick={() => store.see(at)}>{chartName(one)}</button
            >
          {/each}
          {#if store.isKept}<button class="plain text-[13px]" onclick={store.another}>another chart</button
            >{:else}<span class="chip on">{chartName(chart)}, not kept</span>{/if}
        </div>
      {/if}
      <ChartForm {chart} {columns} onchange={store.take} />
    </div>
    {#if look.where.length}
      <p class="muted px-4 pt-2 text-[13px]">
        Drawn of the rows that are seen: {look.where.map(conditionWords).join(', ')}.
        <button class="plain" onclick={() => look.clear()}>All rows</button>
      </p>
    {/if}
    <div class="flex flex-wrap items-baseline gap-x-4 gap-y-1 px-4 pt-3">
      <input
        class="title min-w-0 flex-1"
        name="chart-title"
        aria-label="Title of the chart"
        placeholder={title}
        value={chart.title}
        maxlength="300"
        onchange={(event) => store.take({ ...chart, title: event.currentTarget.value.trim() })}
      />
      <span class="flex items-center gap-2">
        {#if store.within}<button class="press small" onclick={() => (store.within = null)}
            >Whole again</button
          >{/if}
        {#if store.isKept}
          <button class="press small" onclick={store.drop}>Keep it no more</button>
        {:else}
          <button class="press small main" onclick={store.keep}>Keep with the query</button>
        {/if}
        <Popover label="Export the chart" look="press small" width={270} placement="bottom-end">
          {#snippet trigger()}<Download size={14} /> Export{/snippet}
          {#snippet children(close)}
            <div class="space-y-2 text-[13px]">
              <p>As it is seen.</p>
              <button class="press w-full" onclick={() => void workbook().then(close)}
                >A workbook, with the figures and a chart of its own</button
              >
              <button class="press w-full" onclick={() => void picture('svg').then(close)}
                >SVG, sharp at any size</button
              >
              <button class="press w-full" onclick={() => void picture('png').then(close)}>PNG</button>
            </div>
          {/snippet}
        </Popover>
      </span>
    </div>
    {#if store.problem}
      <div class="p-4"><ProblemNote problem={store.problem} /></div>
    {/if}
    <div class="px-4 pt-1" bind:clientWidth={store.width}>
      {#if made && store.of && !store.problem}
        {#if made.draw === 'figure'}
          <div class="figures">
            {#each made.panels as panel, at (at)}
              {@const value = panel.series[0]?.y[0]}
              {@const axis = made.y[0]}
              <div>
                <strong>{value == null ? '–' : numberText(value)}</strong>
                {#if axis?.unit && value != null}<span class="muted">{axis.unit}</span>{/if}
                <p class="muted">{panel.name || axis?.name}</p>
              </div>
            {/each}
          </div>
        {:else}
          <ChartDrawing
            bind:this={drawing}
            {made}
            chart={store.of}
            height={Math.max(230, Math.min(540, room - above - 150))}
            onpick={(panel, series, index) => void pick(panel, series, index)}
            onzoom={(from, to) => (store.within = [from, to])}
          />
        {/if}
        <div class="said">
          <p>{made.sentence}</p>
          {#each made.notes as note (note)}<p style="color: var(--straw-ink)">{note}</p>{/each}
          <p class="muted">
            {counted(made.rows, 'row')}.
            {#if made.draw !== 'figure'}A click on a mark shows its rows{made.draw === 'line' ||
              made.draw === 'points'
                ? '; drawing a part out with the mouse shows it larger'
                : ''}.{/if}
            <button class="plain" aria-expanded={asTable} onclick={() => (asTable = !asTable)}
              >{asTable ? 'Without the figures' : 'The figures as a table'}</button
            >
          </p>
        </div>
        {#if asTable}<FiguresTable {made} />{/if}
      {/if}
    </div>
    {#if others.length}
      <div class="px-4 pt-3 pb-5 text-[13px]">
        <span class="muted">Or:</span>
        {#each others as one, at (at)}
          <button class="chip" onclick={() => store.look(one)}>{chartName(one)}</button>
        {/each}
      </div>
    {/if}
  {:else if there}
    <p class="muted p-8">Looking at the columns.</p>
  {:else}
    <p class="muted p-8">There is no table yet, and so nothing to draw.</p>
  {/if}
</div>

<style>
  .top {
    padding: 9px 16px;
    border-bottom: 1px solid var(--line);
    background: var(--page);
  }
  .kept {
    display: flex;
    flex-wrap: wrap;
    gap: 6px;
    margin-bottom: 8px;
  }
  .chip {
    max-width: 320px;
    padding: 1px 10px;
    margin-right: 4px;
    border: 1px solid var(--line);
    border-radius: 12px;
    background: var(--paper);
    font-size: 13px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    vertical-align: bottom;
    cursor: pointer;
  }
  .chip:hover {
    border-color: var(--damson-edge);
  }
  .chip.on {
    border-color: var(--damson);
    background: var(--damson-wash);
    color: var(--damson);
  }
  .title {
    width: 100%;
    border: 0;
    border-bottom: 1px solid transparent;
    background: none;
    font-size: 15px;
    font-weight: 700;
    text-overflow: ellipsis;
  }
  .title::placeholder {
    color: var(--ink);
    opacity: 1;
  }
  .title:hover,
  .title:focus {
    border-bottom-color: var(--faint);
  }
  .said {
    max-width: 900px;
    padding: 6px 0 4px;
    font-size: 13px;
  }
  .figures {
    display: flex;
    flex-wrap: wrap;
    gap: 26px 44px;
    padding: 26px 0 18px;
  }
  .figures strong {
    font-size: 44px;
    line-height: 1.1;
  }
</style>
