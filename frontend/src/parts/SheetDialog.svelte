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
    type SheetInfo,
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
    /** The query that was made of it, or nothing when it was only kept; and its name. */
    ondone: (query: number | null, name: string) => void;
    /** The sheet whose rows it is to take the place of. */
    replaces?: SheetInfo | null;
    /** Whether a query can be made of it at once. */
    asks?: boolean;
  }
  let { file, data, onclose, ondone, replaces = null, asks = true }: Props = $props();
  let preview = $state.raw<SheetPreview | null>(null);
  let reading = $state<SheetReading>(
    untrack(() => {
      const { separator, encoding, header, tab } = replaces?.settings ?? {};
      return {
        separator: separator ?? undefined,
        encoding: encoding ?? undefined,
        header,
        tab: tab ?? undefined,
      };
    }),
  );
  let name = $state(
    untrack(() => replaces?.name ?? (file === 'pasted' ? 'Pasted rows' : file.replace(/\.[^.]+$/, ''))),
  );
  let others = $state.raw<SheetInfo[]>([]);
  /** What becomes of a sheet that has the name already. */
  let same = $state<'beside' | 'replace'>('beside');
  const namesake = $derived(replaces ?? others.find((one) => one.name === name.trim()) ?? null);
  const replacing = $derived(!!replaces || (!!namesake && same === 'replace'));
  /** Columns of the old rows that the new ones do not have. */
  const lost = $derived(
    replacing && preview
      ? (namesake?.headings ?? []).filter((heading) => !preview?.headings.includes(heading))
      : [],
  );
  const words = (sheet: SheetInfo): string =>
    `${counted(sheet.rows, 'row')}, ${sheet.used_by.length ? `read by ${sheet.used_by.join(', ')}` : 'read by no query'}`;
  let problem = $state<Problem | null>(null);
  let busy = $state(false);

  const SEPARATORS = [
    [',', 'comma'],
    [';', 'semicolon'],
    ['\t', 'tab'],
    ['|', 'bar'],
  ] as const;
  const ENCODINGS = ['utf-8', 'cp1252', 'latin-1', 'utf-16'];

  onMount(() => {
    void look();
    ask(api.GET('/api/sheets')).then(
      (found) => (others = found),
      () => {}, // The server gives a taken name a number.
    );
  });

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
      const sheet = await keepSheet(name.trim(), file, data, $state.snapshot(reading), replacing);
      if (!asQuery) {
        ondone(null, sheet.name);
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
        take: { records: '$[*]', rows_for: [], without_items: 'keep' as const, keyed: [], columns: null },
        look_up: [],
        work_out: [],
        show: [],
        hand_over: [],
        keep: { answers: { runs: 3 }, match: [], alike: [], renamed: [], schedule: null, paused: false },
      };
      const made = await ask(api.POST('/api/queries', { body: { brief } }));
      ondone(made.id, sheet.name);
    } catch (error) {
      problem = problemOf(error);
    }
    busy = false;
  }

  const text = $derived(preview?.found.separator !== undefined);
</script>

<Dialog
  title={replaces ? `New rows for “${replaces.name}”` : 'Rows of a sheet'}
  open
  {onclose}
  width={860}
  holds
>
  <div class="space-y-3">
    <div class="flex flex-wrap items-end gap-3">
      <label style="width: 260px">
        <span class="label">Name of the sheet</span>
        <input class="field" name="sheet-name" bind:value={name} required disabled={!!replaces} />
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
      {#if namesake}
        <div class="seen">
          {#if replaces}
            These rows take the place of {words(namesake)}.
          {:else}
            <fieldset>
              <legend>There is a sheet “{namesake.name}” already: {words(namesake)}.</legend>
              <label class="block"
                ><input type="radio" name="same-name" value="beside" bind:group={same} /> keep both; the new one
                gets a number</label
              >
              <label class="block"
                ><input type="radio" name="same-name" value="replace" bind:group={same} /> put these rows in the
                place of the old ones</label
              >
            </fieldset>
          {/if}
          {#if lost.length}
            <p>
              <strong>{lost.slice(0, 5).join(', ')}{lost.length > 5 ? ' …' : ''}</strong>
              {lost.length === 1 ? 'is a column' : 'are columns'} of the old rows and not of these{namesake
                .used_by.length
                ? '; a query that uses it will say so'
                : ''}.
            </p>
          {/if}
        </div>
      {/if}
      <div class="flex gap-2">
        {#if asks && !replaces}
          <button class="press main" disabled={busy || !name.trim()} onclick={() => keep(true)}
            >Make a query of it</button
          >
        {/if}
        <button
          class="press"
          class:main={!asks || !!replaces}
          disabled={busy || !name.trim()}
          onclick={() => keep(false)}
          >{replaces
            ? 'Replace the rows'
            : asks
              ? 'Store the sheet, without a query'
              : 'Store the sheet'}</button
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
