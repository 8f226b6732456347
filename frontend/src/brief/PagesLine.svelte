<script lang="ts">
  import type { Brief, Trial } from '../lib/api/client';
  import { count } from '../lib/format';
  import Sheet from '../parts/Sheet.svelte';
  import Line from './Line.svelte';

  interface Props {
    brief: Brief;
    trial: Trial | null;
    note: string;
    onchange: (brief: Brief) => void;
  }
  let { brief, trial, note, onchange }: Props = $props();
  type Numbered = Extract<Brief['pages'], { by: 'number' }>;

  const guess = $derived(trial?.pages_guess ?? null);
  const offered = $derived(guess && brief.pages.by === 'none' ? (guess.pages as unknown as Numbered) : null);
  let by = $state<'none' | 'number'>('none');
  let form = $state({
    parameter: 'page',
    first: 1,
    sizeParameter: '',
    size: '',
    last: '',
    total: '',
    most: 1000,
  });

  function begin(): void {
    const pages =
      brief.pages.by === 'number' ? brief.pages : ((guess?.pages as unknown as Numbered | undefined) ?? null);
    by = brief.pages.by;
    form = {
      parameter: pages?.parameter ?? 'page',
      first: pages?.first ?? 1,
      sizeParameter: pages?.size_parameter ?? '',
      size: pages?.size ? String(pages.size) : '',
      last: pages?.last_page ?? '',
      total: (brief.pages.total || pages?.total) ?? '',
      most: pages?.most ?? 1000,
    };
  }

  function done(event: SubmitEvent, close: () => void): void {
    event.preventDefault();
    const total = form.total.trim() || null;
    onchange({
      ...brief,
      pages:
        by === 'none'
          ? { by: 'none', total }
          : {
              by: 'number',
              parameter: form.parameter.trim(),
              first: form.first,
              size_parameter: form.sizeParameter.trim() || null,
              size: form.size ? Number(form.size) : null,
              last_page: form.last.trim() || null,
              total,
              most: form.most,
            },
    });
    close();
  }

  const until = $derived.by(() => {
    if (brief.pages.by === 'none') return '';
    if (brief.pages.last_page) return 'the stated last page';
    return brief.pages.total ? 'all stated rows are here' : 'a page is empty or short';
  });
</script>

{#snippet editor(close: () => void)}
  <form onsubmit={(event) => done(event, close)} class="space-y-3">
    {#if guess}
      <p class="seen"><strong>Seen in the answer:</strong> {guess.evidence.join(', ')}.</p>
    {/if}
    <div class="space-y-1">
      <label class="flex items-center gap-2"
        ><input type="radio" value="none" bind:group={by} /> One answer is all</label
      >
      <label class="flex items-center gap-2"
        ><input type="radio" value="number" bind:group={by} /> By page number</label
      >
    </div>
    {#if by === 'number'}
      <div class="grid grid-cols-2 gap-3">
        <label
          ><span class="label">Parameter with the number</span><input
            class="field mono"
            bind:value={form.parameter}
            required
          /></label
        >
        <label
          ><span class="label">The first page is</span><input
            class="field"
            type="number"
            min="0"
            bind:value={form.first}
            required
          /></label
        >
        <label
          ><span class="label">Parameter with the size</span><input
            class="field mono"
            bind:value={form.sizeParameter}
            placeholder="none"
          /></label
        >
        <label
          ><span class="label">Rows a page to ask for</span><input
            class="field"
            type="number"
            min="1"
            bind:value={form.size}
            placeholder="as it comes"
          /></label
        >
        <label
          ><span class="label">Place of the last page’s number</span><input
            class="field mono"
            bind:value={form.last}
            placeholder="$.meta.pages"
          /></label
        >
        <label
          ><span class="label">Never more pages than</span><input
            class="field"
            type="number"
            min="1"
            max="100000"
            bind:value={form.most}
            required
          /></label
        >
      </div>
    {/if}
    <label class="block">
      <span class="label">Place of the total number of rows, to check against</span>
      <input class="field mono" bind:value={form.total} placeholder="the API states none" />
    </label>
    <button class="press main small">Done</button>
  </form>
{/snippet}

<Line verb="Turn pages" {note}>
  {#if brief.pages.by === 'number'}
    by
    <Sheet label="How pages are turned" onopen={begin}>
      {#snippet trigger()}page number{/snippet}
      {#snippet children(close)}{@render editor(close)}{/snippet}
    </Sheet>{brief.pages.size ? ', ' : ''}{#if brief.pages.size}<Sheet
        label="How pages are turned"
        onopen={begin}
      >
        {#snippet trigger()}{count((brief.pages as Numbered).size ?? 0)}{/snippet}
        {#snippet children(close)}{@render editor(close)}{/snippet}
      </Sheet>
      a page{/if}, until
    <Sheet label="How pages are turned" onopen={begin}>
      {#snippet trigger()}{until}{/snippet}
      {#snippet children(close)}{@render editor(close)}{/snippet}
    </Sheet>.
  {:else}
    <Sheet label="How pages are turned" onopen={begin}>
      {#snippet trigger()}not at all{/snippet}
      {#snippet children(close)}{@render editor(close)}{/snippet}
    </Sheet>: one answer is all{brief.pages.total ? ', checked against the stated total' : ''}.
  {/if}
</Line>
{#if offered}
  <div class="seen mb-2">
    <strong>Seen in the answer:</strong>
    {guess?.evidence.join(', ')}.
    <button class="press small main mt-1.5" onclick={() => onchange({ ...brief, pages: offered })}>
      Turn pages by number
    </button>
  </div>
{/if}
