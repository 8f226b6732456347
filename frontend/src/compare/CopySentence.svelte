<!-- Copies what the comparison says, for a message. -->
<script lang="ts">
  import Check from '@lucide/svelte/icons/check';
  import Copy from '@lucide/svelte/icons/copy';

  interface Props {
    /** The text as it is read. */
    text: () => string;
  }
  let { text }: Props = $props();
  let state = $state<'' | 'copied' | 'failed'>('');

  async function copy(): Promise<void> {
    try {
      await navigator.clipboard.writeText(text());
      state = 'copied';
      setTimeout(() => (state = ''), 1500);
    } catch {
      state = 'failed';
    }
  }
</script>

{#if state === 'failed'}<span class="text-[13px]" role="alert"
    >This browser does not let it be copied: select the sentence and copy it by hand.</span
  >{/if}
<span class="sr-only" role="status">{state === 'copied' ? 'The sentence is copied.' : ''}</span>
<button class="press" title="Copies what is said below, for a message" onclick={copy}>
  {#if state === 'copied'}<Check size={15} />{:else}<Copy size={15} />{/if} Copy the sentence
</button>
