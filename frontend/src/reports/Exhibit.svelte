<!-- A block of a report as it is read: a text, or a numbered exhibit. -->
<script lang="ts">
  import type { BlockRead } from '../api/client';
  import ChartDrawing from '../chart/ChartDrawing.svelte';
  import FiguresTable from '../chart/FiguresTable.svelte';
  import { pngOf } from '../chart/picture';
  import { save } from '../domain/saveFile';
  import { numberText, signed } from '../domain/words/format';

  interface Props {
    read: BlockRead;
    /** How wide its body is, told when that changes. */
    onwidth?: (width: number) => void;
  }
  let { read, onwidth }: Props = $props();
  let asTable = $state(false);
  let drawing = $state<ReturnType<typeof ChartDrawing>>();

  /** The chart as a picture that stands alone. */
  async function picture(kind: 'svg' | 'png'): Promise<void> {
    const text = drawing?.svg() ?? '';
    if (!text) return;
    const name = `${read.number} ${read.title}.${kind}`.replace(/[<>:"/\\|?*]/g, '-');
    save(kind === 'svg' ? new Blob([text], { type: 'image/svg+xml' }) : await pngOf(text), name);
  }
</script>

{#if read.block === 'text'}
  <!-- eslint-disable-next-line svelte/no-at-html-tags the server makes it harmless -->
  <div class="words">{@html read.html}</div>
{:else}
  <section class="exhibit" class:long={read.block === 'table'} aria-label="{read.number}, {read.title}">
    <h2 class="exhibit-title">{read.number} · {read.title}</h2>
    {#if read.drawing && read.chart}
      {#if read.drawing.draw === 'figure'}
        <div class="figures">
          {#each read.drawing.panels as panel, at (at)}
            {@const value = panel.series[0]?.y[0]}
            {@const then = panel.series.find((one) => one.then)?.y[0]}
            {@const axis = read.drawing.y[0]}
            <div>
              <strong>{value == null ? '–' : numberText(value)}</strong>
              {#if axis?.unit && value != null}<span class="quiet">{axis.unit}</span>{/if}
              {#if value != null && then != null}<span class="chg">{signed(value - then)}</span>{/if}
              <p class="quiet">{panel.name || axis?.name}</p>
            </div>
          {/each}
        </div>
      {:else}
        <ChartDrawing
          bind:this={drawing}
          made={read.drawing}
          chart={read.chart}
          height={read.height}
          {onwidth}
        />
      {/if}
      <p class="quiet">
        {read.drawing.sentence}
        {read.other_date}
        <span class="not-printed">
          <button class="plain" aria-expanded={asTable} onclick={() => (asTable = !asTable)}
            >{asTable ? 'Without the figures' : 'The figures as a table'}</button
          >
          {#if read.drawing.draw !== 'figure'}
            · <button class="plain" onclick={() => void picture('svg')}>SVG</button>
            · <button class="plain" onclick={() => void picture('png')}>PNG</button>
          {/if}</span
        >
      </p>
      {#if asTable}<FiguresTable made={read.drawing} />{/if}
    {:else}
      <!-- eslint-disable-next-line svelte/no-at-html-tags the server makes it harmless -->
      {@html read.html}
    {/if}
  </section>
{/if}
{#each read.odd as one (one)}<p class="odd">{one}</p>{/each}
