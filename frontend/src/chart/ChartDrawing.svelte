<!-- A chart as it is drawn: by mouse a part of it is seen larger, and a mark leads to its rows; by keyboard the marks are
     gone through. -->
<script lang="ts">
  import type { Chart, ChartMade } from '../api/client';
  import { mode } from '../ui/mode.svelte';
  import { lookOf } from './look';
  import { endNames } from './endNames';
  import { gridOf, optionOf } from './options';
  import { seriesAt } from './tip';
  import { placeText, valueText } from './words';

  interface Props {
    made: ChartMade;
    chart: Chart;
    height?: number;
    /** How wide it may be, told when that changes. */
    onwidth?: (width: number) => void;
    /** A mark leads to its rows. */
    onpick?: (panel: number, series: number, index: number) => void;
    /** A part of the first axis is to be seen larger. */
    onzoom?: (from: number, to: number) => void;
  }
  let { made, chart, height = 380, onwidth, onpick, onzoom }: Props = $props();

  type Drawn = ReturnType<(typeof import('./echarts'))['echarts']['init']>;
  let box = $state<HTMLElement>();
  let width = $state(0);
  let drawn = $state.raw<Drawn | null>(null);
  /** The mark that the keyboard is on. */
  let at = $state<{ panel: number; series: number; index: number } | null>(null);
  let drag = $state<{ from: number; to: number } | null>(null);

  const tall = $derived(gridOf(made.panels.length, width, height).height);
  const look = $derived(lookOf(mode.dark));

  $effect(() => {
    const own = box;
    if (!own) return;
    let gone = false;
    let chartOf: Drawn | null = null;
    void import('./echarts').then(({ echarts }) => {
      if (gone) return;
      chartOf = echarts.init(own, null, { renderer: 'svg' });
      chartOf.on('click', (found) => {
        const { panel, series } = seriesAt(made, found.seriesIndex ?? 0);
        if (typeof found.dataIndex === 'number') onpick?.(panel, series, found.dataIndex);
      });
      drawn = chartOf;
    });
    return () => {
      gone = true;
      chartOf?.dispose();
      drawn = null;
    };
  });

  $effect(() => {
    if (width) onwidth?.(width);
  });
  $effect(() => {
    if (!drawn || !width) return;
    drawn.resize({ width, height: tall });
    const size = { width, height: tall };
    drawn.setOption(optionOf(made, chart, look, size), { notMerge: true });
    drawn.setOption(endNames(drawn, made, look, size));
    // On paper it is scaled to what there is.
    box?.querySelector('svg')?.setAttribute('viewBox', `0 0 ${width} ${tall}`);
  });

  /** The chart as a picture that stands alone. */
  export function svg(): string {
    return drawn?.renderToSVGString() ?? '';
  }

  const zooms = $derived(
    !!onzoom && made.panels.length === 1 && (made.draw === 'line' || made.draw === 'points'),
  );
  const placeOf = (event: PointerEvent): number => event.clientX - (box?.getBoundingClientRect().left ?? 0);
  function down(event: PointerEvent): void {
    if (!zooms || event.button !== 0) return;
    drag = { from: placeOf(event), to: placeOf(event) };
  }
  function move(event: PointerEvent): void {
    if (drag) drag = { ...drag, to: placeOf(event) };
  }
  function up(): void {
    const own = drag;
    drag = null;
    if (!own || !drawn || Math.abs(own.to - own.from) < 8) return;
    const [from, to] = [own.from, own.to]
      .sort((a, b) => a - b)
      .map((x) => Number(drawn?.convertFromPixel({ xAxisIndex: 0 }, x)));
    if (from !== undefined && to !== undefined && Number.isFinite(from) && Number.isFinite(to))
      onzoom?.(from, to);
  }

  const marks = $derived(
    made.panels.flatMap((panel, p) =>
      panel.series.flatMap((series, s) =>
        (series.then ? [] : series.y).flatMap((value, index) =>
          value === null ? [] : [{ panel: p, series: s, index }],
        ),
      ),
    ),
  );
  const told = $derived.by(() => {
    if (!at) return '';
    const own = made.panels[at.panel]?.series[at.series];
    const value = own?.y[at.index];
    const axis = made.y[own?.axis ?? 0];
    if (!own || value == null || !axis) return '';
    const words = [made.panels[at.panel]?.name, own.name, placeText(made, at.panel, at.series, at.index)];
    return `${words.filter(Boolean).join(', ')}: ${valueText(value, axis)}`;
  });

  function key(event: KeyboardEvent): void {
    const steps: Record<string, number> = { ArrowRight: 1, ArrowLeft: -1, PageDown: 20, PageUp: -20 };
    const here = at
      ? marks.findIndex(
          (one) => one.panel === at?.panel && one.series === at.series && one.index === at.index,
        )
      : -1;
    let next: number;
    if (event.key in steps) next = Math.max(0, Math.min(marks.length - 1, here + (steps[event.key] ?? 0)));
    else if (event.key === 'Home') next = 0;
    else if (event.key === 'End') next = marks.length - 1;
    else if (event.key === 'Enter' && at) return onpick?.(at.panel, at.series, at.index);
    else if (event.key === 'ArrowDown' || event.key === 'ArrowUp') {
      // To the next series, at the same place as far as it has one.
      const firsts = marks.flatMap((one, index) => {
        const before = marks[index - 1];
        return !before || before.series !== one.series || before.panel !== one.panel ? [index] : [];
      });
      const own = firsts.findLastIndex((first) => first <= here);
      next =
        firsts[Math.max(0, Math.min(firsts.length - 1, own + (event.key === 'ArrowDown' ? 1 : -1)))] ?? 0;
    } else return;
    event.preventDefault();
    at = marks[next] ?? null;
    if (!at || !drawn) return;
    let seriesIndex = at.series;
    for (let p = 0; p < at.panel; p++) seriesIndex += made.panels[p]?.series.length ?? 0;
    drawn.dispatchAction({ type: 'showTip', seriesIndex, dataIndex: at.index });
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex, a11y_no_noninteractive_element_interactions -->
<div
  class="drawing"
  class:zooms
  role="img"
  tabindex="0"
  aria-label="{made.sentence} {told || 'Arrow keys go from mark to mark.'}"
  style="height: {tall}px"
  bind:clientWidth={width}
  onkeydown={key}
  onblur={() => {
    at = null;
    drawn?.dispatchAction({ type: 'hideTip' });
  }}
  onpointerdown={down}
  onpointermove={move}
  onpointerup={up}
  onpointerleave={up}
>
  <div bind:this={box} class="h-full"></div>
  {#if drag}<div
      class="part"
      style="left: {Math.min(drag.from, drag.to)}px; width: {Math.abs(drag.to - drag.from)}px"
    ></div>{/if}
</div>
<p class="sr-only" role="status">{told}</p>

<style>
  .drawing {
    position: relative;
    overflow: hidden;
    touch-action: pan-y;
  }
  .zooms {
    cursor: crosshair;
  }
  @media print {
    .drawing,
    .drawing :global(div),
    .drawing :global(svg) {
      width: 100% !important;
      height: auto !important;
    }
    .drawing :global(svg) {
      position: static !important;
    }
  }
  .part {
    position: absolute;
    top: 0;
    bottom: 0;
    background: var(--damson-wash);
    opacity: 0.6;
    border-inline: 1px solid var(--damson-edge);
    pointer-events: none;
  }
</style>
