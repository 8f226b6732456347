<!-- What is to be known of the draft: another window, a save from elsewhere, and a table that another brief made. -->
<script lang="ts">
  import { api, ask, type Parameter, type QueryDetail } from '../api/client';
  import { day, when } from '../domain/words/format';
  import { givenWords, iterationNames, otherValues } from '../domain/words/labels';
  import type { QueryStore } from './queryStore.svelte';

  interface Props {
    work: QueryStore;
    detail: QueryDetail;
  }
  let { work, detail }: Props = $props();
  const drafts = $derived(work.drafts);
  const made = $derived(work.run.running ? null : detail.made_with);
  // Values that the table was asked with, where a refresh now would ask with others.
  const others = $derived.by(() => {
    const run = detail.last_run;
    if (!work.draft || !run || run.snapshot_id !== work.latest?.id || work.run.running || work.previews.asked)
      return [];
    const byIterations = iterationNames(work.draft);
    const plain = work.draft.parameters.filter((one) => !byIterations.includes(one.name));
    return otherValues(plain, run.bindings, work.given, work.plan?.first_call.values ?? detail.values);
  });
  const valueWords = (parameter: Parameter, value: string): string =>
    parameter.kind === 'date' && value ? day(value) : givenWords(parameter, value);
  const rereads = $derived(!!work.previews.shown && work.previews.shown.run_id !== null);

  /** Let the newest snapshot be what the saved brief makes of its answers. */
  async function rebuild(): Promise<void> {
    const run_id = work.latest?.run_id;
    if (run_id === undefined || (work.dirty && !(await work.save()))) return;
    try {
      await ask(api.POST('/api/runs/{run_id}/rebuild', { params: { path: { run_id } } }));
      work.previews.drop(true);
      await work.load();
    } catch (error) {
      work.fail(error);
    }
  }
</script>

{#if drafts.other}
  <div class="seen mx-3 mt-3 mb-2 flex items-center gap-3" role="alert">
    <p class="min-w-0 flex-1">
      <strong>This query was changed in another window meanwhile.</strong>
      What you see is yours: {drafts.other.name || 'a value'}. The other one is a step back if you keep yours.
    </p>
    <button class="press small main" onclick={() => drafts.keepMine()}>Keep mine</button>
    <button class="press small" onclick={() => work.takeTheirs()}>Take the other’s</button>
  </div>
{:else if drafts.seen}
  <p class="seen mx-3 mt-3 mb-2" role="status">
    Another window changed this query just now. This is its draft; undo goes back.
  </p>
{/if}
{#if work.overtaken}
  <div class="seen mx-3 mt-3 mb-2 flex items-center gap-3">
    <p class="min-w-0 flex-1">
      <strong>The query was saved elsewhere after this draft was begun.</strong> Saving the draft takes its place.
    </p>
    <button class="press small" onclick={() => work.save(true)}>Save over it</button>
    <button class="press small" onclick={() => work.discard()}>Take what was saved</button>
  </div>
{/if}
{#if drafts.problem}
  <p class="seen mx-3 mt-3 mb-2" role="alert">
    <strong>Your changes are not kept yet:</strong>
    {drafts.problem.what} They are sent again by themselves; leave this page open.
  </p>
{/if}
{#if others.length && !made?.asks}
  <div class="seen mx-3 mt-3 mb-2 flex items-center gap-3" role="status">
    <p class="min-w-0 flex-1">
      <strong
        >The table was asked with {others
          .map((one) => `${one.parameter.label || one.parameter.name}: ${valueWords(one.parameter, one.was)}`)
          .join(', ')}.</strong
      >
      A refresh now asks with {others.map((one) => valueWords(one.parameter, one.now)).join(', ')}.
    </p>
    <button class="press small" disabled={work.busy} onclick={() => work.refresh()}>Refresh</button>
  </div>
{/if}
{#if made && work.latest}
  <div class="seen mx-3 mt-3 mb-2 flex items-center gap-3">
    <p class="min-w-0 flex-1">
      {#if made.asks}
        <strong>The snapshot is of another question:</strong> the query was changed after its refresh of
        {when(work.latest.taken)}.
      {:else if rereads}
        <strong>Read anew:</strong> the answers of {when(work.latest.taken)}, as the query reads them now. The
        snapshot itself is still as it was read then.
      {:else}
        <strong>The snapshot was read in another way:</strong> the query was changed after its refresh of
        {when(work.latest.taken)}.
      {/if}
    </p>
    {#if made.asks}
      <button class="press small" disabled={work.busy} onclick={() => work.refresh()}>Refresh</button>
    {:else if rereads}
      <button class="press small main" onclick={rebuild}>Rebuild the snapshot</button>
    {:else}
      <button class="press small" disabled={work.busy} onclick={() => work.refresh()}>Refresh</button>
    {/if}
  </div>
{/if}
