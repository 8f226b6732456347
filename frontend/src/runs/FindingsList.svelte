<!-- The calls that were made to find out whether there is more: they belong to no run. -->
<script lang="ts">
  import type { Asked } from '../api/client';
  import { counted, when } from '../domain/words/format';
  import { STATE_SIGNS } from '../domain/words/proof';
  import Trials from '../parts/Trials.svelte';

  interface Props {
    asked: Asked[];
  }
  let { asked }: Props = $props();
  let open = $state<number | null>(null);
</script>

<details class="mt-3">
  <summary class="cursor-pointer">Asked whether there is more: {counted(asked.length, 'time')}</summary>
  <table class="listing mt-2 w-full text-[13.5px]">
    <thead>
      <tr><th></th><th>Query</th><th>Asked</th><th>What was found out</th><th class="right">Calls</th></tr>
    </thead>
    <tbody>
      {#each asked as { query_id, query_name, finding } (finding.id)}
        <tr>
          <td class="sign">{STATE_SIGNS[finding.state] ?? ''}</td>
          <td class="name"><a class="font-semibold" href="#/query/{query_id}">{query_name}</a></td>
          <td>{when(finding.asked)}</td>
          <td class="what"><strong>{finding.state}</strong> <span class="muted">{finding.what}</span></td>
          <td class="right">
            {#if finding.calls.length}
              <button
                class="plain"
                aria-expanded={open === finding.id}
                onclick={() => (open = open === finding.id ? null : finding.id)}
                >{counted(finding.calls.length, 'call')}</button
              >
            {:else}none{/if}
          </td>
        </tr>
        {#if open === finding.id}
          <tr><td></td><td colspan="4"><Trials calls={finding.calls} /></td></tr>
        {/if}
      {/each}
    </tbody>
  </table>
</details>

<style>
  th {
    padding-inline: 8px;
  }
  td {
    padding: 5px 8px;
    vertical-align: top;
  }
  .sign {
    width: 30px;
    text-align: center;
  }
  .name {
    max-width: 220px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .what {
    white-space: normal;
  }
</style>
