<!-- The work-out lines of a brief, on a thread: each one sentence, with the rows behind it. -->
<script lang="ts">
  import type { Brief, Column, Line } from '../api/client';
  import { count } from '../domain/words/format';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import LineEntry from './LineEntry.svelte';
  import LineForm from './LineForm.svelte';
  import Palette from './Palette.svelte';
  import StatementDialog from './StatementDialog.svelte';
  import type { WorkOutStore } from './workOutStore.svelte';

  interface Props {
    store: WorkOutStore;
    brief: Brief;
    /** The columns that the first line finds. */
    columns: Column[];
    /** Whose typing this is. */
    keep: string;
    /** The line that is being edited is to be used. */
    onuse: () => void;
    onchange: (brief: Brief) => void;
  }
  let { store, brief, columns, keep, onuse, onchange }: Props = $props();
  const lines = $derived(brief.work_out);
  const editing = $derived(store.editing);
  /** A new line is seen in its place while it is being written. */
  const shown = $derived<{ line: Line | null; index: number }[]>([
    ...lines.map((line, index) => ({ line, index })),
  ]);
  let telling = $state(false);

  function set(work_out: Line[]): void {
    onchange({ ...brief, work_out });
  }

  function move(from: number, to: number): void {
    if (to < 0 || to >= lines.length) return;
    const next = [...lines];
    const [line] = next.splice(from, 1);
    if (line) next.splice(to, 0, line);
    set(next);
  }

  /** Where what is known of a line stands: a new one before it moves it on. */
  const doneAt = (index: number): number => (editing?.isNew && index >= editing.index ? index + 1 : index);
  /** Whether the table has a past: rows of a sheet have none. */
  const dated = $derived(!brief.start || brief.start.tables.some((one) => one.query));
</script>

<section class="line" aria-label="Work out">
  <h3>Work out</h3>
  <div class="min-w-0">
    <p class="muted text-[12.5px]">
      {#if dated}for past snapshots too{/if}
      {#if lines.length && store.done}
        {dated ? '·' : ''} <button class="plain" onclick={() => (telling = true)}>as SQL</button>
      {/if}
    </p>
    <ol class="thread" class:bare={!lines.length && !editing}>
      {#each shown as { line, index } (index)}
        {#if editing?.isNew && editing.index === index}
          {@render fresh()}
        {/if}
        {#if line}
          <LineEntry
            {store}
            {line}
            {index}
            total={lines.length}
            done={store.done?.lines[doneAt(index)] ?? null}
            onedit={(field) => store.edit(index, line, field)}
            onswitch={() => set(lines.map((one, at) => (at === index ? { ...one, off: !one.off } : one)))}
            onmove={(by) => move(index, index + by)}
            oncopy={() => set([...lines.slice(0, index + 1), line, ...lines.slice(index + 1)])}
            ondrop={() => {
              if (store.upTo !== null && store.upTo > index) store.see(null);
              set(lines.filter((_, at) => at !== index));
            }}
            onplace={(from) => move(from, index)}
          />
          {#if editing && !editing.isNew && editing.index === index}{@render form()}{/if}
        {/if}
      {/each}
      {#if editing?.isNew && editing.index >= lines.length}
        {@render fresh()}
      {/if}
    </ol>
    {#if store.problem}<ProblemNote problem={store.problem} />{/if}
    <Palette
      columns={store.columnsBefore(store.upTo ?? lines.length, columns)}
      offers={store.offers.found}
      onopen={() => store.suggest()}
      onbegin={(found) => store.begin(found.kind, found.values, lines.length)}
    />
  </div>
</section>

{#snippet fresh()}
  {@const done = editing ? store.done?.lines[editing.index] : undefined}
  <li class="fresh" data-new-line>
    <span class="knot"></span>
    <p>
      {#if done?.words.length}{#each done.words as word, at (at)}{#if word.field}<b>{word.text}</b
            >{:else}{word.text}{/if}{/each}
      {:else}{editing?.kind.label}{/if}
      {#if done?.state === 'done'}<span class="rows">{count(done.rows)}</span>{/if}
    </p>
  </li>
  {@render form()}
{/snippet}

{#snippet form()}
  {#if editing}
    {#key `${editing.index} ${editing.kind.key} ${editing.isNew}`}
      <li class="form">
        <LineForm
          {store}
          {editing}
          columns={store.columnsBefore(editing.index, columns)}
          {keep}
          ondone={onuse}
        />
      </li>
    {/key}
  {/if}
{/snippet}

<StatementDialog open={telling} done={store.done} onclose={() => (telling = false)} />

<style>
  .line {
    display: grid;
    grid-template-columns: 74px 1fr;
    gap: 12px;
    padding: 7px 0 4px;
    line-height: 21px;
  }
  h3 {
    color: var(--muted);
    font-weight: 600;
    font-size: 13px;
    text-align: right;
    line-height: 21px;
  }
  .thread {
    position: relative;
    margin: 2px 0 0 -16px;
  }
  .thread::before {
    content: '';
    position: absolute;
    left: 6px;
    top: 10px;
    bottom: 6px;
    width: 2px;
    background: var(--damson-edge);
  }
  .thread.bare::before {
    display: none;
  }
  .fresh {
    position: relative;
    padding: 3px 8px 3px 18px;
    margin-right: -16px;
    background: var(--damson-wash);
    font-size: 13.5px;
  }
  .fresh p {
    position: relative;
    padding-right: 52px;
    line-height: 19px;
  }
  .form {
    position: relative;
    margin: 0 -16px 0 -74px;
  }
  .knot {
    position: absolute;
    left: 2px;
    top: 8px;
    width: 10px;
    height: 10px;
    border-radius: 50%;
    background: var(--damson-fill);
  }
  .rows {
    position: absolute;
    right: 8px;
    top: 0;
    color: var(--muted);
    font-family: var(--mono);
    font-size: 12.5px;
  }
</style>
