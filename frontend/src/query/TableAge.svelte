<!-- Which table is in sight, how many rows it has, and how old it is. -->
<script lang="ts">
  import type { QueryDetail } from '../api/client';
  import { count, counted, dated, when } from '../domain/words/format';
  import { ageWords } from '../domain/words/runs';
  import CalendarDays from '@lucide/svelte/icons/calendar-days';
  import type { QueryStore } from './queryStore.svelte';

  interface Props {
    work: QueryStore;
    detail: QueryDetail;
  }
  let { work, detail }: Props = $props();
  const latest = $derived(work.latest);
  const draftLines = $derived(work.workOut.done?.lines.length ?? 0);
</script>

{#if detail.dates > 1}
  <button
    class="as-of"
    aria-expanded={work.dates.open}
    title="See the table as of another date"
    onclick={() => void work.dates.toggle()}
    ><CalendarDays size={14} /> as of {work.dates.at
      ? dated(work.dates.at.taken)
      : latest
        ? dated(latest.taken)
        : ''}</button
  >
{/if}
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
    {#if latest && preview.run_id !== null}<a
        class="plain ml-1"
        href="#/compare?then={latest.id}&now=preview:{preview.id}&query={work.id}">what it changes</a
      >{/if}
    {#if latest}<button class="plain ml-1" onclick={() => (work.previews.shows = false)}
        >show the snapshot</button
      >{/if}
  {:else if latest}
    {#if work.dates.at}{counted(work.height, 'row')}
    {:else}{counted(latest.rows, 'row')} · {ageWords(detail)}{/if}
  {/if}
</span>

<style>
  .as-of {
    display: inline-flex;
    align-items: center;
    gap: 5px;
    margin-left: auto;
    padding: 1px 8px;
    border: 1px solid var(--line);
    border-radius: 6px;
    background: var(--paper);
    font-size: 13px;
    white-space: nowrap;
    cursor: pointer;
  }
  .as-of:hover {
    border-color: var(--damson-edge);
    color: var(--damson);
  }
</style>
