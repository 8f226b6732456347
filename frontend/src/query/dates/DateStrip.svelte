<!-- The dates of the table: on a line, or typed. -->
<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import TimeLine from '../../parts/TimeLine.svelte';
  import ProblemNote from '../../ui/ProblemNote.svelte';
  import { typedDate } from '../../domain/typedDate';
  import { figureAddress } from '../../history/links';
  import type { DateStore } from './dateStore.svelte';

  interface Props {
    dates: DateStore;
    /** Whether the snapshots are the query's own, so that they can be named and deleted. */
    own: boolean;
    queryId: number;
  }
  let { dates, own, queryId }: Props = $props();
  let typed = $state('');
  let fault = $state('');

  async function go(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const found = typedDate(typed);
    fault = 'fault' in found ? found.fault : '';
    if ('moment' in found) await dates.seeMoment(found.moment);
  }
</script>

{#if dates.marks}
  <section class="strip border-b" style="border-color: var(--line)" aria-label="Dates of the table">
    <div class="min-w-0 flex-1">
      <TimeLine
        marks={dates.marks}
        misses={dates.misses}
        handles={[{ name: 'as of', index: dates.index }]}
        onmove={(_, index) => {
          const mark = dates.marks?.[index];
          if (mark) void dates.see(mark.id);
        }}
      />
    </div>
    <div class="side">
      <form class="flex gap-1" onsubmit={go}>
        <input
          class="field"
          name="date"
          aria-label="A date"
          aria-describedby="date-fault"
          placeholder="1 Oct, before 1 Oct, yesterday"
          maxlength="60"
          bind:value={typed}
          oninput={() => (fault = '')}
        />
        <button class="press small">Go</button>
      </form>
      <p class="mt-1 flex justify-between text-[13px]">
        {#if own}<button class="plain" onclick={() => (dates.listing = true)}>Names, pins, sizes…</button
          >{/if}
        <a class="plain" href={figureAddress(queryId, 'rows')}>Through time</a>
        <button class="plain" onclick={() => (dates.open = false)} aria-label="Close the time line"
          ><X size={14} /></button
        >
      </p>
      <p id="date-fault" class="fault" role="alert">{fault}</p>
    </div>
  </section>
{/if}
{#if dates.problem}<div class="p-3"><ProblemNote problem={dates.problem} /></div>{/if}

<style>
  .strip {
    display: flex;
    gap: 14px;
    padding: 8px 16px 4px;
    background: var(--page);
  }
  .side {
    width: 236px;
    padding-top: 4px;
  }
  .side .field {
    height: 28px;
    font-size: 13px;
  }
  .fault {
    font-size: 12px;
    line-height: 15px;
    color: var(--straw-ink);
  }
  @media (max-width: 700px) {
    .strip {
      flex-direction: column;
      gap: 2px;
    }
    .side {
      width: 100%;
    }
  }
</style>
