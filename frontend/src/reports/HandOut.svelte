<!-- How a report is handed out: on paper, as a file, or at an address of its own. -->
<script lang="ts">
  import { api, ask, problemOf, type Problem } from '../api/client';
  import { bytes } from '../domain/words/format';
  import { save } from '../domain/saveFile';
  import Popover from '../ui/Popover.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import ReportFiles from './ReportFiles.svelte';
  import ReportReaders from './ReportReaders.svelte';
  import type { ReportStore } from './reportStore.svelte';

  interface Props {
    store: ReportStore;
  }
  let { store }: Props = $props();
  let problem = $state.raw<Problem | null>(null);
  let told = $state('');

  const name = (ending: string): string => {
    const day = store.read?.as_of.slice(0, 10) ?? '';
    return `${store.report?.title ?? 'Report'}${day ? `, ${day}` : ''}.${ending}`.replace(
      /[<>:"/\\|?*]/g,
      '-',
    );
  };
  async function file(kind: 'page' | 'workbook'): Promise<void> {
    if (!store.report) return;
    const body = {
      report: store.report,
      as_of: store.asOf,
      against: store.against,
      chosen: store.chosen,
      width: Math.round(store.width) || 960,
    };
    problem = null;
    told = 'Making it…';
    try {
      const made = (await (kind === 'page'
        ? ask(api.POST('/api/reports/page', { body, parseAs: 'blob' }))
        : ask(api.POST('/api/reports/workbook', { body, parseAs: 'blob' })))) as unknown as Blob;
      save(made, name(kind === 'page' ? 'html' : 'xlsx'));
      told = `Saved, ${bytes(made.size)}.`;
    } catch (error) {
      problem = problemOf(error);
      told = '';
    }
  }
</script>

<Popover label="Hand out" look="press main" width={370} placement="bottom-end" onopen={() => (told = '')}>
  {#snippet trigger()}Hand out{/snippet}
  {#snippet children(close)}
    <div class="space-y-2 text-[13.5px]">
      <p class="muted">As it is seen now, with its dates.</p>
      <button class="press w-full" data-first onclick={() => void file('page')}
        >One HTML file, charts alive, works offline</button
      >
      <button class="press w-full" onclick={() => void file('workbook')}
        >A workbook with the exhibits and their charts</button
      >
      <button
        class="press w-full"
        onclick={() => {
          close();
          // The sheet is gone from the paper first.
          setTimeout(() => window.print(), 200);
        }}>Print, or save as PDF</button
      >
      <p class="muted" role="status">{told}</p>
      {#if problem}<ProblemNote {problem} />{/if}
      <ReportFiles {store} />
      <ReportReaders {store} />
    </div>
  {/snippet}
</Popover>
