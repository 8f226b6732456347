<!-- The bucket: how fresh a table is. Full right after a refresh, dented when the last run failed. -->
<script lang="ts">
  interface Props {
    /** From 0, empty, to 1, full. */
    level?: number;
    dented?: boolean;
    busy?: boolean;
    size?: number;
    label?: string;
  }
  let { level = 1, dented = false, busy = false, size = 22, label = '' }: Props = $props();
  const id = $props.id();
  const top = $derived(21.5 - 12.5 * Math.min(1, Math.max(0, level)));
  const outline = $derived(
    dented ? 'M4 8h16l-.8 5-2.200 1.500 1.400 2.300L17.800 22H6.200z' : 'M4 8h16l-2.200 14H6.200z',
  );
</script>

<svg
  width={size}
  height={size}
  viewBox="0 0 24 24"
  role="img"
  aria-label={label || undefined}
  aria-hidden={!label}
  class:busy
>
  {#if label}<title>{label}</title>{/if}
  <clipPath {id}><path d={outline} /></clipPath>
  <path d="M5 8C5 3.500 8 2 12 2s7 1.500 7 6" fill="none" stroke="var(--muted)" stroke-width="1.300" />
  <path d={outline} fill="var(--paper)" />
  <rect x="3" y={top} width="18" height="14" fill="var(--damson-fill)" clip-path="url(#{id})" />
  <path d={outline} fill="none" stroke="var(--muted)" stroke-width="1.400" stroke-linejoin="round" />
  {#if dented}<path
      d="M18.500 13.500l-2 1 1.300 2"
      fill="none"
      stroke="var(--straw-ink)"
      stroke-width="1.400"
    />{/if}
</svg>

<style>
  .busy rect {
    animation: fill 1.6s ease-in-out infinite alternate;
  }
  @keyframes fill {
    from {
      transform: translateY(8px);
    }
    to {
      transform: translateY(0);
    }
  }
  @media (prefers-reduced-motion: reduce) {
    .busy rect {
      animation: none;
    }
  }
</style>
