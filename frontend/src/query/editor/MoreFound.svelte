<!-- What “Is there more?” found out: a sentence, what to accept, and the calls that showed it. -->
<script lang="ts">
  import type { Brief, Finding } from '../../api/client';
  import { sameJson } from '../../api/json';
  import { count, counted, when } from '../../domain/words/format';
  import { acceptedFinding, asOneAnswer, sentWords, STATE_SIGNS, today } from '../../domain/words/proof';

  interface Props {
    finding: Finding;
    brief: Brief;
    /** How many rows the answer has, where a person may say that it is all. */
    rows: number | null;
    onaccept: (brief: Brief) => void;
  }
  let { finding, brief, rows, onaccept }: Props = $props();

  const accepted = $derived(acceptedFinding(brief, finding));
  const news = $derived(accepted !== null && !sameJson(accepted.pages, brief.pages));
  let open = $state(false);
</script>

<div class="seen mb-2" aria-live="polite">
  <p>
    <strong>{STATE_SIGNS[finding.state]} {finding.state}:</strong>
    {finding.what}.
    {#if finding.saves}<br />{finding.saves}.{/if}
  </p>
  {#if accepted && news}
    <button class="press small main mt-1.5" onclick={() => onaccept(accepted)}>
      {finding.words === 'as one answer' ? 'Take it as one answer' : `Turn pages ${finding.words}`}
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
      <table class="trials mt-1.5">
        <thead><tr><th>Tried</th><th class="right">Rows</th><th>Showed</th></tr></thead>
        <tbody>
          {#each finding.calls as trial, at (at)}
            <tr title="{trial.method} {trial.address}">
              <td class="mono">{sentWords(trial.sent)}</td>
              <td class="right"
                >{trial.rows === null || trial.rows === undefined ? '–' : count(trial.rows)}</td
              >
              <td>{trial.showed}</td>
            </tr>
          {/each}
        </tbody>
      </table>
    {/if}
  {/if}
</div>

<style>
  .trials {
    width: 100%;
    font-size: 12.5px;
    line-height: 1.4;
  }
  .trials th {
    text-align: left;
    font-weight: 600;
    color: var(--muted);
  }
  .trials th,
  .trials td {
    padding: 3px 8px 3px 0;
    vertical-align: top;
    border-top: 1px solid var(--line);
    overflow-wrap: anywhere;
  }
  .trials .right {
    text-align: right;
    white-space: nowrap;
  }
  .mono {
    font-family: var(--mono);
    font-size: 11.5px;
  }
</style>
