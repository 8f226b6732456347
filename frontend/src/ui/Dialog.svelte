<!-- A dialog (Skeleton's Dialog). -->
<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
  import { onDestroy, type Snippet } from 'svelte';
  import { dropTyped, isTyped, markTyped } from './typed.svelte';

  interface Props {
    title: string;
    open: boolean;
    onclose: () => void;
    children: Snippet;
    width?: number;
    /** Whether it holds something from the beginning that a click beside it must not lose. */
    holds?: boolean;
  }
  let { title, open, onclose, children, width = 560, holds = false }: Props = $props();
  // What was typed goes with a press of Cancel, Close or its own button, not with a click beside it.
  const keep = $derived(`dialog ${title}`);
  const typed = $derived(holds || isTyped(keep));
  $effect(() => {
    if (!open) dropTyped(keep);
  });
  onDestroy(() => dropTyped(keep));

  /** The first thing to fill in, else the first thing to press; not the cross. */
  function initialFocusEl(): HTMLElement | null {
    const dialog = document.querySelector<HTMLElement>('[role=dialog][data-state=open]');
    return (
      dialog?.querySelector<HTMLElement>('[data-first]') ??
      dialog?.querySelector<HTMLElement>('input:not([type=checkbox]), textarea') ??
      dialog?.querySelector<HTMLElement>('.press') ??
      null
    );
  }
</script>

<Dialog
  {open}
  onOpenChange={(details) => !details.open && onclose()}
  {initialFocusEl}
  closeOnInteractOutside={!typed}
  closeOnEscape={!typed}
>
  <Portal>
    <Dialog.Backdrop class="fixed inset-0 z-30" style="background: rgb(20 22 26 / 45%)" />
    <Dialog.Positioner class="fixed inset-0 z-40 flex items-start justify-center overflow-auto p-6 pt-16">
      <Dialog.Content
        class="w-full rounded-[10px] border p-5"
        style="max-width: {width}px; background: var(--paper); border-color: var(--line); box-shadow: var(--shadow)"
      >
        <div class="mb-3 flex items-center justify-between">
          <Dialog.Title class="text-lg font-bold">{title}</Dialog.Title>
          <Dialog.CloseTrigger class="cursor-pointer p-1" aria-label="Close"
            ><X size={18} /></Dialog.CloseTrigger
          >
        </div>
        <div oninput={() => markTyped(keep)}>{@render children()}</div>
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>
