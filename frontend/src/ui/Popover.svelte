<!-- A phrase that opens a sheet for editing, in place (Skeleton's Popover). -->
<script lang="ts">
  import { Popover, Portal } from '@skeletonlabs/skeleton-svelte';
  import type { Snippet } from 'svelte';

  interface Props {
    /** What the phrase says. */
    trigger: Snippet;
    /** The sheet; call `close` when it is done. */
    children: Snippet<[() => void]>;
    label: string;
    look?: string;
    width?: number;
    placement?: 'bottom-start' | 'bottom-end' | 'right-start' | 'bottom';
    onopen?: () => void;
    disabled?: boolean;
  }
  let {
    trigger,
    children,
    label,
    look = 'phrase',
    width = 400,
    placement = 'bottom-start',
    onopen,
    disabled = false,
  }: Props = $props();
  let open = $state(false);
</script>

<Popover
  {open}
  onOpenChange={(details) => {
    open = details.open;
    if (open) onopen?.();
  }}
  positioning={{ placement, gutter: 5, overflowPadding: 8 }}
>
  {#if open}
    <Portal>
      <Popover.Positioner class="z-40">
        <Popover.Content class="sheet" style="width: {width}px; max-width: calc(100vw - 24px)">
          <Popover.Title class="mb-2 font-bold">{label}</Popover.Title>
          {@render children(() => (open = false))}
        </Popover.Content>
      </Popover.Positioner>
    </Portal>
  {/if}
  <!-- Last, so that no space stands between the phrase and a full stop behind it. -->
  <Popover.Trigger class={look} aria-label={label} {disabled}>{@render trigger()}</Popover.Trigger>
</Popover>
