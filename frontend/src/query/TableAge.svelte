<!-- Which table is in sight, how many rows it has, and how old it is. -->
<script lang="ts">
  import type { QueryDetail } from '../api/client';
  import { count, counted, when } from '../domain/words/format';
  import { ageWords } from '../domain/words/runs';
  import DatePick from './DatePick.svelte';
  import type { QueryStore } from './queryStore.svelte';

  interface Props {
    work: QueryStore;
    detail: QueryDetail;
  }
  let { work, detail }: Props = $props();
  const latest = $derived(work.latest);
  const draftLines = $derived(work.workOut.done?.lines.length ?? 0);
</script>

<span class="ml-auto flex shrink-0 items-center gap-2"><DatePick {work} snapshots={detail.snapshots} /></span>
<span class="muted truncate text-[13px]">
  {#if work.workOut.table && !work.workOut.look && (draftLines || work.draft?.start)}
    {counted(work.seenHeight, 'row')}
    {#if work.workOut.shown < draftLines}· after line {work.workOut.shown} of {draftLines} ·
      <button class="plain" onclick={() => work.workOut.see(null)}>see the end</button>{/if}
  {:else if work.previews.shown && work.columns.length}
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
    {#if work.at}{counted(work.height, 'row')} ·
      <button class="plain" onclick={() => void work.seeDate(null)}>see the newest</button>
    {:else}{counted(latest.rows, 'row')} · {ageWords(detail)}{/if}
  {/if}
</span>
