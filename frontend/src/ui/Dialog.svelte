<!-- A dialog (Skeleton's Dialog). -->
<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { Dialog, Portal } from '@skeletonlabs/skeleton-svelte';
  import type { Snippet } from 'svelte';

  interface Props {
    title: string;
    open: boolean;
    onclose: () => void;
    children: Snippet;
    width?: number;
  }
  let { title, open, onclose, children, width = 560 }: Props = $props();

  /** The first thing to fill in, else the first thing to press; not the cross. */
  function initialFocusEl(): HTMLElement | null {
    const dialog = document.querySelector<HTMLElement>('[role=dialog][data-state=open]');
    return (
      dialog?.querySelector<HTMLElement>('input:not([type=checkbox]), textarea') ??
      dialog?.querySelector<HTMLElement>('.press') ??
      null
    );
  }
</script>

<Dialog {open} onOpenChange={(details) => !details.open && onclose()} {initialFocusEl}>
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
        {@render children()}
      </Dialog.Content>
    </Dialog.Positioner>
  </Portal>
</Dialog>
