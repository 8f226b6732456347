<!-- A phrase that opens a sheet for editing, in place (Skeleton's Popover). -->
<script lang="ts">
  import { Popover, Portal } from '@skeletonlabs/skeleton-svelte';
  import type { Snippet } from 'svelte';
  import { dropTyped, isTyped, markTyped } from './typed.svelte';

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
    /** Says whose typing this is, where it is used by a button alone: it is kept when the sheet is left without. */
    keep?: string;
    /** Whether the trigger is a picture without words. */
    icon?: boolean;
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
    keep = '',
    icon = false,
  }: Props = $props();
  let open = $state(false);
  let thrown = $state(0);
  const typed = $derived(!!keep && isTyped(keep));
  /** Whether it was there when the sheet was opened. */
  let earlier = $state(false);

  /** What is most often changed in it, else the first that can be. */
  const initialFocusEl = (): HTMLElement | null =>
    document.querySelector<HTMLElement>('.sheet[data-state=open] :is([data-first], [name=value])');

  function mark(): void {
    if (keep) markTyped(keep);
  }

  function close(): void {
    open = false;
    if (keep) dropTyped(keep);
  }

  function throwAway(): void {
    dropTyped(keep);
    earlier = false;
    onopen?.();
    thrown += 1;
  }
</script>

<Popover
  {open}
  onOpenChange={(details) => {
    open = details.open;
    if (!open) return;
    earlier = typed;
    if (!typed) onopen?.();
  }}
  {initialFocusEl}
  positioning={{ placement, gutter: 5, overflowPadding: 8 }}
>
  {#if open}
    <Portal>
      <Popover.Positioner class="z-40">
        <Popover.Content
          class="sheet"
          aria-label={label}
          style="width: {width}px; max-width: calc(100vw - 24px)"
        >
          <Popover.Title class="mb-2 font-bold">{label}</Popover.Title>
          {#if earlier && typed}
            <p class="seen mb-2 flex items-center gap-2">
              <span class="min-w-0 flex-1">This was typed before and is not used yet.</span>
              <button type="button" class="press small" onclick={throwAway}>Throw it away</button>
            </p>
          {/if}
          <div oninput={mark} onchange={mark}>
            {#key thrown}{@render children(close)}{/key}
          </div>
        </Popover.Content>
      </Popover.Positioner>
    </Portal>
  {/if}
  <!-- Last, so that no space stands between the phrase and a full stop behind it. -->
  <Popover.Trigger
    class={look}
    {disabled}
    aria-label={icon ? label : undefined}
    {...{ 'aria-description': typed ? `${label}; something was typed here and is not used yet` : label }}
    title={typed ? 'Something was typed here and is not used yet' : undefined}
    >{@render trigger()}{#if typed}<span class="unused"></span>{/if}</Popover.Trigger
  >
</Popover>

<style>
  .unused {
    display: inline-block;
    width: 7px;
    height: 7px;
    margin-left: 4px;
    border-radius: 50%;
    background: var(--straw);
    vertical-align: middle;
  }
</style>
