<!-- How pages are turned, what speaks for it, and the proof of it. -->
<script lang="ts">
  import type { Brief, Run } from '../../api/client';
  import { count } from '../../domain/words/format';
  import { pagesWords, sizeOf, type Pages } from '../../domain/pagination';
  import type { QueryStore } from '../queryStore.svelte';
  import Popover from '../../ui/Popover.svelte';
  import EditorRow from './EditorRow.svelte';
  import PaginationForm from './PaginationForm.svelte';

  interface Props {
    work: QueryStore;
    brief: Brief;
    run: Run | null;
    onchange: (brief: Brief) => void;
  }
  let { work, brief, run, onchange }: Props = $props();

  const preview = $derived(work.previews.current);
  const guesses = $derived(brief.pages.by === 'none' ? (preview?.pagination_guesses ?? []) : []);
  const short = $derived(brief.pages.by === 'none' ? (preview?.total_gap ?? null) : null);
  const words = $derived(pagesWords(brief.pages));
  const size = $derived(sizeOf(brief.pages));
  const canVerify = $derived(brief.pages.by !== 'none' && !!work.previews.asked && !work.run.running);

  const note = $derived.by(() => {
    if (!run?.stop || (brief.pages.by === 'none' && !brief.each.length)) return '';
    const learnt = run.report.page_size;
    const pages = learnt
      ? `; asked for ${count(learnt.asked)} rows a page, the API gives ${count(learnt.got)}`
      : '';
    return (brief.each.length ? run.stop : `stopped because ${run.stop}`) + pages;
  });

  function take(pages: Pages): void {
    onchange({ ...brief, pages });
  }
</script>

{#snippet part(text: string)}
  <Popover label="How pages are turned" width={460}>
    {#snippet trigger()}{text}{/snippet}
    {#snippet children(close)}
      <PaginationForm
        pages={brief.pages}
        {preview}
        ondone={(pages) => {
          take(pages);
          close();
        }}
      />
    {/snippet}
  </Popover>
{/snippet}

<EditorRow verb="Turn pages" {note}>
  {#if brief.pages.by === 'none'}
    {@render part('not at all')}: one answer is all{brief.pages.total
      ? ', checked against the stated total'
      : ''}.
  {:else}
    by {@render part(words.how)}{#if size}, {@render part(count(size))} a page{/if}, until {@render part(
      words.until,
    )}{#if brief.pages.most_rows}, or {@render part(`${count(brief.pages.most_rows)} rows`)} are here{/if}.
  {/if}
</EditorRow>
{#if guesses.length || short}
  <div class="seen mb-2">
    {#if short}
      <p>
        <strong>{count(short.here)} rows of {count(short.total)}</strong> are in this answer; the others are on
        further pages.
      </p>
    {/if}
    {#each guesses as guess, at (guess.words)}
      {#if at === 0}
        <p><strong>Seen in the answer:</strong> {guess.evidence.join(', ')}.</p>
        <button class="press small main mt-1.5" onclick={() => take(guess.pages as Pages)}>
          Turn pages {guess.words}
        </button>
      {:else}
        <p class="mt-1.5">
          Or <button
            class="plain"
            title={guess.evidence.join(', ')}
            onclick={() => take(guess.pages as Pages)}>{guess.words}</button
          >: {guess.evidence.join(', ')}.
        </p>
      {/if}
    {/each}
  </div>
{/if}
{#if work.previews.verification && brief.pages.by !== 'none'}
  <div class="seen mb-2" aria-live="polite">
    <strong>{work.previews.verification.verified ? '✓ Verified by a second call.' : '✕ Not verified.'}</strong
    >
    {work.previews.verification.what}
    {work.previews.verification.do}
  </div>
{:else if canVerify}
  <div class="mb-2 pl-[86px]">
    <button class="press small" disabled={work.busy} onclick={() => work.verify()}
      >Verify with a second call</button
    >
  </div>
{/if}
