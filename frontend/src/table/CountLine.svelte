<!-- A small line of row counts, the oldest at the left. -->
<script lang="ts">
  interface Props {
    counts: number[];
  }
  let { counts }: Props = $props();
  const WIDTH = 64;
  const HEIGHT = 18;
  const points = $derived.by(() => {
    const low = Math.min(...counts);
    const range = Math.max(...counts) - low || 1;
    return counts
      .map((value, index) => {
        const x = 2 + (index / Math.max(1, counts.length - 1)) * (WIDTH - 4);
        const y = HEIGHT - 3 - ((value - low) / range) * (HEIGHT - 6);
        return `${x.toFixed(1)},${y.toFixed(1)}`;
      })
      .join(' ');
  });
</script>

{#if counts.length > 1}
  <svg width={WIDTH} height={HEIGHT} aria-hidden="true">
    <polyline {points} fill="none" stroke="var(--link)" stroke-width="1.400" stroke-linejoin="round" />
    <circle
      cx={points.split(' ').at(-1)?.split(',')[0]}
      cy={points.split(' ').at(-1)?.split(',')[1]}
      r="2"
      fill="var(--damson)"
    />
  </svg>
{/if}
