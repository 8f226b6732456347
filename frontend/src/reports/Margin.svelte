<!-- From which table a block is, as of when, and whether it is complete. -->
<script lang="ts">
  import type { ReportSource } from '../api/client';
  import { count, dated } from '../domain/words/format';

  interface Props {
    sources: ReportSource[];
    /** Whether the names lead to the queries. */
    leads: boolean;
  }
  let { sources, leads }: Props = $props();
</script>

<aside class="margin">
  {#each sources as one (one.query_id)}
    {@const doubt = one.state === 'missing' || one.state === 'incomplete' || !!one.old}
    <p class:doubt>
      {#if doubt}<b>{@render name(one)}</b>{:else}{@render name(one)}{/if}
      {#if one.taken}· {dated(one.taken)}{/if}
      {#if one.state === 'complete' && !one.old}<span aria-hidden="true">✓</span><span class="sr-only"
          >complete</span
        >{/if}<br />
      {#if one.state === 'missing'}no table
      {:else if one.state === 'incomplete'}incomplete{one.evidence ? `: ${one.evidence}` : ''}
      {:else if one.state === 'unverified'}{count(one.rows)} rows, unverified
      {:else}{count(one.rows)} rows{/if}
      {#if one.old}<br />old: {one.old}{/if}
      {#each one.notes as note (note)}<br />{note}{/each}
    </p>
  {/each}
</aside>

{#snippet name(one: ReportSource)}{#if leads && one.state !== 'missing'}<a href="#/query/{one.query_id}"
      >{one.name}</a
    >{:else}{one.name}{/if}{/snippet}
