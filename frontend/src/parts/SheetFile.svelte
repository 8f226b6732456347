<!-- A button that lets one choose a file with rows. -->
<script lang="ts">
  interface Props {
    words: string;
    /** What it is for, where the words alone do not say so. */
    label?: string | undefined;
    look?: string;
    name?: string;
    onfile: (file: File) => void;
  }
  let { words, label, look = 'press small', name, onfile }: Props = $props();
</script>

<label class="{look} shrink-0">
  {words}
  <input
    class="sr-only"
    type="file"
    {name}
    aria-label={label}
    accept=".csv,.tsv,.txt,.tab,.json,.jsonl,.ndjson,.xlsx,.ods"
    onchange={(event) => {
      const file = event.currentTarget.files?.[0];
      // The same file can be chosen once more.
      event.currentTarget.value = '';
      if (file) onfile(file);
    }}
  />
</label>
