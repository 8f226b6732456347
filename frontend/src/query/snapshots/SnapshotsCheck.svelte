<!-- Whether the snapshots of a query are as they were stored, and repairing those that are not. -->
<script lang="ts">
  import { api, ask, problemOf, type Problem, type SnapshotsChecked } from '../../api/client';
  import { count, counted, dated } from '../../domain/words/format';
  import ProblemNote from '../../ui/ProblemNote.svelte';

  interface Props {
    queryId: number;
    /** A snapshot was repaired. */
    onrepaired: () => void;
  }
  let { queryId, onrepaired }: Props = $props();

  let found = $state.raw<SnapshotsChecked | null>(null);
  let busy = $state<'' | 'checking' | 'repairing'>('');
  let problem = $state.raw<Problem | null>(null);
  let repaired = $state(0);

  async function busily(what: 'checking' | 'repairing', work: () => Promise<void>): Promise<void> {
    busy = what;
    problem = null;
    try {
      await work();
    } catch (error) {
      problem = problemOf(error);
    } finally {
      busy = '';
    }
  }

  const check = (): Promise<void> =>
    busily('checking', async () => {
      repaired = 0;
      await look();
    });

  async function look(): Promise<void> {
    const params = { path: { query_id: queryId } };
    found = await ask(api.POST('/api/queries/{query_id}/snapshots/check', { params }));
  }

  const repair = (snapshot_id: number): Promise<void> =>
    busily('repairing', async () => {
      try {
        const params = { path: { snapshot_id } };
        const left = await ask(api.POST('/api/snapshots/{snapshot_id}/repair', { params }));
        if (!left.what.length) repaired += 1;
      } finally {
        // Rows that others have too are right in these as well.
        await look();
        onrepaired();
      }
    });
</script>

<div class="flex flex-wrap items-center gap-3 text-[13px]">
  <button class="press" disabled={!!busy} onclick={check}>Check them</button>
  <span class="muted" role="status">
    {#if busy === 'checking'}Reading every row and every list…
    {:else if busy === 'repairing'}Reading the saved answers again…
    {:else if found && !found.damaged.length}✓ {repaired
        ? `${counted(repaired, 'snapshot')} repaired; `
        : ''}{found.snapshots === 1 ? 'it is' : `all ${count(found.snapshots)} are`} as stored, by the digest of
      each row and of each list of rows.
    {:else if found}{counted(found.damaged.length, 'snapshot')} of {count(found.snapshots)}
      {found.damaged.length === 1 ? 'is' : 'are'} not as stored.
    {/if}
  </span>
</div>
{#if found?.damaged.length}
  <ul class="damaged">
    {#each found.damaged as one (one.snapshot)}
      <li>
        <div>
          <strong>{dated(one.taken)}</strong>
          {#each one.what as what (what)}<p>{what}</p>{/each}
        </div>
        <button
          class="press small"
          disabled={!!busy}
          title="From its saved answers; a copy from its rows"
          onclick={() => repair(one.snapshot)}>Repair</button
        >
      </li>
    {/each}
  </ul>
{/if}
{#if problem}<div class="mt-2"><ProblemNote {problem} /></div>{/if}

<style>
  .damaged {
    max-height: 180px;
    margin-top: 8px;
    overflow: auto;
    border: 1px solid var(--line);
    border-radius: 6px;
    font-size: 13px;
  }
  .damaged li {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 12px;
    padding: 6px 10px;
    border-bottom: 1px solid var(--hair);
  }
</style>
