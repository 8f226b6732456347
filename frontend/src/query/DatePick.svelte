<!-- As of which date the table is seen, and with which lines. -->
<script lang="ts">
  import ListChecks from '@lucide/svelte/icons/list-checks';
  import type { Snapshot } from '../api/client';
  import { when } from '../domain/words/format';
  import type { QueryStore } from './queryStore.svelte';

  interface Props {
    work: QueryStore;
    snapshots: Snapshot[];
  }
  let { work, snapshots }: Props = $props();
  const newest = $derived([...snapshots].reverse());
</script>

{#if snapshots.length > 1}
  <label class="date"
    ><span class="muted">as of</span>
    <select
      name="as-of"
      aria-label="As of"
      value={String(work.at?.id ?? work.latest?.id)}
      onchange={(event) => {
        const id = Number(event.currentTarget.value);
        void work.seeDate(snapshots.find((one) => one.id === id) ?? null);
      }}
    >
      {#each newest as one (one.id)}<option value={String(one.id)}
          >{when(one.taken)}{one.name ? ` · ${one.name}` : ''}</option
        >{/each}
    </select></label
  >
  <button
    class="list"
    title="Snapshots: names, pins, sizes"
    aria-label="Snapshots"
    onclick={() => (work.listing = true)}><ListChecks size={14} /></button
  >
  {#if work.at && (work.draft?.work_out.length || work.readThen)}
    <label class="date" title="Which work-out lines are done to this date"
      ><span class="muted">with</span>
      <select
        name="read-as"
        value={work.readThen ? 'then' : 'today'}
        onchange={(event) => void work.readAsThen(event.currentTarget.value === 'then')}
      >
        <option value="today">today’s lines</option>
        <option value="then">its lines of then</option>
      </select></label
    >
  {/if}
{/if}

<style>
  .date {
    display: inline-flex;
    align-items: center;
    gap: 4px;
    font-size: 13px;
    white-space: nowrap;
  }
  select {
    height: 23px;
    max-width: 170px;
    padding: 0 4px;
    border: 1px solid var(--line);
    border-radius: 6px;
    background: var(--paper);
    font-weight: 600;
  }
  .list {
    padding: 4px;
    border-radius: 5px;
    color: var(--muted);
  }
  .list:hover {
    color: var(--damson);
    background: var(--damson-wash);
  }
  @media (max-width: 700px) {
    .date .muted {
      display: none;
    }
    .date select {
      max-width: 84px;
    }
  }
</style>
