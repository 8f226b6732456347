<!-- A sheet before it is kept: its first rows, what was detected, and how else it may be read. -->
<script lang="ts">
  import { writeJson } from '../api/json';
  import { onMount, untrack } from 'svelte';
  import {
    api,
    ask,
    keepSheet,
    lookAtSheet,
    problemOf,
    type Problem,
    type SheetPreview,
    type SheetReading,
  } from '../api/client';
  import { counted } from '../domain/words/format';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import Dialog from '../ui/Dialog.svelte';

  interface Props {
    /** The file's name; "pasted" for cells from the clipboard. */
    file: string;
    data: Blob | string;
    onclose: () => void;
    /** The query that was made of it, or nothing when it was only kept. */
    ondone: (query: number | null) => void;
  }
  let { file, data, onclose, ondone }: Props = $props();
  let preview = $state.raw<SheetPreview | null>(null);
  let reading = $state<SheetReading>({});
  let name = $state(untrack(() => (file === 'pasted' ? 'Pasted rows' : file.replace(/\.[^.]+$/, ''))));
  let problem = $state<Problem | null>(null);
  let busy = $state(false);

  const SEPARATORS = [
    [',', 'comma'],
    [';', 'semicolon'],
    ['\t', 'tab'],
    ['|', 'bar'],
  ] as const;
  const ENCODINGS = ['utf-8', 'cp1252', 'latin-1', 'utf-16'];

  onMount(() => void look());

  async function look(): Promise<void> {
    try {
      preview = await lookAtSheet(file, data, $state.snapshot(reading));
      problem = null;
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function keep(asQuery: boolean): Promise<void> {
    busy = true;
    try {
      const sheet = await keepSheet(name.trim(), file, data, $state.snapshot(reading));
      if (!asQuery) {
        ondone(null);
        return;
      }
      const brief = {
        tin_bucket: 1 as const,
        name: sheet.name,
        note: '',
        parameters: [],
        ask: null,
        sheet: { sheet: sheet.name, files: null },
        each: [],
        pages: { by: 'none' as const, total: null },
        take: { records: '$[*]', rows_for: [], keyed: [], columns: null },
        look_up: [],
        keep: { answers: { runs: 3 }, match: [], schedule: null, paused: false },
      };
      const made = await ask(api.POST('/api/queries', { body: { brief } }));
      ondone(made.id);
    } catch (error) {
      problem = problemOf(error);
    }
    busy = false;
  }

  const text = $derived(preview?.found.separator !== undefined);
</script>

<Dialog title="Rows of a sheet" open {onclose} width={860} holds>
  <div class="space-y-3">
    <div class="flex flex-wrap items-end gap-3">
      <label style="width: 260px">
        <span class="label">Name of the sheet</span>
        <input class="field" name="sheet-name" bind:value={name} required />
      </label>
      {#if text}
        <label>
          <span class="label">Cells are separated by</span>
          <select
            class="field"
            value={reading.separator ?? ''}
            onchange={(event) => {
              reading.separator = event.currentTarget.value || undefined;
              void look();
            }}
          >
            <option value="">{preview?.found.separator}, detected</option>
            {#each SEPARATORS as [separator, words] (words)}<option value={separator}>{words}</option>{/each}
          </select>
        </label>
        <label>
          <span class="label">Encoding</span>
          <select
            class="field"
            value={reading.encoding ?? ''}
            onchange={(event) => {
              reading.encoding = event.currentTarget.value || undefined;
              void look();
            }}
          >
            <option value="">{preview?.found.encoding}, detected</option>
            {#each ENCODINGS as encoding (encoding)}<option>{encoding}</option>{/each}
          </select>
        </label>
      {/if}
      {#if preview && preview.tabs.length > 1}
        <label>
          <span class="label">Sheet of the workbook</span>
          <select
            class="field"
            value={reading.tab ?? preview.tabs[0]}
            onchange={(event) => {
              reading.tab = event.currentTarget.value;
              void look();
            }}
          >
            {#each preview.tabs as tab (tab)}<option>{tab}</option>{/each}
          </select>
        </label>
      {/if}
      {#if text || preview?.tabs.length}
        <label class="mb-1.5"
          ><input
            type="checkbox"
            checked={reading.header ?? true}
            onchange={(event) => {
              reading.header = event.currentTarget.checked;
              void look();
            }}
          /> the first row holds names</label
        >
      {/if}
    </div>
    {#if problem}<ProblemNote {problem} />{/if}
    {#if preview && !problem}
      <p class="muted text-[13px]">
        {counted(preview.count, 'row')}, {counted(preview.headings.length, 'column')}{preview.found.rows
          ? `, taken from ${preview.found.rows}`
          : ''}{preview.found.form ? `, ${preview.found.form}` : ''}
      </p>
      <div class="max-h-80 overflow-auto rounded-md border" style="border-color: var(--line)">
        <table>
          <thead
            ><tr
              >{#each preview.headings as heading (heading)}<th>{heading}</th>{/each}</tr
            ></thead
          >
          <tbody>
            {#each preview.rows as row, at (at)}
              <tr
                >{#each row as cell, column (column)}<td
                    >{cell === null ? '' : typeof cell === 'object' ? writeJson(cell) : String(cell)}</td
                  >{/each}</tr
              >
            {/each}
          </tbody>
        </table>
      </div>
      <div class="flex gap-2">
        <button class="press main" disabled={busy || !name.trim()} onclick={() => keep(true)}
          >Make a query of it</button
        >
        <button class="press" disabled={busy || !name.trim()} onclick={() => keep(false)}
          >Only keep it, for its values</button
        >
      </div>
    {/if}
  </div>
</Dialog>

<style>
  table {
    border-collapse: collapse;
    font-size: 13px;
    white-space: nowrap;
  }
  th {
    position: sticky;
    top: 0;
    text-align: left;
    background: var(--band);
    font-weight: 600;
  }
  th,
  td {
    padding: 3px 10px;
    border-bottom: 1px solid var(--hair);
    max-width: 260px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
</style>
