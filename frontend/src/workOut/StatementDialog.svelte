<!-- The whole work-out as one SQL statement, to be copied. -->
<script lang="ts">
  import type { WorkOut } from '../api/client';
  import Dialog from '../ui/Dialog.svelte';

  interface Props {
    open: boolean;
    done: WorkOut | null;
    onclose: () => void;
  }
  let { open, done, onclose }: Props = $props();
  let copied = $state(false);

  async function copy(): Promise<void> {
    try {
      await navigator.clipboard.writeText(done?.statement ?? '');
      copied = true;
    } catch {
      copied = false;
    }
  }
</script>

<Dialog title="The work-out as SQL" {open} {onclose} width={860}>
  {#if done}
    <p class="muted mb-2 text-[13px]">
      One statement, as SQLite reads it: the table before the lines goes in, the table after them comes out.
      {#if done.own_functions.length}
        It calls {done.own_functions.join(', ')}, which Tin Bucket brings and SQLite elsewhere does not have.
      {/if}
    </p>
    <pre class="statement">{done.statement}</pre>
    <div class="mt-3 flex items-center gap-3">
      <button class="press main" onclick={copy}>{copied ? 'Copied' : 'Copy'}</button>
    </div>
  {/if}
</Dialog>

<style>
  .statement {
    max-height: 420px;
    overflow: auto;
    padding: 10px 12px;
    border-radius: 7px;
    background: var(--band);
    font-family: var(--mono);
    font-size: 12.5px;
    line-height: 1.5;
    white-space: pre-wrap;
    overflow-wrap: anywhere;
  }
</style>
