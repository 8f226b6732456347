<!-- Where the rows come from when no service is asked: a sheet, or files of the allowed folder. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { api, ask, type Brief, type SheetInfo } from '../../api/client';
  import { counted, when } from '../../domain/words/format';
  import Popover from '../../ui/Popover.svelte';
  import { keepTyped } from '../../ui/typed.svelte';
  import AddSheet from '../../parts/AddSheet.svelte';
  import EditorRow from './EditorRow.svelte';

  interface Props {
    brief: Brief;
    /** Number of the query. */
    id: number;
    onchange: (brief: Brief) => void;
  }
  let { brief, id, onchange }: Props = $props();
  let sheets = $state.raw<SheetInfo[]>([]);
  let folder = $state('');
  let pattern = $state('');
  let found = $state<string[] | null>(null);
  const keep = $derived(`sheet of query ${id}`);
  keepTyped(
    () => keep,
    () => pattern,
    (held) => (pattern = held),
  );
  const source = $derived(brief.sheet);
  const sheet = $derived(sheets.find((one) => one.name === source?.sheet));

  onMount(() => {
    ask(api.GET('/api/sheets')).then(
      (all) => (sheets = all),
      () => (sheets = []),
    );
    ask(api.GET('/api/about')).then(
      (about) => (folder = about.folder),
      () => (folder = ''),
    );
  });

  async function look(): Promise<void> {
    const files = await ask(api.GET('/api/files', { params: { query: { pattern } } })).catch(() => null);
    found = files?.files ?? [];
  }

  function choose(change: { sheet: string | null; files: string | null }, close: () => void): void {
    onchange({ ...brief, sheet: change });
    close();
  }
</script>

<EditorRow verb="Read" note={sheet ? `${counted(sheet.rows, 'row')}, added ${when(sheet.added)}` : ''}>
  <Popover
    label="Where the rows come from"
    onopen={() => (pattern = source?.files ?? '*.csv')}
    width={440}
    {keep}
  >
    {#snippet trigger()}{source?.sheet
        ? `the sheet “${source.sheet}”`
        : `the files ${source?.files}`}{/snippet}
    {#snippet children(close)}
      <div class="space-y-3">
        <div>
          <span class="label">A sheet of this workspace</span>
          <div class="max-h-44 space-y-1 overflow-auto">
            {#each sheets as one (one.name)}
              <button
                class="press small w-full"
                onclick={() => choose({ sheet: one.name, files: null }, close)}
                >{one.name}, {counted(one.rows, 'row')}</button
              >
            {:else}
              <p class="muted">none yet</p>
            {/each}
          </div>
          <div class="mt-2">
            <AddSheet
              onadded={async (name) => {
                choose({ sheet: name, files: null }, close);
                sheets = await ask(api.GET('/api/sheets')).catch(() => sheets);
              }}
            />
          </div>
        </div>
        <form
          class="space-y-2"
          onsubmit={(event) => {
            event.preventDefault();
            choose({ sheet: null, files: pattern }, close);
          }}
        >
          <label class="block">
            <span class="label">Or files below <code>{folder}</code>; * stands for any part of a name</span>
            <input class="field mono" bind:value={pattern} placeholder="counts/*.csv" />
          </label>
          {#if found}
            <p class="muted text-[12.5px]">
              {found.length
                ? `${counted(found.length, 'file')}: ${found.slice(0, 4).join(', ')}${found.length > 4 ? ' …' : ''}`
                : 'no file fits'}
            </p>
          {/if}
          <div class="flex gap-2">
            <button class="press small main" disabled={!pattern.trim()}>Read these files</button>
            <button type="button" class="press small" onclick={look}>Which are they?</button>
          </div>
        </form>
      </div>
    {/snippet}
  </Popover>.
</EditorRow>
