<!-- The table as a file: a workbook, or CSV with a word about texts that a workbook would take for formulas. -->
<script lang="ts">
  import Download from '@lucide/svelte/icons/download';
  import { api, ask, type Formulas, type Snapshot } from '../api/client';
  import { count, when } from '../domain/words/format';
  import { stateWords } from '../domain/words/proof';
  import Popover from '../ui/Popover.svelte';

  interface Props {
    snapshot: Snapshot;
  }
  let { snapshot }: Props = $props();

  let found = $state<Formulas | null>(null);
  let asText = $state(true);
  const base = $derived(`/api/snapshots/${snapshot.id}/table`);

  /** The files can be had at once; what stands in them is said as soon as it is known. */
  async function look(): Promise<void> {
    const id = snapshot.id;
    found = null;
    try {
      const told = await ask(
        api.GET('/api/snapshots/{snapshot_id}/formulas', { params: { path: { snapshot_id: id } } }),
      );
      if (id === snapshot.id) found = told;
    } catch {
      // The export itself says what is wrong.
    }
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

<Popover label="Export the table" look="press" width={290} placement="bottom-end" onopen={look}>
  {#snippet trigger()}<Download size={15} /> Export{/snippet}
  {#snippet children()}
    <div class="space-y-2">
      <a class="press w-full" href="{base}.xlsx" download>A workbook, .xlsx</a>
      <a
        class="press w-full"
        href="{base}.csv{found?.cells && !asText ? '' : '?formulas_as_text=true'}"
        download>CSV, commas, UTF-8</a
      >
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
      <p class="muted text-[12.5px]">
        The snapshot of {when(snapshot.taken)},
        <strong>{stateWords(snapshot.state, snapshot.evidence)}</strong>.{snapshot.state === 'complete'
          ? ''
          : ' The file’s name says so.'}
      </p>
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
