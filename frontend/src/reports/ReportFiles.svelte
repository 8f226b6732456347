<!-- The files that a report is written to after each refresh. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { api, ask, problemOf, type Problem, type Report, type Schemas } from '../api/client';
  import { bytes, when } from '../domain/words/format';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import type { ReportStore } from './reportStore.svelte';

  interface Props {
    store: ReportStore;
  }
  let { store }: Props = $props();
  let files = $state.raw<Schemas['ReportFileInfo'][]>([]);
  let problem = $state.raw<Problem | null>(null);
  let path = $state('');
  const report = $derived(store.report as Report);
  const params = $derived({ path: { report_id: store.id } });

  const load = (): Promise<void> =>
    ask(api.GET('/api/reports/{report_id}/files', { params })).then(
      (found) => {
        files = found;
      },
      (error: unknown) => {
        problem = problemOf(error);
      },
    );
  onMount(() => void load());

  async function add(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    const own = path.trim();
    if (!own || report.files.includes(own)) return;
    store.change({ ...report, files: [...report.files, own] });
    path = '';
    await store.keep();
    await write();
  }
  async function write(): Promise<void> {
    problem = null;
    try {
      files = await ask(api.POST('/api/reports/{report_id}/files', { params }));
    } catch (error) {
      problem = problemOf(error);
    }
  }
  async function drop(own: string): Promise<void> {
    store.change({ ...report, files: report.files.filter((one) => one !== own) });
    await store.keep();
    await load();
  }
</script>

<div class="files">
  <b>Written after each refresh</b>
  {#each files as one (one.path)}
    <div>
      <div class="flex items-baseline gap-2">
        <span class="path" title={one.place || one.path}>{one.path}</span>
        <button class="plain" onclick={() => void drop(one.path)}>No more</button>
      </div>
      <span class="muted">
        {#if one.problem}{one.problem.what}
          {one.problem.do}
          {one.next_try ? `Tried again ${when(one.next_try)}.` : ''}
        {:else if one.written}written {when(one.written)}, {bytes(one.size)}{:else}not written yet{/if}
      </span>
    </div>
  {/each}
  <form class="flex gap-2" onsubmit={add}>
    <input
      class="field mono"
      name="report-file"
      aria-label="Name of a file"
      placeholder={'harbour {date}.html'}
      maxlength="1000"
      bind:value={path}
    />
    <button class="press" disabled={!path.trim()}>Write</button>
  </form>
  <p class="muted">It ends in .html or .xlsx; <code>{'{date}'}</code> keeps one for each day.</p>
  {#if files.length}<button class="plain" onclick={() => void write()}>Write them now</button>{/if}
  {#if problem}<ProblemNote {problem} />{/if}
</div>

<style>
  .files {
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    gap: 6px;
    padding-top: 9px;
    border-top: 1px solid var(--line);
    line-height: 19px;
  }
  .path {
    flex: 1;
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    font-family: var(--mono);
    font-size: 12.5px;
  }
</style>
