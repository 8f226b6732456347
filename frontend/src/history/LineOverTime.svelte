<script module lang="ts">
  const NONE = { value: 0, index: -1 };
</script>

<!-- A number on each of some dates, as a line: gaps are gaps; lowest, highest and last are named. -->
<script lang="ts">
  import { axisOf, momentText, wholeView, xOf } from '../domain/timeline';
  import { dated, numberText } from '../domain/words/format';

  interface Props {
    /** Milliseconds since 1970, ascending. */
    at: number[];
    values: (number | null)[];
    unit?: string;
    /** What it is a line of. */
    label: string;
    height?: number;
    /** A date is chosen. */
    onpick?: ((index: number) => void) | undefined;
  }
  let { at, values, unit = '', label, height = 220, onpick }: Props = $props();

  const LEFT = 14;
  const RIGHT = 92;
  const TOP = 24;
  const FOOT = 42;
  /** Room for the name of the lowest value. */
  const BELOW = 14;
  let room = $state(900);
  let over = $state<number | null>(null);

  const width = $derived(Math.max(120, room - LEFT - RIGHT));
  const view = $derived(wholeView(at.map((one) => ({ at: one }))));
  const axis = $derived(axisOf(view, width));
  const known = $derived(values.flatMap((value, index) => (value === null ? [] : [{ value, index }])));
  const lowest = $derived(
    known.reduce((least, one) => (one.value < least.value ? one : least), known[0] ?? NONE),
  );
  const highest = $derived(
    known.reduce((most, one) => (one.value > most.value ? one : most), known[0] ?? NONE),
  );
  const last = $derived(known.at(-1) ?? NONE);
  const span = $derived(highest.value - lowest.value || Math.abs(highest.value) || 1);
  const x = $derived((index: number) => LEFT + xOf(at[index] ?? 0, view, width));
  const y = $derived(
    (value: number) => TOP + (1 - (value - lowest.value) / span) * (height - TOP - FOOT - BELOW),
  );
  /** Stretches of dates beside each other that all have a value. */
  const stretches = $derived.by(() => {
    const out: { value: number; index: number }[][] = [];
    for (const one of known) {
      const stretch = out.at(-1);
      if (stretch?.at(-1)?.index === one.index - 1) stretch.push(one);
      else out.push([one]);
    }
    return out;
  });
  const named = $derived(
    [
      { ...highest, above: true },
      { ...lowest, above: false },
    ].filter((one) => one.index >= 0 && one.index !== last.index && highest.value !== lowest.value),
  );
  const text = $derived((value: number) => `${numberText(value)}${unit ? ` ${unit}` : ''}`);
  const sentence = $derived(
    known.length
      ? `${label}: ${known.length} dates. Lowest ${text(lowest.value)}, ${when(lowest.index)}. Highest ${text(highest.value)}, ${when(highest.index)}. Last ${text(last.value)}, ${when(last.index)}.`
      : `${label}: no date has a number.`,
  );

  function when(index: number): string {
    return dated(momentText(at[index] ?? 0));
  }

  function nearest(event: PointerEvent | MouseEvent): number | null {
    const box = (event.currentTarget as Element).getBoundingClientRect();
    const place = event.clientX - box.left;
    const found = known.reduce<{ index: number; away: number } | null>((best, one) => {
      const away = Math.abs(x(one.index) - place);
      return !best || away < best.away ? { index: one.index, away } : best;
    }, null);
    return found && found.away < 60 ? found.index : null;
  }

  function key(event: KeyboardEvent): void {
    const from = known.findIndex((one) => one.index === (over ?? last.index));
    const to = { ArrowLeft: from - 1, ArrowRight: from + 1, Home: 0, End: known.length - 1 }[event.key];
    if (to !== undefined) over = known[Math.max(0, Math.min(known.length - 1, to))]?.index ?? null;
    else if ((event.key === 'Enter' || event.key === ' ') && over !== null && onpick) onpick(over);
    else return;
    event.preventDefault();
  }
</script>

<div class="line" bind:clientWidth={room}>
  <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
  <!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
  <svg
    width={room}
    {height}
    role="img"
    aria-label={over === null ? sentence : `${when(over)}: ${text(values[over] ?? 0)}`}
    tabindex="0"
    class:pick={onpick}
    onpointermove={(event) => (over = nearest(event))}
    onpointerleave={() => (over = null)}
    onclick={(event) => {
      const index = nearest(event);
      if (index !== null) onpick?.(index);
    }}
    onkeydown={key}
  >
    <line x1={LEFT} x2={LEFT + width} y1={height - FOOT + 8} y2={height - FOOT + 8} stroke="var(--line)" />
    {#each axis.small as tick (tick.x)}
      <text x={LEFT + tick.x} y={height - FOOT + 22} text-anchor="middle">{tick.label}</text>
    {/each}
    {#each axis.large as tick (tick.x)}
      <text class="large" x={LEFT + tick.x} y={height - 5}>{tick.label}</text>
    {/each}
    {#each stretches as stretch (stretch[0]?.index)}
      {#if stretch.length > 1}
        <polyline
          points={stretch.map((one) => `${x(one.index)},${y(one.value)}`).join(' ')}
          fill="none"
          stroke="var(--link)"
          stroke-width="2"
          stroke-linejoin="round"
        />
      {:else}<circle
          cx={x(stretch[0]?.index ?? 0)}
          cy={y(stretch[0]?.value ?? 0)}
          r="2.5"
          fill="var(--link)"
        />{/if}
    {/each}
    {#each named as one (one.above)}
      <circle
        cx={x(one.index)}
        cy={y(one.value)}
        r="3"
        fill="var(--paper)"
        stroke="var(--link)"
        stroke-width="1.5"
      />
      <text
        class="value"
        x={Math.min(Math.max(x(one.index), 40), LEFT + width - 20)}
        y={y(one.value) + (one.above ? -8 : 17)}
        text-anchor="middle">{text(one.value)}</text
      >
    {/each}
    {#if last.index >= 0}
      <circle cx={x(last.index)} cy={y(last.value)} r="3.5" fill="var(--damson)" />
      <text class="value last" x={x(last.index) + 9} y={y(last.value) + 4}>{text(last.value)}</text>
    {/if}
    {#if over !== null}
      <line x1={x(over)} x2={x(over)} y1={TOP - 10} y2={height - FOOT + 8} stroke="var(--damson-edge)" />
      <circle cx={x(over)} cy={y(values[over] ?? 0)} r="4" fill="var(--damson)" />
    {/if}
  </svg>
  {#if over !== null}
    <p class="tip" style="left: {Math.min(Math.max(0, x(over) - 70), Math.max(0, room - 230))}px">
      {when(over)}: <strong>{text(values[over] ?? 0)}</strong>
    </p>
  {/if}
</div>

<style>
  .line {
    position: relative;
  }
  svg {
    display: block;
  }
  .pick {
    cursor: pointer;
  }
  text {
    font-size: 11.5px;
    fill: var(--muted);
  }
  .large {
    font-weight: 600;
  }
  .value {
    font-size: 12px;
    fill: var(--ink);
  }
  .last {
    font-weight: 700;
    fill: var(--damson);
  }
  .tip {
    position: absolute;
    top: -4px;
    padding: 1px 8px;
    border: 1px solid var(--line);
    border-radius: 6px;
    background: var(--paper);
    font-size: 12.5px;
    white-space: nowrap;
    pointer-events: none;
  }
</style>
