<!-- What “Is there more?” found out: a sentence, what to accept, and the calls that showed it. -->
<script lang="ts">
  import type { Brief, Finding } from '../../api/client';
  import { sameJson } from '../../api/json';
  import { withNames } from '../../domain/jsonpath';
  import { counted, when } from '../../domain/words/format';
  import { acceptedFinding, asOneAnswer, STATE_SIGNS, today } from '../../domain/words/proof';
  import Trials from '../../parts/Trials.svelte';

  interface Props {
    finding: Finding;
    brief: Brief;
    /** How many rows the answer has, where a person may say that it is all. */
    rows: number | null;
    /** Whether this is what is to be done next. */
    next: boolean;
    onaccept: (brief: Brief) => void;
  }
  let { finding, brief, rows, next, onaccept }: Props = $props();

  const accepted = $derived(acceptedFinding(brief, finding));
  const news = $derived(accepted !== null && !sameJson(accepted.pages, brief.pages));
  let open = $state(false);
</script>

<div class="seen mb-2" aria-live="polite">
  <p>
    <strong>{STATE_SIGNS[finding.state]} {finding.state}:</strong>
    {withNames(finding.what)}.
    {#if finding.saves}<br />{finding.saves}.{/if}
  </p>
  {#if accepted && news}
    <button class="press small main mt-1.5" data-next={next || undefined} onclick={() => onaccept(accepted)}>
      {finding.pages?.by === 'none' ? 'Take it as one answer' : `Turn pages ${finding.words}`}
    </button>
  {/if}
  {#if finding.state === 'unverified' && rows !== null}
    <button class="press small mt-1.5" onclick={() => onaccept(asOneAnswer(brief, rows, today()))}
      >One answer is all there is</button
    >
  {/if}
  {#if finding.calls.length}
    <button
      class="plain mt-1.5 block text-left"
      aria-expanded={open}
      aria-label="{open ? 'Hide' : 'Show'} the calls"
      onclick={() => (open = !open)}
    >
      {open ? 'Hide' : 'Show'} the {counted(finding.calls.length, 'call')} of {when(finding.asked)}
    </button>
    {#if open}
      <Trials calls={finding.calls} />
    {/if}
  {/if}
</div>
