<!-- The calls that “Is there more?” made, and what each showed. -->
<script lang="ts">
  import type { Finding } from '../api/client';
  import { count } from '../domain/words/format';
  import { sentWords } from '../domain/words/proof';

  interface Props {
    calls: Finding['calls'];
  }
  let { calls }: Props = $props();
</script>

<table class="trials mt-1.5">
  <thead><tr><th>Tried</th><th class="right">Rows</th><th>Showed</th></tr></thead>
  <tbody>
    {#each calls as trial, at (at)}
      <tr title="{trial.method} {trial.address}">
        <td class="mono">{sentWords(trial.sent)}</td>
        <td class="right">{trial.rows === null || trial.rows === undefined ? '–' : count(trial.rows)}</td>
        <td>{trial.showed}</td>
      </tr>
    {/each}
  </tbody>
</table>

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
    white-space: normal;
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
