<!-- The head of a query's page: name, how fresh and how complete, what can be done, parameters. -->
<script lang="ts">
  import GitCompareArrows from '@lucide/svelte/icons/git-compare-arrows';
  import MoreHorizontal from '@lucide/svelte/icons/more-horizontal';
  import DraftBar from './DraftBar.svelte';
  import { withNames } from '../domain/jsonpath';
  import ExportMenu from './ExportMenu.svelte';
  import ParameterBar from './parameters/ParameterBar.svelte';
  import type { Brief, QueryDetail, Values } from '../api/client';
  import { count, counted, when } from '../domain/words/format';
  import { iterationNames } from '../domain/words/labels';
  import { sinceWords } from '../domain/words/runs';
  import { STATE_MEANS, STATE_SIGNS } from '../domain/words/proof';
  import type { QueryStore } from './queryStore.svelte';
  import ChainNote from './ChainNote.svelte';
  import DateStrip from './dates/DateStrip.svelte';
  import SnapshotsDialog from './snapshots/SnapshotsDialog.svelte';
  import BucketMark from '../ui/BucketMark.svelte';
  import Popover from '../ui/Popover.svelte';
  import Dialog from '../ui/Dialog.svelte';

  interface Props {
    work: QueryStore;
    detail: QueryDetail;
    draft: Brief;
    onask: () => void;
    oncopy: () => void;
    /** A new query is to start from this one's table. */
    onstart: (of: 'table' | 'all seen') => void;
    /** A report of it is to begin. */
    onreport: () => void;
    ondelete: () => void;
  }
  let { work, detail, draft, onask, oncopy, onstart, onreport, ondelete }: Props = $props();

  const latest = $derived(work.latest);
  const byIterations = $derived(new Set(iterationNames(draft)));
  const askedFor = $derived(
    draft.parameters.filter((parameter) => parameter.ask && !byIterations.has(parameter.name)),
  );
  let asking = $state(false);
  let answers = $state<Values>({});

  /** Parameters that want a value at each refresh are asked for first. */
  function refresh(): void {
    if (!askedFor.length) {
      void work.refresh();
      return;
    }
    const today = work.plan?.first_call.values ?? detail.values;
    answers = Object.fromEntries(
      askedFor.map((parameter) => [
        parameter.name,
        work.given[parameter.name] ?? today[parameter.name] ?? '',
      ]),
    );
    asking = true;
  }

  function answered(event: SubmitEvent): void {
    event.preventDefault();
    work.give({ ...work.given, ...$state.snapshot(answers) });
    asking = false;
    void work.refresh();
  }

  const INPUTS: Record<string, string> = { date: 'date', month: 'month' };
  const wholeness = $derived.by(() => {
    if (!latest || draft.start) return '';
    const run = detail.last_run;
    const records = run?.snapshot_id === latest.id ? run.records : latest.rows;
    if (latest.stated_total === null || latest.stated_total === undefined) return counted(latest.rows, 'row');
    if (records !== latest.rows)
      return `${count(records)} of ${count(latest.stated_total)} records, ${counted(latest.rows, 'row')} of them`;
    return `${count(latest.rows)} of ${count(latest.stated_total)} rows`;
  });
</script>

<svelte:window
  onkeydown={(event) => {
    if (event.key !== 'Enter' || !event.ctrlKey || event.shiftKey || event.altKey) return;
    // What is open is done with first.
    if (document.querySelector('[role=dialog][data-state=open]') || work.busy || work.run.running) return;
    if (!work.canRefresh) return;
    event.preventDefault();
    refresh();
  }}
/>

<header class="border-b px-4 pt-2.5 pb-2" style="border-color: var(--line)">
  <div class="flex items-center gap-3 max-[700px]:flex-wrap max-[700px]:gap-2">
    <BucketMark
      level={latest ? 0.9 : 0}
      dented={detail.last_run?.state === 'failed'}
      busy={work.run.running}
      size={27}
    />
    <div class="min-w-0 flex-1 max-[700px]:basis-[calc(100%-48px)]">
      <h1>
        <Popover label="Name and note" look="title" width={420}>
          {#snippet trigger()}{draft.name}{/snippet}
          {#snippet children()}
            <div class="space-y-3">
              <label class="block">
                <span class="label">Name</span>
                <input
                  class="field"
                  value={draft.name}
                  onchange={(event) => {
                    const name = event.currentTarget.value.trim();
                    if (name) void work.change({ ...draft, name });
                  }}
                />
              </label>
              <label class="block">
                <span class="label">Note</span>
                <textarea
                  class="field"
                  rows="3"
                  value={draft.note}
                  onchange={(event) => void work.change({ ...draft, note: event.currentTarget.value })}
                ></textarea>
              </label>
            </div>
          {/snippet}
        </Popover>
      </h1>
      <p class="muted truncate text-[13px]">
        {#if work.dirty}
          <strong role="status" style="color: var({work.drafts.problem ? '--straw-ink' : '--damson'})"
            >{work.drafts.problem ? 'Draft, not kept yet' : 'Draft, not saved'}</strong
          > ·
        {/if}
        {#if latest}
          Refreshed {when(latest.taken)}
          {#if wholeness}· <strong style="color: var(--ink)">{wholeness}</strong>{/if}
          ·
          <strong class="state {latest.state}" title="{STATE_MEANS[latest.state]} {latest.evidence}"
            >{STATE_SIGNS[latest.state]} {latest.state}</strong
          >
          {#if 'new' in latest.since && !draft.start}
            {@const since = latest.since}
            · + {count(since.new ?? 0)} new, − {count(since.gone ?? 0)} gone, ● {count(since.changed ?? 0)} changed
          {/if}
          {#if sinceWords(latest.since)}· {sinceWords(latest.since)}{/if}
          ·
          <button class="plain" aria-expanded={work.dates.open} onclick={() => void work.dates.toggle()}
            >{counted(detail.dates, 'snapshot')}</button
          >
          {#if latest.state === 'complete' && latest.evidence}· proof: {withNames(latest.evidence)}{/if}
        {:else if draft.start}
          It asks nothing itself
        {:else}
          Never refreshed · no snapshot yet
        {/if}
        <ChainNote chain={detail.chain} taken={latest?.taken ?? ''} />
      </p>
    </div>
    <DraftBar {work} />
    {#if latest || (draft.start && work.workOut.done)}
      <ExportMenu snapshot={work.dates.at ?? latest} {work} />
    {/if}
    {#if detail.dates > 1}
      <a class="press" href="#/query/{work.id}/compare"><GitCompareArrows size={15} /> Compare</a>
    {/if}
    {#if !draft.start}<button
        class="press"
        class:main={work.step === 'look'}
        data-next={work.step === 'look' || undefined}
        onclick={onask}
        disabled={work.busy || work.run.running}>Ask once</button
      >{/if}
    {#if work.canRefresh}<button
        class="press"
        class:main={work.step === null || work.step === 'refresh'}
        data-next={work.step === 'refresh' || undefined}
        title="Ctrl+Enter"
        aria-keyshortcuts="Control+Enter"
        onclick={refresh}
        disabled={work.busy || work.run.running}>Refresh</button
      >{/if}
    <Popover label="This query" look="more" icon width={230} placement="bottom-end">
      {#snippet trigger()}<MoreHorizontal size={18} />{/snippet}
      {#snippet children(close)}
        <div class="space-y-2">
          <button class="press small w-full" onclick={() => onstart('table')}
            >New query from this table</button
          >
          {#if !detail.brief.start}
            <button
              class="press small w-full"
              title="Each row that any refresh brought, once, with when it was seen first and last"
              onclick={() => onstart('all seen')}>New query of each row ever seen</button
            >
          {/if}
          {#if latest || detail.brief.start}
            <button class="press small w-full" onclick={onreport}>A report of it</button>
          {/if}
          <button class="press small w-full" onclick={oncopy}>Make a copy</button>
          <a
            class="press small w-full"
            href="/api/bundle?query={encodeURIComponent(detail.brief.name)}"
            download>Export its definition</a
          >
          <button
            class="press small w-full"
            onclick={() => {
              close();
              ondelete();
            }}>Delete…</button
          >
        </div>
      {/snippet}
    </Popover>
  </div>
  {#if draft.parameters.length}
    <div class="mt-2">
      <ParameterBar
        brief={draft}
        given={work.given}
        today={work.plan?.first_call.values ?? detail.values}
        choices={work.plan?.first_call.choices ?? detail.choices}
        queryId={work.id}
        ongiven={work.give}
        onchange={work.change}
        {onask}
      />
    </div>
  {/if}
</header>

{#if asking}
  <Dialog title="Refresh {draft.name}" open onclose={() => (asking = false)} width={460}>
    <form class="space-y-3" onsubmit={answered}>
      {#each askedFor as parameter (parameter.name)}
        {@const choices =
          work.plan?.first_call.choices[parameter.name] ??
          (parameter.kind === 'choice' ? parameter.choices : [])}
        <label class="block">
          <span class="label"
            >{parameter.label || parameter.name}{parameter.hint ? `: ${parameter.hint}` : ''}</span
          >
          {#if parameter.many}
            <textarea
              class="field mono"
              rows="4"
              name={parameter.name}
              value={[answers[parameter.name] ?? []].flat().join('\n')}
              oninput={(event) =>
                (answers[parameter.name] = event.currentTarget.value
                  .split('\n')
                  .filter((line) => line.trim()))}></textarea>
          {:else if parameter.kind === 'choice' && choices.length}
            <select class="field" name={parameter.name} bind:value={answers[parameter.name]}>
              {#each choices as one (one.code)}<option value={one.code}>{one.label || one.code}</option
                >{/each}
            </select>
          {:else}
            <input
              class="field"
              type={INPUTS[parameter.kind] ?? 'text'}
              name={parameter.name}
              bind:value={answers[parameter.name]}
            />
          {/if}
        </label>
      {/each}
      <button class="press main">Refresh</button>
    </form>
  </Dialog>
{/if}

{#if work.dates.open}<DateStrip dates={work.dates} own={!draft.start} queryId={work.id} />{/if}

{#if work.dates.listing}
  <SnapshotsDialog {work} name={detail.brief.name} onclose={() => (work.dates.listing = false)} />
{/if}

<style>
  .state {
    color: var(--straw-ink);
  }
  .state.complete {
    color: var(--ink);
  }
  :global(.title) {
    display: block;
    max-width: 100%;
    font-size: 18px;
    font-weight: 700;
    line-height: 24px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    text-align: left;
    cursor: pointer;
  }
  :global(.title:hover) {
    color: var(--damson);
  }
  :global(.more) {
    padding: 4px;
    cursor: pointer;
    color: var(--muted);
  }
</style>
