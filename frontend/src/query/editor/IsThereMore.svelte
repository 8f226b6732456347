<!-- Whether one answer is all there is: what it shows, and finding out by asking, with its cost beforehand. -->
<script lang="ts">
  import type { Brief, Preview } from '../../api/client';
  import { asOneAnswer, callsWords, STATE_SIGNS, today } from '../../domain/words/proof';
  import { withNames } from '../../domain/jsonpath';
  import type { QueryStore } from '../queryStore.svelte';

  interface Props {
    work: QueryStore;
    brief: Brief;
    preview: Preview;
    onchange: (brief: Brief) => void;
  }
  let { work, brief, preview, onchange }: Props = $props();

  const proof = $derived(preview.proof);
  const service = $derived(work.detail?.service ?? null);
  let reads = $state(false);
  const may = $derived(!!proof && (proof.reads || reads));

  function sayAll(): void {
    const apart = preview.total_gap ? [preview.total_gap.place] : [];
    onchange(asOneAnswer(brief, preview.records, today(), apart));
  }
</script>

{#if proof}
  <div class="seen mb-2">
    <p><strong>{STATE_SIGNS[proof.state]} {proof.state}:</strong> {withNames(proof.evidence)}.</p>
    {#if proof.state !== 'complete'}
      {#if !proof.reads}
        <label class="mt-1.5 flex items-start gap-2">
          <input class="mt-0.5" type="checkbox" name="reads" bind:checked={reads} />
          <span>A {brief.ask?.method} may change something. This one only reads.</span>
        </label>
      {/if}
      <p class="mt-1.5 flex flex-wrap items-center gap-x-3 gap-y-1">
        <button
          class="press small main"
          aria-label="Is there more?"
          data-next={work.step === 'pages' || undefined}
          disabled={work.busy || work.run.running || !may}
          onclick={() => work.findMore(reads)}>Is there more? <small>{callsWords(proof.calls)}</small></button
        >
        <button class="plain" disabled={work.busy} onclick={sayAll}>One answer is all there is</button>
      </p>
      {#if service && proof.reads && !proof.by_itself}
        <button class="plain mt-1 block text-left text-[12.5px]" onclick={() => work.findOutByItself()}
          >Find out by itself at {service.name} from now on</button
        >
      {/if}
    {/if}
  </div>
{/if}
