<!-- A table as a file, in each of the formats: the usual two, and the others behind them. -->
<script lang="ts">
  import type { Format } from '../api/client';
  import { choices } from '../domain/choices';
  import type { CsvStyle } from '../domain/csv';
  import { fileWords } from '../domain/files';

  interface Props {
    how: CsvStyle;
    /** Where the file of a format is. */
    address: (one: Format) => string;
  }
  let { how, address }: Props = $props();

  const MAIN = ['xlsx', 'csv'];
  const { formats } = choices();
  const main = formats.filter((one) => MAIN.includes(one.ending));
  const others = formats.filter((one) => !MAIN.includes(one.ending));
</script>

{#each main as one (one.ending)}
  <a class="press w-full" href={address(one)} download>{fileWords(one, how)}</a>
{/each}
<details class="text-[13px]" name="other-files">
  <summary class="plain cursor-pointer" style="color: var(--link)">Other files</summary>
  <div class="mt-1.5 grid grid-cols-2 gap-2">
    {#each others as one (one.ending)}
      <a class="press small" href={address(one)} download>{fileWords(one, how)}</a>
    {/each}
  </div>
</details>
