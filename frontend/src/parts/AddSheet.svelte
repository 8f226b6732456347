<!-- A sheet that is added where one is needed: from a file, or pasted. -->
<script lang="ts">
  import SheetFile from './SheetFile.svelte';
  import SheetDialog from './SheetDialog.svelte';

  interface Props {
    /** Its name, when it is there. */
    onadded: (name: string) => void;
  }
  let { onadded }: Props = $props();
  let opened = $state.raw<{ file: string; data: Blob | string } | null>(null);
</script>

<div class="flex items-center gap-2">
  <SheetFile words="Add a sheet…" onfile={(file) => (opened = { file: file.name, data: file })} />
  <textarea
    class="field"
    rows="1"
    style="min-height: 0"
    placeholder="or paste its cells here"
    aria-label="Cells of a new sheet"
    onpaste={(event) => {
      const text = event.clipboardData?.getData('text/plain') ?? '';
      if (!text.trim()) return;
      event.preventDefault();
      opened = { file: 'pasted', data: text };
    }}></textarea>
</div>
{#if opened}
  <SheetDialog
    file={opened.file}
    data={opened.data}
    asks={false}
    onclose={() => (opened = null)}
    ondone={(_, name) => {
      opened = null;
      onadded(name);
    }}
  />
{/if}
