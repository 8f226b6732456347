<!-- The rows that are seen as a file: what became of each, its cells, and what they were. -->
<script lang="ts">
  import Download from '@lucide/svelte/icons/download';
  import type { Format } from '../api/client';
  import { keptStyle } from '../domain/csv';
  import { fileOptions, queryText } from '../domain/files';
  import { counted } from '../domain/words/format';
  import FileLinks from '../parts/FileLinks.svelte';
  import Popover from '../ui/Popover.svelte';

  interface Props {
    /** The rows that are seen, as their address asks for them. */
    asked: Record<string, string | number | boolean | undefined>;
    total: number | null;
    /** Which ones they are. */
    words: string;
    /** The changes of every date are to be a query of their own. */
    onquery?: () => void;
  }
  let { asked, total, words, onquery }: Props = $props();

  let how = $state.raw(keptStyle());
  let asText = $state(true);
  const whole = (ending: string): string => {
    const { then, now, reading, query_id, by } = asked;
    return `/api/compare/whole.${ending}${queryText({ then, now, reading, query_id, by })}`;
  };
  const address = (one: Format): string =>
    `/api/compare/table.${one.ending}${queryText({ ...asked, ...fileOptions(one, how, asText) })}`;
</script>

<Popover
  label="Export the rows that are seen"
  look="press"
  width={300}
  placement="bottom-end"
  onopen={() => (how = keptStyle())}
>
  {#snippet trigger()}<Download size={15} /> Export{/snippet}
  {#snippet children()}
    <div class="space-y-2 text-[13px]">
      <p>
        As seen: {words}{#if total !== null}, <strong>{counted(total, 'row')}</strong>{/if}. Each has what
        became of it, and what its changed cells were.
      </p>
      <FileLinks {how} {address} />
      <p class="border-t pt-2" style="border-color: var(--hair)">
        All that differs, with what is said of it:
        <a class="plain" href={whole('xlsx')} download>a workbook, a sheet for each kind</a> ·
        <a class="plain" href={whole('html')} download>a web page that stands alone</a>
      </p>
      {#if onquery}
        <p class="border-t pt-2" style="border-color: var(--hair)">
          <button class="plain text-left" onclick={onquery}>A new query of the changes of every date</button>,
          to count, feed and export
        </p>
      {/if}
      <label class="flex items-start gap-2">
        <input class="mt-0.5" type="checkbox" name="formulas-as-text" bind:checked={asText} />
        <span>In CSV, an apostrophe in front of texts that begin as a formula does</span>
      </label>
    </div>
  {/snippet}
</Popover>
