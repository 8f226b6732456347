<!-- The brief, from top to bottom, in plain sentences. -->
<script lang="ts">
  import { isPasted } from '../../domain/credentials';
  import { onMount, setContext } from 'svelte';
  import { api, ask, type Brief, type QueryDetail, type ServiceInfo } from '../../api/client';
  import { eachNoun } from '../../domain/fanOut';
  import { count, counted, when } from '../../domain/words/format';
  import type { QueryStore } from '../queryStore.svelte';
  import KeyForm from '../../parts/KeyForm.svelte';
  import NextStep from '../NextStep.svelte';
  import AskLine from './AskLine.svelte';
  import CallBox from './CallBox.svelte';
  import EditorRow from './EditorRow.svelte';
  import { SHORT } from './short';
  import HandOverLine from '../handOver/HandOverLine.svelte';
  import FanOutLine from './fanOut/FanOutLine.svelte';
  import KeepLine from './KeepLine.svelte';
  import LookUpLine from './LookUpLine.svelte';
  import PaginationLine from './PaginationLine.svelte';
  import SheetLine from './SheetLine.svelte';
  import StartLine from './StartLine.svelte';
  import TakeLine from './TakeLine.svelte';
  import WorkOutSection from '../../workOut/WorkOutSection.svelte';

  interface Props {
    work: QueryStore;
    detail: QueryDetail;
    draft: Brief;
    oncolumns: () => void;
    /** Whether it has the page to itself. */
    whole?: boolean;
  }
  let { work, detail, draft, oncolumns, whole = false }: Props = $props();

  // Work-out lines need the room.
  const short = $derived(!whole && (draft.work_out.length > 0 || !!work.workOut.editing));
  setContext(SHORT, () => short);

  let services = $state.raw<ServiceInfo[]>([]);
  const keyless = $derived(detail.service?.key && detail.key && !detail.key.ready ? detail.service : null);
  const run = $derived(detail.last_run?.snapshot_id && !work.dirty ? detail.last_run : null);
  const failedIterations = $derived(run?.report.failed_iterations ?? []);

  onMount(() => {
    ask(api.GET('/api/services')).then((found) => (services = found), work.fail);
  });

  const onadded = (info: ServiceInfo): void => {
    services = [...services.filter((one) => one.service.id !== info.service.id), info];
  };

  const takeNote = $derived.by(() => {
    const of = work.previews.shown ?? run;
    return of && of.records !== of.rows
      ? `${counted(of.records, 'record')} → ${counted(of.rows, 'row')}`
      : '';
  });

  function lookUpNote(name: string): string {
    const note = run?.report.lookups[name];
    if (!note) return '';
    const parts = [`${counted(note.calls, 'call')} for ${counted(note.rows, 'row')}`];
    if (note.kept) parts.push(`${count(note.kept)} kept since ${when(note.oldest)}`);
    if (note.none)
      parts.push(
        `${count(note.none)} not found${note.missing.length ? `: ${note.missing.slice(0, 3).join(', ')}${note.none > 3 ? ' …' : ''}` : ''}`,
      );
    if (note.several) parts.push(`${count(note.several)} with several records, the first taken`);
    if (note.failed) {
      const why = note.why ? `: ${note.why.what}${note.why.words ? ` “${note.why.words}”` : ''}` : '';
      parts.push(`${count(note.failed)} failed${why}`);
    }
    return parts.join(' · ');
  }
</script>

<aside
  class="shrink-0 overflow-auto px-4 py-2 {whole
    ? 'h-full w-full'
    : work.workOut.editing
      ? 'w-[500px] border-r'
      : 'w-[340px] border-r'}"
  style="border-color: var(--line); background: var(--brief); scroll-padding-bottom: {work.workOut.editing
    ? 56
    : 0}px"
  aria-label="The brief"
>
  {#if keyless && !work.run.waiting}
    <div class="seen my-2">
      <p class="mb-2">
        <strong>{keyless.name}</strong>
        {detail.key?.stored
          ? `needs the key “${keyless.key?.name}” again: the stored one is for another address, or incomplete.`
          : isPasted(keyless.key)
            ? `needs a token for “${keyless.key?.name}”.`
            : `needs the key “${keyless.key?.name}”, which is not stored yet.`}
      </p>
      <KeyForm
        service={keyless}
        fields={detail.key?.required_fields ?? []}
        onstored={() => work.keyStored()}
        asksEnd={false}
      />
    </div>
  {/if}
  {#if work.step}<NextStep step={work.step} />{/if}
  {#if draft.ask}
    <AskLine brief={draft} ask={draft.ask} {services} {onadded} id={work.id} onchange={work.change} />
    {#if work.plan && !short}<CallBox firstCall={work.plan.first_call} noun={eachNoun(draft.each)} />{/if}
    <FanOutLine
      brief={draft}
      firstCall={work.plan?.first_call ?? null}
      failed={failedIterations}
      id={work.id}
      onchange={work.change}
    />
    <PaginationLine {work} brief={draft} {run} onchange={work.change} />
  {:else if draft.start}
    <StartLine brief={draft} start={draft.start} onchange={work.change} />
  {:else}
    <SheetLine brief={draft} id={work.id} onchange={work.change} />
  {/if}
  {#if !draft.start}<TakeLine
      brief={draft}
      preview={work.previews.current}
      columns={work.columnSpecs}
      note={takeNote}
      id={work.id}
      next={work.step === 'rows'}
      onchange={work.change}
      {oncolumns}
    />{/if}
  {#each draft.look_up as one, index (one.name)}
    <LookUpLine {work} brief={draft} {index} note={lookUpNote(one.name)} {services} {onadded} />
  {/each}
  {#if draft.start}<!-- What is looked up belongs to what it starts from. -->
  {:else if work.columns.length}
    <LookUpLine {work} brief={draft} index={-1} note="" {services} {onadded} />
  {:else}
    <EditorRow verb="Look up">
      <span class="muted">values for each row, as soon as there are rows: ask once first.</span>
    </EditorRow>
  {/if}
  {#if work.columns.length || draft.start}
    <WorkOutSection
      store={work.workOut}
      brief={draft}
      columns={work.columns}
      keep="line of query {work.id}"
      onchange={work.change}
      onuse={work.useLine}
    />
  {/if}
  <KeepLine
    {work}
    saved={detail.saved_bytes}
    brief={draft}
    columns={work.columns}
    note={detail.next_time ? `next ${when(detail.next_time)}` : ''}
    onchange={work.change}
  />
  <HandOverLine {work} brief={draft} onchange={work.change} />
  {#if draft.note}
    <p class="muted mt-3 border-t pt-3 text-[13px]" style="border-color: var(--hair)">{draft.note}</p>
  {/if}
</aside>
