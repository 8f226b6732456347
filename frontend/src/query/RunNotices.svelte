<!-- What is to be known above the table: a key that is wanted, a problem, what is missing, what the API changed. -->
<script lang="ts">
  import { api, ask, type Brief, type QueryDetail } from '../api/client';
  import { newColumn, toggleField } from '../domain/columns';
  import { count, counted, dated } from '../domain/words/format';
  import { nameOf } from '../domain/jsonpath';
  import { ENDS } from '../domain/words/runs';
  import AddKey from '../parts/AddKey.svelte';
  import KeyForm from '../parts/KeyForm.svelte';
  import { withNames } from '../domain/jsonpath';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import type { QueryStore } from './queryStore.svelte';
  import RefusalNote from './RefusalNote.svelte';
  import WaitingNote from './WaitingNote.svelte';

  interface Props {
    work: QueryStore;
    detail: QueryDetail;
    draft: Brief;
  }
  let { work, detail, draft }: Props = $props();

  const requiredKey = $derived(
    work.detail?.service?.key && work.detail.key && !work.detail.key.ready ? work.detail.service : null,
  );
  /** Of a query that keeps each row ever seen: dates between which something may have been missed. */
  let breaks = $state.raw<[string, string][]>([]);
  $effect(() => {
    const wanted = detail.brief.start?.every_date?.rows === 'each once';
    const [id, latest] = [work.id, detail.latest?.id];
    breaks = [];
    if (!wanted || latest === undefined) return;
    ask(api.GET('/api/queries/{query_id}/breaks', { params: { path: { query_id: id } } })).then(
      (found) => (breaks = found as [string, string][]),
      () => undefined,
    );
  });

  const keyRefused = $derived(
    ['key-refused', 'key-missing', 'key-bound-elsewhere', 'token-wanted'].includes(work.problem?.kind ?? ''),
  );

  const keyless = $derived(keyRefused && !!detail.service && !detail.service.key);

  // A run that stopped, or whose table is incomplete.
  const incomplete = $derived(work.incomplete);
  const canGoOn = $derived(work.canResume);
  const gaps = $derived(incomplete?.report.gaps ?? []);
  const upper = (text: string): string => text.replace(/^./, (first) => first.toUpperCase());
  /** What failed first, with the API's own words. */
  const firstFailed = $derived(
    incomplete?.report.failed_pages[0] ?? incomplete?.report.failed_iterations[0] ?? null,
  );
  // Rows that came twice, or a total that changed: others may have been skipped.
  const moved = $derived(
    !!incomplete?.snapshot_id && (!!incomplete.report.duplicates || !!incomplete.report.total_moved),
  );
  const report = $derived(work.detail?.last_run?.report);
  const oddities = $derived(
    work.previews.shown?.notes ?? [
      ...(report?.warnings ?? []).map((words) => `The service warns: “${words}”.`),
      ...(report?.oddities ?? []),
    ],
  );

  const drift = $derived(
    work.previews.shown || work.run.running ? null : (work.detail?.last_run?.report.drift ?? null),
  );
  const freshNow = $derived(
    drift?.new.filter((place) => !work.draft?.take.columns?.some((column) => column.place === place)) ?? [],
  );
  const short = (places: string[]): string =>
    places
      .slice(0, 4)
      .map((place) => place.replace(/^\$\.?/, ''))
      .join(', ') + (places.length > 4 ? ` and ${count(places.length - 4)} more` : '');
</script>

{#if breaks.length}
  {@const last = breaks.at(-1) ?? ['', '']}
  <p class="seen mx-3 mt-3 mb-2" role="status">
    <strong>Rows may be missing:</strong> the tables of {dated(last[0])} and {dated(last[1])} have no row in common,
    so what came and went between them was not seen{breaks.length > 1
      ? `; so it is with ${counted(breaks.length - 1, 'earlier pair')} of dates`
      : ''}. Refresh more often, or ask from the last refresh on.
  </p>
{/if}

{#if work.run.waiting}
  <WaitingNote waiting={work.run.waiting} onstop={() => work.stop()} />
{/if}
{#if work.problem && !work.run.waiting}
  <div class="m-3">
    <ProblemNote
      problem={keyless ? { ...work.problem, what: 'The service wants a key.', do: '' } : work.problem}
    >
      {#if keyRefused && detail.service?.key && !requiredKey}
        <div class="mt-2 max-w-md">
          <KeyForm
            service={detail.service}
            fields={detail.key?.required_fields ?? []}
            asksEnd={false}
            onstored={() => work.keyStored()}
          />
        </div>
      {:else if keyless && detail.service}
        <div class="mt-2 max-w-lg"><AddKey service={detail.service} onstored={() => work.keyStored()} /></div>
      {/if}
    </ProblemNote>
  </div>
{/if}
{#if incomplete?.report.only_first}
  <p class="muted mx-3 mt-3 mb-2">{upper(gaps.join('; '))}.</p>
{:else if incomplete && !work.run.waiting}
  <div class="seen mx-3 mt-3 mb-2 flex items-center gap-3">
    <p class="min-w-0 flex-1">
      {#if incomplete.state === 'unverified'}
        <strong>? The table is unverified:</strong> {incomplete.report.doubt}.
      {:else if incomplete.snapshot_id}
        <strong>The table is incomplete:</strong>
        {gaps.join('; ')}.
        {#if firstFailed}
          {upper(firstFailed.label)}: {withNames(firstFailed.what)}
          {#if firstFailed.words}The service says: <q>{firstFailed.words}</q>.{/if}
        {/if}
      {:else}
        <strong>The last run {ENDS[incomplete.state] ?? incomplete.state}.</strong>
        {counted(incomplete.records, 'record')} of it {incomplete.records === 1 ? 'is' : 'are'} saved.
      {/if}
      {#if canGoOn}Calls that were answered are not repeated.{/if}
      {#if moved}The list moved while its pages were turned. A second pass may find it at rest.{/if}
    </p>
    {#if moved && !canGoOn}
      <button class="press small" disabled={work.busy} onclick={() => work.refresh()}>Fetch it again</button>
    {/if}
    {#if canGoOn}
      <button class="press small main" disabled={work.busy} onclick={() => work.resume()}
        >{incomplete.snapshot_id ? 'Retry what failed' : 'Resume'}</button
      >
    {/if}
  </div>
{/if}
{#if !work.run.running}
  {#each work.detail?.last_run?.report.refusals ?? [] as refusal (refusal.service_id)}
    <RefusalNote {refusal} />
  {/each}
{/if}
{#if drift && (freshNow.length || drift.missing.length || drift.changed.length)}
  <div class="seen mx-3 mt-3 mb-2 flex items-center gap-3">
    <p class="min-w-0 flex-1">
      <strong>The answers have changed:</strong>
      {#if freshNow.length}new <code>{short(freshNow)}</code>{/if}
      {#if drift.missing.length}{freshNow.length ? '; ' : ''}no longer there
        <code>{short(drift.missing)}</code>{/if}
      {#if drift.changed.length}{freshNow.length || drift.missing.length ? '; ' : ''}of another kind
        <code>{short(drift.changed.map((one) => `${one.place} (${one.was} → ${one.now})`))}</code>{/if}
    </p>
    {#if freshNow.length && draft.take.columns}
      <button
        class="press small main"
        onclick={() => {
          let next = draft;
          for (const place of freshNow)
            next = toggleField(next, work.columns, newColumn(place, nameOf(place)));
          void work.change(next);
        }}>Take {freshNow.length === 1 ? 'it' : `these ${count(freshNow.length)}`}</button
      >
    {/if}
  </div>
{/if}
{#each oddities as words (words)}<p class="seen mx-3 mt-3 mb-2">{words}</p>{/each}
