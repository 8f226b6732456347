<!-- Asks before something is deleted for good. -->
<script lang="ts">
  import type { Snippet } from 'svelte';
  import Dialog from './Dialog.svelte';

  interface Props {
    title: string;
    /** What the button that does it says. */
    yes: string;
    /** What the button that does nothing says. */
    no?: string;
    allowed?: boolean;
    onyes: () => void;
    onno: () => void;
    children: Snippet;
  }
  let { title, yes, no = 'Keep it', allowed = true, onyes, onno, children }: Props = $props();
</script>

<Dialog {title} open onclose={onno} width={460}>
  <p>{@render children()}</p>
  <div class="mt-4 flex gap-2">
    <button class="press main" disabled={!allowed} onclick={onyes}>{yes}</button>
    <button class="press" onclick={onno}>{no}</button>
  </div>
</Dialog>
