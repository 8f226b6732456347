<!-- The dates of a table on a line of time, with one or two handles; what stands too close is one bar until it is zoomed. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import Minus from '@lucide/svelte/icons/minus';
  import Plus from '@lucide/svelte/icons/plus';
  import {
    axisOf,
    binsOf,
    apart,
    missBinsOf,
    momentAt,
    momentText,
    moved,
    nearest,
    showing,
    wholeView,
    xOf,
    zoomed,
    type Bin,
    type Mark,
    type Miss,
    type Tick,
    type View,
  } from '../domain/timeline';
  import { count, counted, dated } from '../domain/words/format';

  interface Handle {
    name: string;
    /** Which date it stands on. */
    index: number;
  }
  interface Props {
    /** The oldest first. */
    marks: Mark[];
    misses: Miss[];
    handles: Handle[];
    onmove: (name: string, index: number) => void;
  }
  let { marks, misses, handles, onmove }: Props = $props();

  const DAY = 86_400_000;
  const FOOT = 57;
  const TALL = 36;
  /** Pixels that a bar takes at least, with the gap behind it. */
  const LEAST = 6;
  /** Pixels on either side that no date stands on. */
  const EDGE = 22;

  let room = $state(1200);
  let lane = $state<HTMLElement>();
  let dragged = $state<string | null>(null);
  let panned = $state<{ x: number; view: View; far: boolean } | null>(null);
  let seen = $state.raw<View | null>(null);
  let over = $state<number | null>(null);

  const width = $derived(Math.max(120, room - 2 * EDGE));
  const whole = $derived(wholeView(marks, misses));
  const view = $derived(seen ?? whole);
  const bins = $derived(binsOf(marks, view, width, LEAST));
  const axis = $derived(axisOf(view, width));
  const isZoomed = $derived(view.to - view.from < (whole.to - whole.from) * 0.999);
  const crowded = $derived(isZoomed || bins.some((bin) => bin.last > bin.first));

  const most = $derived(Math.max(1, ...bins.map((bin) => bin.most)));
  const least = $derived(Math.min(most, ...bins.map((bin) => bin.most)));
  const mostDiffers = $derived(Math.max(1, ...bins.map((bin) => bin.differs)));
  // Where counts hardly differ, bars that begin at zero would all look alike; they are cut at the foot together.
  const foot = $derived(least / most > 0.7 ? least * 0.6 : 0);
  const tall = $derived((bin: Bin) => 8 + ((bin.most - foot) / (most - foot || 1)) * (TALL - 8));
  const closest = $derived(
    bins.reduce((gap, bin, at) => Math.min(gap, at ? bin.x - (bins[at - 1]?.x ?? 0) : gap), 40),
  );
  const bar = $derived(Math.max(4, Math.min(15, closest * 0.6)));

  /** Where a label stands: that of a day with one bar stands below the bar. */
  function labelled(tick: Tick): number {
    // Where most days have none, the days stand evenly.
    if (!axis.daily || bins.length < axis.small.length * 0.6) return tick.x;
    const own = bins.filter((bin) => bin.x >= tick.x && bin.x < xOf(tick.at + DAY, view, width));
    return own.length === 1 ? (own[0]?.x ?? tick.x) : tick.x;
  }

  /** The labels with their places; one that would stand on the one before is left out. */
  const labels = $derived.by(() => {
    let last = -Infinity;
    return axis.small.flatMap((tick) => {
      const at = labelled(tick);
      if (at - last < tick.label.length * 7 + 4) return [];
      last = at;
      return [{ x: tick.x, at, label: tick.label }];
    });
  });

  const x = $derived((at: number) => EDGE + xOf(at, view, width));
  const holds = (bin: Bin, index: number): boolean => bin.first <= index && index <= bin.last;
  /** Where a handle stands: on the bar of its date, or at the edge behind which that lies. */
  const placed = $derived((index: number) => {
    const bin = bins.find((one) => holds(one, index));
    return bin ? EDGE + bin.x : Math.min(room - 8, Math.max(8, x(marks[index]?.at ?? 0)));
  });
  const hidden = $derived((index: number) => {
    const at = marks[index]?.at ?? 0;
    return at < view.from || at > view.to;
  });

  /** Two handles that stand close lean away from each other. */
  function leaning(handle: Handle): string {
    const other = handles.find((one) => one.name !== handle.name);
    if (!other || Math.abs(placed(other.index) - placed(handle.index)) > 42) return '-50%';
    return handle.index < other.index ? '-90%' : '-10%';
  }

  function words(index: number): string {
    const mark = marks[index];
    if (!mark) return '';
    return [
      dated(momentText(mark.at)),
      counted(mark.rows, 'row'),
      mark.differs === null ? '' : `${count(mark.differs)} differ from the one before`,
      mark.state === 'complete' ? '' : mark.state,
      mark.name,
      mark.pinned ? 'pinned' : '',
    ]
      .filter(Boolean)
      .join(' · ');
  }

  function binWords(bin: Bin): string {
    const [first, last] = [marks[bin.first], marks[bin.last]];
    if (!first || !last || bin.first === bin.last) return words(bin.last);
    const span = `${dated(momentText(first.at))} to ${dated(momentText(last.at))}`;
    return `${counted(bin.last - bin.first + 1, 'snapshot')}, ${span}. A click takes the last; zoom in to tell them apart.`;
  }

  function missWords(all: Miss[]): string {
    const [first] = all;
    if (!first) return '';
    if (all.length > 1) return `${counted(all.length, 'run')} without a snapshot`;
    return `${dated(momentText(first.at))}: ${first.state}, no snapshot. ${first.what}`;
  }

  function left(): number {
    return (lane?.getBoundingClientRect().left ?? 0) + EDGE;
  }

  /** The date that is drawn nearest to a place on the screen. */
  function indexAt(client: number): number {
    const place = client - left();
    if (place < 0 || place > width || !bins.length) return nearest(marks, momentAt(place, view, width));
    const away = (bin: Bin): number => Math.abs(bin.x - place);
    return bins.reduce((best, bin) => (away(bin) < away(best) ? bin : best)).last;
  }

  function move(name: string, index: number): void {
    const to = Math.max(0, Math.min(marks.length - 1, index));
    onmove(name, to);
    if (seen) seen = showing(seen, whole, marks[to]?.at ?? 0);
  }

  function pick(client: number): void {
    const place = client - left() + EDGE;
    const away = (one: Handle): number => Math.abs(placed(one.index) - place);
    const [first] = handles;
    if (!first) return;
    const handle = handles.reduce((best, one) => (away(one) < away(best) ? one : best), first);
    move(handle.name, indexAt(client));
  }

  function zoom(factor: number, around: number): void {
    const next = zoomed(view, whole, factor, around);
    seen = next.to - next.from >= (whole.to - whole.from) * 0.999 ? null : next;
  }

  // Two dates beside each other among thousands are seen apart at first.
  onMount(() => {
    const [one, other] = handles.map((handle) => marks[handle.index]?.at);
    if (one !== undefined && other !== undefined) seen = apart(whole, width, one, other, 20);
  });

  const middle = $derived(marks[handles.at(-1)?.index ?? 0]?.at ?? (view.from + view.to) / 2);

  function key(event: KeyboardEvent, { name, index }: Handle): void {
    if (event.ctrlKey || event.altKey || event.metaKey) return;
    const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -7, PageUp: 7 }[
      event.key
    ];
    if (by !== undefined) move(name, index + by);
    else if (event.key === 'Home') move(name, 0);
    else if (event.key === 'End') move(name, marks.length - 1);
    else if (event.key === '+' || event.key === '=') zoom(0.5, marks[index]?.at ?? middle);
    else if (event.key === '-') zoom(2, marks[index]?.at ?? middle);
    else return;
    event.preventDefault();
  }

  /** A wheel is heard by the window unless it is said that it is used here. */
  function wheels(node: HTMLElement): { destroy: () => void } {
    const turn = (event: WheelEvent): void => {
      event.preventDefault();
      if (Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
        if (seen) seen = moved(view, whole, (event.deltaX / width) * (view.to - view.from));
        return;
      }
      zoom(event.deltaY > 0 ? 1.25 : 0.8, momentAt(event.clientX - left(), view, width));
    };
    node.addEventListener('wheel', turn, { passive: false });
    return { destroy: () => node.removeEventListener('wheel', turn) };
  }
</script>

<svelte:window
  onpointermove={(event) => {
    if (dragged !== null) {
      const own = handles.find((one) => one.name === dragged);
      const index = indexAt(event.clientX);
      if (own && index !== own.index) move(dragged, index);
    } else if (panned) {
      const by = panned.x - event.clientX;
      if (Math.abs(by) > 4) panned.far = true;
      if (panned.far && isZoomed) seen = moved(panned.view, whole, (by / width) * (view.to - view.from));
    }
  }}
  onpointerup={(event) => {
    if (panned && !panned.far) pick(event.clientX);
    dragged = null;
    panned = null;
  }}
/>

<div class="flex items-start gap-2">
  <!-- svelte-ignore a11y_no_static_element_interactions -->
  <div
    class="lane"
    bind:this={lane}
    bind:clientWidth={room}
    class:dragging={dragged !== null || panned?.far}
    use:wheels
    onpointerdown={(event) => {
      if (event.button === 0 && dragged === null) panned = { x: event.clientX, view, far: false };
    }}
    onpointermove={(event) => {
      const at = bins.findIndex(
        (bin) => Math.abs(bin.x + left() - event.clientX) <= Math.max(bar, LEAST) / 2 + 1,
      );
      over = at < 0 ? null : at;
    }}
    onpointerleave={() => (over = null)}
  >
    <svg width={room} height="94" role="presentation">
      <defs>
        <pattern id="doubt" width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="4" height="4" fill="var(--paper)" /><rect width="1.6" height="4" fill="var(--muted)" />
        </pattern>
      </defs>
      <line x1="0" x2={room} y1={FOOT + 0.5} y2={FOOT + 0.5} stroke="var(--hair)" />
      {#each bins as bin (bin.first)}
        {@const size = tall(bin)}
        {@const isEnd = handles.some((one) => holds(bin, one.index))}
        {@const part = Math.min(size - 3, (bin.differs / mostDiffers) * 12)}
        {@const from = EDGE + bin.x - bar / 2}
        <rect
          x={from}
          y={FOOT - size}
          width={bar}
          height={size}
          rx={bar > 8 ? 2 : 1}
          fill={isEnd ? 'var(--damson-fill)' : 'var(--faint)'}
        />
        {#if bin.doubtful && !isEnd}
          {@const doubt = Math.max(5, (size * bin.doubtful) / (bin.last - bin.first + 1))}
          <rect x={from} y={FOOT - doubt} width={bar} height={doubt} fill="url(#doubt)" />
        {/if}
        {#if part > 0 && !isEnd}
          <rect x={from} y={FOOT - size} width={bar} height={part} rx={bar > 8 ? 2 : 1} fill="var(--straw)" />
        {/if}
        {#if bin.named}
          <circle cx={EDGE + bin.x} cy={FOOT - size - 5} r="2.5" fill="var(--damson)" />
        {/if}
      {/each}
      {#each missBinsOf(misses, view, width, 9) as bin (bin.x)}
        <text class="miss" x={EDGE + bin.x} y={FOOT + 9} text-anchor="middle"
          >×<title>{missWords(bin.misses)}</title></text
        >
      {/each}
      {#each labels as tick (tick.x)}
        <text x={EDGE + tick.at} y="77" text-anchor="middle">{tick.label}</text>
      {/each}
      {#each axis.large as tick (tick.x)}
        <text class="large" x={EDGE + tick.x} y="90">{tick.label}</text>
      {/each}
      {#if isZoomed}
        {@const share = width / (whole.to - whole.from)}
        <rect
          x={EDGE + (view.from - whole.from) * share}
          y={FOOT + 1}
          width={Math.max(6, (view.to - view.from) * share)}
          height="3"
          rx="1.5"
          fill="var(--damson-edge)"
        />
      {/if}
    </svg>
    {#each handles as handle (handle.name)}
      <button
        class="handle"
        class:away={hidden(handle.index)}
        style="left: {placed(handle.index)}px; transform: translateX({leaning(handle)})"
        role="slider"
        aria-label={handle.name}
        aria-valuemin={0}
        aria-valuemax={marks.length - 1}
        aria-valuenow={handle.index}
        aria-valuetext={words(handle.index)}
        title={words(handle.index)}
        onpointerdown={(event) => {
          dragged = handle.name;
          event.stopPropagation();
        }}
        onkeydown={(event) => key(event, handle)}>{handle.name}</button
      >
    {/each}
    {#if over !== null && bins[over] && dragged === null && !panned?.far}
      {@const bin = bins[over] as Bin}
      <p class="tip" style="left: {Math.min(Math.max(8, EDGE + bin.x - 60), Math.max(8, room - 330))}px">
        {binWords(bin)}
      </p>
    {/if}
  </div>
  {#if crowded}
    <div class="zoom" role="group" aria-label="Zoom of the time line">
      <button title="Zoom in" aria-label="Zoom in" onclick={() => zoom(0.4, middle)}
        ><Plus size={13} /></button
      >
      <button title="Zoom out" aria-label="Zoom out" disabled={!isZoomed} onclick={() => zoom(2.5, middle)}
        ><Minus size={13} /></button
      >
      <button disabled={!isZoomed} title="The whole time line" onclick={() => (seen = null)}>all</button>
    </div>
  {/if}
</div>

<style>
  .lane {
    position: relative;
    flex: 1;
    min-width: 0;
    height: 95px;
    user-select: none;
    cursor: pointer;
    touch-action: pan-y;
  }
  .lane.dragging {
    cursor: grabbing;
  }
  svg {
    display: block;
  }
  text {
    font-size: 11.5px;
    fill: var(--muted);
    pointer-events: none;
  }
  .large {
    font-weight: 600;
  }
  .miss {
    font-size: 14px;
    font-weight: 700;
    fill: var(--straw-ink);
    pointer-events: auto;
  }
  .handle {
    position: absolute;
    top: 0;
    padding: 0 7px;
    border-radius: 10px;
    background: var(--damson-fill);
    color: #fff;
    font-size: 12px;
    font-weight: 700;
    line-height: 18px;
    white-space: nowrap;
    cursor: grab;
    touch-action: none;
  }
  .handle.away {
    opacity: 0.55;
  }
  .tip {
    position: absolute;
    top: 95px;
    z-index: 20;
    max-width: 322px;
    padding: 3px 9px;
    border: 1px solid var(--line);
    border-radius: 6px;
    background: var(--paper);
    box-shadow: var(--shadow);
    font-size: 12.5px;
    line-height: 17px;
    pointer-events: none;
  }
  .zoom {
    display: grid;
    gap: 2px;
    padding-top: 14px;
    font-size: 12px;
  }
  .zoom button {
    display: grid;
    place-items: center;
    min-width: 24px;
    height: 20px;
    padding: 0 4px;
    border: 1px solid var(--line);
    border-radius: 5px;
    background: var(--paper);
    cursor: pointer;
  }
  .zoom button:disabled {
    opacity: 0.45;
    cursor: default;
  }
</style>
