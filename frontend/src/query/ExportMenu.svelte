<!-- The table as a file: a workbook, or CSV with a word about texts that a workbook would take for formulas. -->
<script lang="ts">
  import Download from '@lucide/svelte/icons/download';
  import { api, ask, type Format, type Formulas, type Snapshot } from '../api/client';
  import { writeJson } from '../api/json';
  import { keepStyle, keptStyle, type CsvStyle } from '../domain/csv';
  import { fileOptions, queryText } from '../domain/files';
  import { count, counted, dated } from '../domain/words/format';
  import { stateWords } from '../domain/words/proof';
  import type { QueryStore } from './queryStore.svelte';
  import FileLinks from '../parts/FileLinks.svelte';
  import Popover from '../ui/Popover.svelte';

  interface Props {
    /** Nothing for a table without a date, such as one that starts from a sheet. */
    snapshot: Snapshot | null;
    work: QueryStore;
  }
  let { snapshot, work }: Props = $props();

  let found = $state<Formulas | null>(null);
  let asText = $state(true);
  let how = $state<CsvStyle>(keptStyle());
  $effect(() => keepStyle($state.snapshot(how)));

  // What is seen differs from the snapshot where it is filtered or sorted, or where other answers or another reading
  // are in sight.
  const shown = $derived(work.previews.shown);
  const lines = $derived(work.workOut.table?.lines ?? []);
  const differs = $derived(!!shown || !work.look.plain || lines.length > 0);
  let whole = $state(false);
  const seen = $derived(differs && !whole);
  const seenWords = $derived(
    [
      counted(work.source.total, 'row'),
      lines.length ? 'worked out' : '',
      work.look.where.length ? 'filtered' : '',
      work.look.sort.length ? 'sorted' : '',
      shown ? (shown.run_id === null ? 'of one call' : 'read anew') : '',
    ]
      .filter(Boolean)
      .join(', '),
  );

  function address(one: Format): string {
    const base =
      seen && shown
        ? `/api/previews/${shown.id}/table`
        : snapshot
          ? `/api/snapshots/${snapshot.id}/table`
          : `/api/queries/${work.id}/table`;
    const query = {
      ...fileOptions(one, how, !found?.cells || asText),
      ...(seen && shown ? { query_id: String(work.id) } : {}),
      ...(work.baseTable.starts_from
        ? { starts_from: writeJson(work.baseTable.starts_from), query_id: String(work.id) }
        : {}),
      ...(seen && lines.length ? { lines: writeJson(lines) } : {}),
      ...(seen && !work.look.plain ? { view: writeJson(work.look.spec) } : {}),
    };
    return `${base}.${one.ending}${queryText(query)}`;
  }

  /** The files can be had at once; what stands in them is said as soon as it is known. */
  async function look(): Promise<void> {
    found = null;
    whole = false;
    if (!snapshot) return;
    const { id } = snapshot;
    try {
      const told = await ask(
        api.GET('/api/snapshots/{snapshot_id}/formulas', { params: { path: { snapshot_id: id } } }),
      );
      if (id === snapshot?.id) found = told;
    } catch {
      // The export itself says what is wrong.
    }
  }

  /** A comma is one thing or the other. */
  function fit(): void {
    if (how.decimal === 'comma' && how.separator === 'comma') how.separator = 'semicolon';
  }

  const cells = $derived(
    found ? `${found.more ? 'More than ' : ''}${count(found.cells)} cell${found.cells === 1 ? '' : 's'}` : '',
  );
  const where = $derived(
    found && found.columns.length > 3
      ? `${count(found.columns.length)} columns`
      : (found?.columns.join(', ') ?? ''),
  );
</script>

<Popover label="Export the table" look="press" width={320} placement="bottom-end" onopen={look}>
  {#snippet trigger()}<Download size={15} /> Export{/snippet}
  {#snippet children()}
    <div class="space-y-2">
      {#if differs}
        <fieldset class="text-[13px]">
          <legend class="label">What is exported</legend>
          <label class="block"
            ><input type="radio" name="what" checked={!whole} onchange={() => (whole = false)} /> As seen: {seenWords}</label
          >
          <label class="block"
            ><input type="radio" name="what" checked={whole} onchange={() => (whole = true)} />
            {#if snapshot}The whole snapshot of {dated(snapshot.taken)}{lines.length
                ? ', before any line'
                : ''}: {counted(snapshot.rows, 'row')}{:else}All rows that it starts from, before any line{/if}</label
          >
        </fieldset>
      {/if}
      <FileLinks {how} {address} />
      <details class="text-[13px]">
        <summary class="plain cursor-pointer" style="color: var(--link)">How it is written</summary>
        <div class="mt-1.5 grid grid-cols-2 gap-2">
          <label
            ><span class="label">Fields part by</span>
            <select class="field" name="separator" bind:value={how.separator}>
              <option value="comma" disabled={how.decimal === 'comma'}>comma</option>
              <option value="semicolon">semicolon</option>
              <option value="tab">tab</option>
            </select></label
          >
          <label
            ><span class="label">Decimal mark</span>
            <select class="field" name="decimal" bind:value={how.decimal} onchange={fit}>
              <option value="point">point, 40.25</option>
              <option value="comma">comma, 40,25</option>
            </select></label
          >
          <label class="col-span-2"
            ><span class="label">Encoding</span>
            <select class="field" name="encoding" bind:value={how.encoding}>
              <option value="utf-8-bom">UTF-8 with byte order mark</option>
              <option value="utf-8">UTF-8</option>
              <option value="utf-16">UTF-16</option>
            </select></label
          >
          <label class="col-span-2"
            ><input type="checkbox" name="headings" bind:checked={how.headings} /> Column names in the first row</label
          >
          <label class="col-span-2"
            ><input type="checkbox" name="moments-as-text" bind:checked={how.momentsAsText} /> In a workbook, times
            with an offset as texts</label
          >
        </div>
      </details>
      {#if found?.cells}
        <div class="formulas" role="note">
          <p>
            <strong>{cells} in {where}</strong>
            {found.cells === 1 ? 'begins' : 'begin'} as a formula does:
            <span class="mono">{found.example}</span>
          </p>
          <label class="mt-1 flex items-start gap-2">
            <input class="mt-0.5" type="checkbox" name="formulas-as-text" bind:checked={asText} />
            <span
              >In CSV, put an apostrophe in front. A workbook that opens the file then shows them as text.</span
            >
          </label>
        </div>
      {/if}
      {#if snapshot}<p class="muted text-[12.5px]">
          The snapshot of {dated(snapshot.taken)},
          <strong>{stateWords(snapshot.state, snapshot.evidence)}</strong>.{snapshot.state === 'complete'
            ? ''
            : ' The file’s name says so.'}
        </p>{/if}
    </div>
  {/snippet}
</Popover>

<style>
  .formulas {
    padding: 6px 8px;
    border-radius: 7px;
    background: var(--straw-wash);
    font-size: 12.5px;
    line-height: 1.4;
  }
  .formulas .mono {
    font-family: var(--mono);
    font-size: 12px;
    overflow-wrap: anywhere;
  }
</style>
