<!-- How long answers are kept, how large they are, and rebuilding past snapshots. -->
<script lang="ts">
  import { api, ask, problemOf, type Brief, type Problem, type Saved } from '../../api/client';
  import { bytes, count, counted, when } from '../../domain/words/format';
  import type { QueryStore } from '../queryStore.svelte';
  import ProblemNote from '../../ui/ProblemNote.svelte';
  import Popover from '../../ui/Popover.svelte';

  interface Props {
    work: QueryStore;
    brief: Brief;
    onchange: (brief: Brief) => void;
  }
  let { work, brief, onchange }: Props = $props();
  let saved = $state.raw<Saved | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let runs = $state(3);
  let days = $state<number | null>(null);
  let busy = $state('');

  const path = $derived({ params: { path: { query_id: work.id } } });

  async function begin(): Promise<void> {
    runs = brief.keep.answers.runs;
    days = brief.keep.answers.days ?? null;
    await act('', async () => ask(api.GET('/api/queries/{query_id}/saved', path)));
  }

  async function act(words: string, action: () => Promise<Saved>): Promise<void> {
    busy = words;
    problem = null;
    try {
      saved = await action();
    } catch (error) {
      problem = problemOf(error);
    }
    busy = '';
  }

  const clear = () =>
    act('Deleting them…', () =>
      ask(api.DELETE('/api/queries/{query_id}/saved', { params: { ...path.params, query: { keep: 0 } } })),
    );

  /** Read the snapshots of some runs anew by the saved brief. */
  async function rebuild(ids: number[]): Promise<void> {
    await act(`Rebuilding ${counted(ids.length, 'snapshot')}…`, async () => {
      if (work.dirty && !(await work.save())) throw new Error('The brief could not be saved.');
      for (const run_id of ids)
        await ask(api.POST('/api/runs/{run_id}/rebuild', { params: { path: { run_id } } }));
      return ask(api.GET('/api/queries/{query_id}/saved', path));
    });
    await work.load();
  }

  const rebuildable = $derived(saved?.runs.filter((one) => one.snapshot_id !== null) ?? []);
</script>

<Popover label="Saved answers" width={430} onopen={begin}>
  {#snippet trigger()}{counted(brief.keep.answers.runs, 'refresh', 'refreshes')}{/snippet}
  {#snippet children(close)}
    <div class="space-y-3 text-[13.5px]">
      <p class="muted text-[13px]">
        Rebuilding a table and tracing a cell need the saved answers. Neither makes a call.
      </p>
      <div class="flex items-center gap-2">
        of the newest
        <input
          class="field"
          type="number"
          min="1"
          style="width: 74px"
          bind:value={runs}
          aria-label="Refreshes"
        />
        refreshes, at most
        <input
          class="field"
          type="number"
          min="1"
          style="width: 74px"
          placeholder="any"
          bind:value={days}
          aria-label="Days"
        /> days
      </div>
      {#if problem}<ProblemNote {problem} />{/if}
      {#if saved}
        <p>
          {#if saved.runs.length}<strong>{bytes(saved.packed)}</strong> of {counted(
              saved.runs.length,
              'refresh',
              'refreshes',
            )}{:else}No answers are kept now.{/if}
          {#if busy}<span class="muted">{busy}</span>{/if}
        </p>
        <div class="max-h-52 overflow-auto">
          {#each saved.runs as one (one.run_id)}
            <div class="flex items-center gap-2 py-0.5">
              <span class="min-w-0 flex-1 truncate">
                {when(one.started)} · {counted(one.calls, 'answer')}, {bytes(one.packed)}
                {#if one.rebuilt}<span class="muted">· rebuilt {when(one.rebuilt)}</span>{/if}
              </span>
              {#if one.snapshot_id !== null}
                <button class="press small" disabled={!!busy} onclick={() => rebuild([one.run_id])}
                  >Rebuild</button
                >
              {/if}
            </div>
          {/each}
        </div>
      {/if}
      <div class="flex flex-wrap gap-2">
        <button
          class="press main small"
          disabled={!runs || runs < 1}
          onclick={() => {
            onchange({ ...brief, keep: { ...brief.keep, answers: { runs, days: days || null } } });
            close();
          }}>Done</button
        >
        {#if rebuildable.length > 1}
          <button
            class="press small"
            disabled={!!busy}
            title="Rebuilds their tables from the saved answers with the current brief, and marks them as rebuilt"
            onclick={() => rebuild(rebuildable.map((one) => one.run_id))}
            >Rebuild all {count(rebuildable.length)} snapshots</button
          >
        {/if}
        {#if saved?.runs.length}
          <button class="press small" disabled={!!busy} onclick={clear}>Delete them all</button>
        {/if}
      </div>
    </div>
  {/snippet}
</Popover>
