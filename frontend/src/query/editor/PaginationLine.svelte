<!-- How pages are turned, what speaks for it, and the proof of it. -->
<script lang="ts">
  import type { Brief, Run } from '../../api/client';
  import { count, counted, day } from '../../domain/words/format';
  import { callsWords, STATE_SIGNS } from '../../domain/words/proof';
  import { withNames } from '../../domain/jsonpath';
  import { pagesWords, sizeOf, type Pages } from '../../domain/pagination';
  import type { QueryStore } from '../queryStore.svelte';
  import Popover from '../../ui/Popover.svelte';
  import EditorRow from './EditorRow.svelte';
  import IsThereMore from './IsThereMore.svelte';
  import MoreFound from './MoreFound.svelte';
  import PaginationForm from './PaginationForm.svelte';

  interface Props {
    work: QueryStore;
    brief: Brief;
    run: Run | null;
    onchange: (brief: Brief) => void;
  }
  let { work, brief, run, onchange }: Props = $props();

  const preview = $derived(work.previews.current);
  const proof = $derived(brief.pages.by === 'none' ? (preview?.proof ?? null) : null);
  const guesses = $derived(brief.pages.by === 'none' ? (preview?.pagination_guesses ?? []) : []);
  // An answer that is proved to be whole wants no pages; another question may.
  const whole = $derived(proof?.state === 'complete');
  const sure = $derived(!!guesses[0]?.known && !whole);
  const said = $derived(brief.pages.by === 'none' ? (brief.pages.said ?? null) : null);
  const found = $derived(work.previews.finding ?? work.detail?.findings[0] ?? null);
  const showsFound = $derived(!!found && (!!work.previews.finding || brief.pages.by === 'none' || !run));
  const words = $derived(pagesWords(brief.pages));
  const size = $derived(sizeOf(brief.pages));
  const canVerify = $derived(brief.pages.by !== 'none' && !!work.previews.asked && !work.run.running);

  const note = $derived.by(() => {
    if (!run?.stop || (brief.pages.by === 'none' && !brief.each.length)) return '';
    const learnt = run.report.page_size;
    const ids = brief.pages.by === 'ids';
    const pages = learnt
      ? ids
        ? `; ${count(learnt.asked)} ids a call are too many, ${count(learnt.got)} are taken`
        : `; asked for ${count(learnt.asked)} rows a page, the API gives ${count(learnt.got)}`
      : '';
    return withNames(brief.each.length ? run.stop : `stopped because ${run.stop}`) + pages;
  });

  /** How many ids a call takes, where that was found out and is not what the brief says. */
  const learntBatch = $derived.by(() => {
    const learnt = run?.report.page_size;
    return brief.pages.by === 'ids' && learnt && brief.pages.batch > learnt.got ? learnt.got : null;
  });

  function take(pages: Pages): void {
    onchange({ ...brief, pages });
  }
</script>

{#snippet part(text: string)}
  <Popover label="How pages are turned" width={460} keep={`pages of query ${work.id}`}>
    {#snippet trigger()}{text}{/snippet}
    {#snippet children(close)}
      <PaginationForm
        pages={brief.pages}
        {preview}
        keep={`pages of query ${work.id}`}
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
    {@render part('not at all')}: one call is made{brief.pages.total
      ? ', checked against the stated total'
      : ''}{said ? `; one answer is all there is, as was said ${day(said.on)}` : ''}.
    {#if said}<button class="plain" onclick={() => take({ ...brief.pages, said: null } as Pages)}
        >Take back</button
      >{/if}
  {:else}
    by {@render part(withNames(words.how))}{#if size}, {@render part(count(size))} a page{/if}, until {@render part(
      withNames(words.until),
    )}.
  {/if}
</EditorRow>
{#if learntBatch}
  <div class="seen mb-2">
    <button class="press small" onclick={() => take({ ...brief.pages, batch: learntBatch } as Pages)}
      >Ask for {counted(learntBatch, 'id')} a call from now on</button
    >
  </div>
{/if}
{#if proof && preview && !sure && !(work.previews.finding && proof.state !== 'complete')}
  <IsThereMore {work} {brief} {preview} {onchange} />
{/if}
{#if found && showsFound}
  <MoreFound
    finding={found}
    {brief}
    rows={brief.pages.by === 'none' && !said && preview ? preview.records : null}
    next={work.step === 'pages'}
    onaccept={onchange}
  />
{/if}
{#if guesses.length && !work.previews.finding?.pages}
  <div class="seen mb-2">
    {#if sure && proof && proof.state !== 'complete'}
      <p><strong>{STATE_SIGNS[proof.state]} {proof.state}:</strong> {withNames(proof.evidence)}.</p>
    {/if}
    {#each guesses as guess, at (guess.words)}
      {#if at === 0}
        <p>
          <strong>{whole ? 'For a question with more rows:' : 'Seen in the answer:'}</strong>
          {withNames(guess.evidence.join(', '))}.
        </p>
        <button
          class="press small mt-1.5"
          class:main={guess.known && !whole}
          data-next={(work.step === 'pages' && guess.known) || undefined}
          onclick={() => take(guess.pages as Pages)}
        >
          Turn pages {guess.words}{guess.known || whole ? '' : ', by a guess'}
        </button>
        {#if sure && proof && proof.reads}
          <button class="plain mt-1 block text-left" disabled={work.busy} onclick={() => work.findMore(false)}
            >Try it, and find the largest page: {callsWords(proof.calls)}</button
          >
        {/if}
      {:else}
        <p class="mt-1.5">
          Or <button
            class="plain"
            title={guess.evidence.join(', ')}
            onclick={() => take(guess.pages as Pages)}>{guess.words}</button
          >: {withNames(guess.evidence.join(', '))}.
        </p>
      {/if}
    {/each}
  </div>
{/if}
{#if work.previews.verification && brief.pages.by !== 'none'}
  <div class="seen mb-2" aria-live="polite">
    <strong>{work.previews.verification.verified ? '✓ Verified by a second call.' : '✕ Not verified.'}</strong
    >
    {withNames(work.previews.verification.what)}
    {work.previews.verification.do}
  </div>
{:else if canVerify}
  <div class="mb-2 pl-[86px]">
    <button class="press small" disabled={work.busy} onclick={() => work.verify()}
      >Verify with a second call</button
    >
  </div>
{/if}
