<script lang="ts">
  import { onMount } from 'svelte';
  import { push } from 'svelte-spa-router';
  import { api, ask, problemOf, type About, type Problem, type SheetInfo } from '../api/client';
  import { counted, when } from '../domain/words/format';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import Confirm from '../ui/Confirm.svelte';
  import { startFrom } from '../parts/startFrom';
  import SheetView from './SheetView.svelte';
  import SheetFile from '../parts/SheetFile.svelte';
  import SheetDialog from '../parts/SheetDialog.svelte';

  let sheets = $state.raw<SheetInfo[] | null>(null);
  let about = $state.raw<About | null>(null);
  let problem = $state<Problem | null>(null);
  let opened = $state.raw<{ file: string; data: Blob | string; replaces: SheetInfo | null } | null>(null);
  let viewed = $state.raw<SheetInfo | null>(null);
  let dropping = $state.raw<SheetInfo | null>(null);
  let over = $state(false);

  onMount(() => {
    document.title = 'Sheets · Tin Bucket';
    void load();
  });

  async function load(): Promise<void> {
    try {
      sheets = await ask(api.GET('/api/sheets'));
      about = await ask(api.GET('/api/about'));
    } catch (error) {
      problem = problemOf(error);
    }
  }

  function take(file: File | undefined, replaces: SheetInfo | null = null): void {
    if (file) opened = { file: file.name, data: file, replaces };
  }

  async function begin(sheet: SheetInfo): Promise<void> {
    try {
      await push(
        `/query/${await startFrom({ query: null, sheet: sheet.name }, `${sheet.name}, worked out`)}`,
      );
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function drop(sheet: SheetInfo): Promise<void> {
    try {
      await ask(api.DELETE('/api/sheets/{name}', { params: { path: { name: sheet.name } } }));
      problem = null;
    } catch (error) {
      problem = problemOf(error);
    }
    await load();
  }
</script>

<svelte:window
  onpaste={(event) => {
    const target = event.target as HTMLElement;
    const text = event.clipboardData?.getData('text/plain') ?? '';
    if (!opened && !/INPUT|TEXTAREA|SELECT/.test(target.tagName) && text.trim())
      opened = { file: 'pasted', data: text, replaces: null };
  }}
/>

<div
  class="h-full overflow-auto px-6 py-5"
  class:over
  style="background: var(--band)"
  role="region"
  aria-label="Sheets"
  ondragover={(event) => {
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(event) => {
    event.preventDefault();
    over = false;
    take(event.dataTransfer?.files[0]);
  }}
>
  <div class="flex items-center gap-2 max-[700px]:flex-wrap">
    <div class="flex-1 max-[700px]:basis-full">
      <h1 class="text-[19px] font-bold">Sheets</h1>
      <p class="muted">
        Rows of your own: a query can read them, and a question can be asked for each of them. Paste cells
        here, drop a file, or choose one.
      </p>
    </div>
    <SheetFile words="Add a file…" look="press main" name="sheet-file" onfile={(file) => take(file)} />
  </div>
  {#if problem}<div class="mt-3"><ProblemNote {problem} /></div>{/if}
  {#if sheets?.length === 0}
    <p class="muted mt-12 text-center">
      No sheet yet. CSV, workbooks (.xlsx, .ods), JSON and JSON Lines are read; separator and encoding are
      detected.
    </p>
  {:else if sheets}
    <div class="overflow-x-auto">
      <table class="listing mt-4 w-full">
        <thead
          ><tr
            ><th>Sheet</th><th>File</th><th class="right">Rows</th><th>Columns</th><th>Added</th><th
              >Read by</th
            ><th></th></tr
          ></thead
        >
        <tbody>
          {#each sheets as sheet (sheet.name)}
            <tr>
              <td class="name font-bold"
                ><button class="plain" title="Look at its rows" onclick={() => (viewed = sheet)}
                  >{sheet.name}</button
                ></td
              >
              <td class="muted">{sheet.file}</td>
              <td class="right">{counted(sheet.rows, 'row')}</td>
              <td class="columns">{sheet.headings.join(', ')}</td>
              <td class="muted">{when(sheet.added)}</td>
              <td class="columns">{sheet.used_by.join(', ') || 'no query'}</td>
              <td class="right whitespace-nowrap">
                <button
                  class="press small"
                  title="A query that starts from its rows"
                  onclick={() => begin(sheet)}>New query</button
                >
                <SheetFile
                  words="Replace its rows…"
                  label="File with new rows for {sheet.name}"
                  onfile={(file) => take(file, sheet)}
                />
                <button class="press small" onclick={() => (dropping = sheet)}>Delete…</button>
              </td>
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
  {/if}
  {#if about}
    <p class="muted mt-4 text-[13px]">
      Queries can also read files of the folder <code>{about.folder}</code>, several by a pattern such as
      <code>counts/*.csv</code>. Allow another folder with <code>tin-bucket folder PATH</code>.
    </p>
  {/if}
</div>

{#if opened}
  <SheetDialog
    file={opened.file}
    data={opened.data}
    replaces={opened.replaces}
    onclose={() => (opened = null)}
    ondone={(query) => {
      opened = null;
      if (query !== null) void push(`/query/${query}`);
      else void load();
    }}
  />
{/if}

{#if viewed}<SheetView sheet={viewed} onclose={() => (viewed = null)} />{/if}
{#if dropping}
  {@const own = dropping}
  <Confirm
    title="Delete the sheet “{own.name}”?"
    yes="Delete it"
    onyes={() => {
      dropping = null;
      void drop(own);
    }}
    onno={() => (dropping = null)}
  >
    Its {counted(own.rows, 'row')} are deleted. This cannot be undone.
  </Confirm>
{/if}

<style>
  .over {
    outline: 2px dashed var(--damson);
    outline-offset: -8px;
  }
  .name {
    max-width: 300px;
    overflow-wrap: anywhere;
    white-space: normal;
  }
  .name button {
    text-align: left;
  }
  .columns {
    max-width: 220px;
    overflow: hidden;
    text-overflow: ellipsis;
  }
</style>
