<!-- Which table is in sight, how many rows it has, and how old it is. -->
<script lang="ts">
  import type { QueryDetail } from '../api/client';
  import { count, counted, when } from '../domain/words/format';
  import { ageWords } from '../domain/words/runs';
  import type { QueryStore } from './queryStore.svelte';

  interface Props {
    work: QueryStore;
    detail: QueryDetail;
  }
  let { work, detail }: Props = $props();
  const latest = $derived(work.latest);
</script>

<span class="muted ml-auto truncate text-[13px]">
  {#if work.previews.shown && work.columns.length}
    {@const preview = work.previews.shown}
    {preview.run_id
      ? `rebuilt from the saved answers of ${when(preview.asked)}, no call made`
      : `one call, ${when(preview.asked)}`}
    · {preview.total_gap && preview.run_id === null
      ? `${count(preview.total_gap.here)} of ${count(preview.total_gap.total)} rows`
      : counted(preview.rows, 'row')}{preview.partial ? ' so far, more to come' : ''}
    {#if latest}<button class="plain ml-1" onclick={() => (work.previews.shows = false)}
        >show the snapshot</button
      >{/if}
  {:else if latest}
    {counted(latest.rows, 'row')} · {ageWords(detail)}
  {/if}
</span>
