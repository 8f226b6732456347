<!-- The answers of a trial or a run, one at a time, as a tree. -->
<script lang="ts">
  import { problemOf, type AnswerDocument, type Call, type Problem } from '../lib/api/client';
  import { bytes, counted, span } from '../lib/format';
  import AnswerTree from './AnswerTree.svelte';
  import ProblemNote from './ProblemNote.svelte';

  interface Props {
    calls: Call[];
    load: (index: number) => Promise<AnswerDocument>;
    records: string;
    taken: Set<string>;
    ontake: (place: string) => void;
    onrecords: (place: string) => void;
    /** The problem that the page shows already. */
    said: Problem | null;
    /** Index of the call to show first. */
    chosen?: number;
  }
  let { calls, load, records, taken, ontake, onrecords, said, chosen = 0 }: Props = $props();
  let index = $derived(chosen);
  let document = $state<AnswerDocument | null>(null);
  let problem = $state<Problem | null>(null);
  const call = $derived(calls[Math.min(index, calls.length - 1)]);
  const list = $derived(records.replace(/\[\*\]$/, ''));

  $effect(() => {
    const wanted = call;
    if (!wanted) return;
    document = null;
    problem = wanted.problem ?? null;
    if (!wanted.has_answer) return;
    load(calls.indexOf(wanted)).then(
      (found) => wanted === call && (document = found),
      (error: unknown) => (problem = problemOf(error)),
    );
  });
</script>

{#if call}
  <div class="flex h-full flex-col">
    <div class="flex items-center gap-3 border-b px-3 py-1.5 text-[13px]" style="border-color: var(--line)">
      <select class="field" style="width: 220px; height: 27px" bind:value={index} aria-label="Which answer">
        {#each calls as one, at (one.number)}
          <option value={at}>
            {one.stage === 'pages'
              ? one.label || 'the answer'
              : `${one.stage.replace('look up ', '')} ${one.label}`}
          </option>
        {/each}
      </select>
      <span class="muted">
        {call.status ? `status ${call.status}` : 'no answer'} · {span(call.ms)} · {bytes(call.size)}
        {#if call.records}· {counted(call.records, 'record')}{/if}
      </span>
    </div>
    <div class="min-h-0 flex-1 overflow-auto py-1" role="tree" aria-label="The answer">
      {#if problem && problem.what !== said?.what}<div class="p-3"><ProblemNote {problem} /></div>{/if}
      {#if document?.json !== undefined}
        <AnswerTree
          node={document.json}
          records={call.stage === 'pages' ? list : '\u0000'}
          {taken}
          {ontake}
          {onrecords}
        />
      {:else if document?.text !== undefined}
        <pre
          class="p-3 text-[13px] whitespace-pre-wrap"
          style="font-family: var(--mono)">{document.text}</pre>
      {/if}
    </div>
  </div>
{:else}
  <p class="muted p-6">No answer is kept here. Ask once to see one.</p>
{/if}
