<!-- A small line of numbers, the oldest at the left. A date without one is left out. -->
<script lang="ts">
  interface Props {
    counts: (number | null)[];
    width?: number;
  }
  let { counts, width = 64 }: Props = $props();
  const HEIGHT = 18;
  const known = $derived(counts.flatMap((value, index) => (value === null ? [] : [{ value, index }])));
  const points = $derived.by(() => {
    const values = known.map((one) => one.value);
    const low = Math.min(...values);
    const range = Math.max(...values) - low || 1;
    return known.map(({ value, index }) => {
      const x = 2 + (index / Math.max(1, counts.length - 1)) * (width - 4);
      const y = HEIGHT - 3 - ((value - low) / range) * (HEIGHT - 6);
      return { x: x.toFixed(1), y: y.toFixed(1) };
    });
  });
  const last = $derived(points.at(-1));
</script>

{#if last && points.length > 1}
  <svg {width} height={HEIGHT} aria-hidden="true">
    <polyline
      points={points.map(({ x, y }) => `${x},${y}`).join(' ')}
      fill="none"
      stroke="var(--link)"
      stroke-width="1.400"
      stroke-linejoin="round"
    />
    <circle cx={last.x} cy={last.y} r="2" fill="var(--damson)" />
  </svg>
{/if}
