<!-- The snapshots of a query on a line, with two handles: then and now. -->
<script lang="ts">
  import type { Snapshot } from '../api/client';
  import { count, when } from '../domain/words/format';

  interface Props {
    snapshots: Snapshot[];
    then: number;
    now: number;
    onchange: (then: number, now: number) => void;
  }
  let { snapshots, then, now, onchange }: Props = $props();

  let width = $state(1200);
  let dragged = $state<'then' | 'now' | null>(null);
  let lane = $state<HTMLElement>();
  const EDGE = 34;
  const HEIGHT = 34;

  const step = $derived((width - 2 * EDGE) / Math.max(1, snapshots.length - 1));
  const x = $derived((index: number) => (snapshots.length === 1 ? width / 2 : EDGE + index * step));
  const most = $derived(Math.max(1, ...snapshots.map((one) => one.rows)));
  const least = $derived(Math.min(...snapshots.map((one) => one.rows)));
  const bar = $derived(Math.max(2, Math.min(15, step * 0.45)));
  const every = $derived(Math.max(1, Math.ceil(26 / step)));

  function differs(one: Snapshot): number {
    return (one.since.new ?? 0) + (one.since.gone ?? 0) + (one.since.changed ?? 0);
  }
  const mostDiffers = $derived(Math.max(1, ...snapshots.map(differs)));
  // Where counts hardly differ, bars that begin at zero would all look alike; they are cut at the foot together.
  const foot = $derived(least / most > 0.7 ? least * 0.6 : 0);
  const tall = $derived((one: Snapshot) => 8 + ((one.rows - foot) / (most - foot || 1)) * (HEIGHT - 8));

  const months = $derived(
    snapshots
      .map((one, index) => ({
        index,
        name: new Date(one.taken).toLocaleDateString('en-GB', { month: 'long' }),
      }))
      .filter((one, at, all) => at === 0 || all[at - 1]?.name !== one.name),
  );

  function nearest(client: number): number {
    const left = lane?.getBoundingClientRect().left ?? 0;
    return Math.min(snapshots.length - 1, Math.max(0, Math.round((client - left - EDGE) / (step || 1))));
  }

  function set(which: 'then' | 'now', index: number): void {
    const limited =
      which === 'then'
        ? Math.min(Math.max(0, index), now - 1)
        : Math.max(Math.min(index, snapshots.length - 1), then + 1);
    if (which === 'then') onchange(limited, now);
    else onchange(then, limited);
  }

  function pick(index: number): void {
    const which = Math.abs(index - then) <= Math.abs(index - now) ? 'then' : 'now';
    set(which, index);
  }

  function key(event: KeyboardEvent, which: 'then' | 'now'): void {
    const by = { ArrowLeft: -1, ArrowDown: -1, ArrowRight: 1, ArrowUp: 1, PageDown: -7, PageUp: 7 }[
      event.key
    ];
    if (by === undefined) return;
    event.preventDefault();
    set(which, (which === 'then' ? then : now) + by);
  }
</script>

<svelte:window
  onpointermove={(event) => {
    if (!dragged) return;
    const index = nearest(event.clientX);
    if (index !== (dragged === 'then' ? then : now)) set(dragged, index);
  }}
  onpointerup={() => (dragged = null)}
/>

<div class="lane" bind:this={lane} bind:clientWidth={width} class:dragging={dragged}>
  <svg {width} height="82" role="presentation">
    {#each snapshots as one, index (one.id)}
      {@const isEnd = index === then || index === now}
      {@const size = tall(one)}
      {@const part = Math.min(size - 3, (differs(one) / mostDiffers) * 12)}
      <!-- svelte-ignore a11y_click_events_have_key_events -->
      <!-- svelte-ignore a11y_no_static_element_interactions -->
      <g class="snapshot" onclick={() => pick(index)}>
        <title
          >{when(one.taken)}: {count(one.rows)} rows, {count(differs(one))} differ from the one before</title
        >
        <rect
          x={x(index) - Math.max(step / 2, 6)}
          y="14"
          width={Math.max(step, 12)}
          height="62"
          fill="transparent"
        />
        <rect
          x={x(index) - bar / 2}
          y={56 - size}
          width={bar}
          height={size}
          rx="2"
          fill={isEnd ? 'var(--damson-fill)' : 'var(--faint)'}
        />
        {#if part > 0 && !isEnd}
          <rect x={x(index) - bar / 2} y={56 - size} width={bar} height={part} rx="2" fill="var(--straw)" />
        {/if}
        {#if index % every === 0 || isEnd}
          <text x={x(index)} y="68" text-anchor="middle">{new Date(one.taken).getDate()}</text>
        {/if}
      </g>
    {/each}
    {#each months as month (month.index)}
      <text x={x(month.index) - 6} y="80" text-anchor="start">{month.name}</text>
    {/each}
  </svg>
  {#each [['then', then], ['now', now]] as const as [which, index] (which)}
    <button
      class="handle"
      style="left: {x(index)}px"
      role="slider"
      aria-label={which}
      aria-valuemin={0}
      aria-valuemax={snapshots.length - 1}
      aria-valuenow={index}
      aria-valuetext={when(snapshots[index]?.taken ?? '')}
      onpointerdown={() => (dragged = which)}
      onkeydown={(event) => key(event, which)}>{which}</button
    >
  {/each}
</div>

<style>
  .lane {
    position: relative;
    height: 86px;
    user-select: none;
  }
  .lane.dragging {
    cursor: grabbing;
  }
  text {
    font-size: 11.5px;
    fill: var(--muted);
  }
  .snapshot {
    cursor: pointer;
  }
  .handle {
    position: absolute;
    top: 0;
    transform: translateX(-50%);
    padding: 0 7px;
    border-radius: 10px;
    background: var(--damson-fill);
    color: #fff;
    font-size: 12px;
    font-weight: 700;
    line-height: 18px;
    cursor: grab;
    touch-action: none;
  }
</style>
