<!-- The head of a comparison: what it is, how it is made, and what can be taken away of it. -->
<script lang="ts">
  import type { Snippet } from 'svelte';
  import CopySentence from './CopySentence.svelte';
  import ExportRows from './ExportRows.svelte';
  import HowCompared from './HowCompared.svelte';
  import type { CompareStore } from './compareStore.svelte';

  interface Props {
    store: CompareStore;
    title: string;
    /** Whether lines are done to the tables. */
    worked: boolean;
    /** What the copied sentence begins with. */
    begins: string;
    told: HTMLElement | null;
    onkeep: ((close: () => void) => void) | undefined;
    /** The changes of every date are to be a query of their own. */
    onquery?: () => void;
    /** Where it leads back to, and on. */
    links: Snippet;
  }
  let { store, title, worked, begins, told, onkeep, onquery, links }: Props = $props();

  const PARTS: Record<string, string> = {
    differs: 'all that differs',
    same: 'the same',
    alike: 'what differs only in what counts as the same',
    repeated: 'rows of match values that stand for several',
  };

  /** What the sentence says, after what it is of. */
  function said(): string {
    const text = (told?.textContent ?? '')
      .replace(/\s+/g, ' ')
      .replace(/ ([.,:])/g, '$1')
      .trim();
    return `${begins}: ${text}`;
  }
</script>

<div class="flex items-baseline gap-4 max-[700px]:flex-wrap max-[700px]:gap-1">
  <h1 class="truncate text-[19px] font-bold">{title}</h1>
  <span class="flex min-w-0 flex-1 max-[700px]:basis-full"><HowCompared {store} {onkeep} /></span>
  {#if worked}
    <label class="text-[13px]"
      ><span class="muted">Work-out</span>
      <select class="field" style="width: auto; height: 29px" name="reading" bind:value={store.reading}>
        <option value="today">today’s lines for both dates</option>
        <option value="then">the lines of each date</option>
        <option value="taken">before any line</option>
      </select></label
    >
  {/if}
  <div class="flex flex-wrap items-center gap-2">
    {#if store.found}
      <CopySentence text={said} />
      <ExportRows
        asked={store.asked}
        {onquery}
        total={store.total}
        words={(store.column ? `changed in ${store.column}` : (PARTS[store.show] ?? store.show)) +
          (store.group === null ? '' : `, ${store.groupedBy} “${store.group || 'no value'}”`) +
          (store.find ? `, with “${store.find}” in it` : '')}
      />
    {/if}
    {@render links()}
  </div>
</div>
