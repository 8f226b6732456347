<!-- One work-out line: its sentence, the rows behind it, what it says of what it did. A click shows its table. -->
<script lang="ts">
  import type { Line, LineDone } from '../api/client';
  import { count } from '../domain/words/format';
  import { choices, entryOf } from '../domain/choices';
  import LineMenu from './LineMenu.svelte';
  import type { WorkOutStore } from './workOutStore.svelte';

  interface Props {
    store: WorkOutStore;
    line: Line;
    index: number;
    total: number;
    done: LineDone | null;
    onedit: (field: string) => void;
    onswitch: () => void;
    onmove: (by: number) => void;
    oncopy: () => void;
    ondrop: () => void;
    /** Another line is dropped in its place. */
    onplace: (from: number) => void;
  }
  let { store, line, index, total, done, onedit, onswitch, onmove, oncopy, ondrop, onplace }: Props =
    $props();
  const editing = $derived(store.editing?.index === index && !store.editing.isNew);
  const inSight = $derived(
    editing || (!store.editing && (store.look ? store.look.line === index + 1 : store.shown === index + 1)),
  );
  const failed = $derived(done?.state === 'failed');
  const off = $derived(!!line.off);
  let over = $state(false);
  const notes = $derived(
    inSight || failed ? (done?.notes ?? []) : (done?.notes ?? []).filter((note) => note.odd),
  );

  /** Its sentence; what it is, while nothing is known of it. */
  const words = $derived<{ text: string; field: string | null }[]>(
    done?.words.length
      ? done.words.map((word) => ({ text: word.text, field: word.field || null }))
      : [{ text: entryOf(choices().lines, line.do).label, field: '' }],
  );

  const see = (): void => store.see(index + 1 === total ? null : index + 1);

  /** Characters of a chip: a longer one is told in full where it is pointed at. */
  const MOST = 60;
</script>

<!-- svelte-ignore a11y_click_events_have_key_events -->
<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
<li
  class:sight={inSight}
  class:off
  class:failed
  class:over
  data-line={index + 1}
  draggable="true"
  ondragstart={(event) => event.dataTransfer?.setData('application/x-line', String(index))}
  ondragover={(event) => {
    if (!event.dataTransfer?.types.includes('application/x-line')) return;
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(event) => {
    over = false;
    const from = event.dataTransfer?.getData('application/x-line');
    if (from) onplace(Number(from));
    event.preventDefault();
  }}
  onclick={(event) => !(event.target as Element).closest('button, [role=button]') && see()}
>
  <button
    class="knot"
    aria-label="See the table behind line {index + 1}"
    aria-pressed={inSight}
    title="See the table behind this line"
    onclick={see}
  ></button>
  <p>
    <span class="side"
      ><span class="rows"
        >{off ? 'off' : failed ? 'fails' : done?.state === 'done' ? count(done.rows) : ''}</span
      ><LineMenu
        {index}
        {total}
        {off}
        {onswitch}
        {onmove}
        {oncopy}
        {ondrop}
        onedit={() => onedit('')}
      /></span
    >{#each words as word, at (at)}{#if word.field === null}{word.text}{:else}<span
          class="word"
          role="button"
          tabindex="0"
          title={word.text.length > MOST ? word.text : 'Change this'}
          onclick={() => onedit(word.field ?? '')}
          onkeydown={(event) => {
            if (event.key !== 'Enter' && event.key !== ' ') return;
            event.preventDefault();
            onedit(word.field ?? '');
          }}>{word.text.length > MOST ? `${word.text.slice(0, MOST - 1)}…` : word.text}</span
        >{/if}{/each}
  </p>
  {#if failed && done?.problem}
    <p class="problem" role="alert">
      {done.problem.what}
      {done.problem.do} <span class="muted">The table is as it was before this line.</span>
    </p>
  {:else if notes.length && !off}
    <p class="notes">
      {#each notes as note, at (at)}{#if at}<span class="dot" aria-hidden="true">·</span
          >{/if}{#if note.look}<button
            class="plain"
            class:straw={note.odd}
            onclick={() => store.lookAt({ line: index + 1, what: note.look as never, row: 0 })}
            >{note.text}</button
          >{:else}<span class:straw={note.odd}>{note.text}</span>{/if}{/each}
    </p>
  {/if}
</li>

<style>
  .dot {
    margin: 0 4px;
  }
  li {
    position: relative;
    padding: 3px 8px 3px 18px;
    margin-right: -16px;
    font-size: 13.5px;
    cursor: default;
  }
  li.sight {
    background: var(--damson-wash);
  }
  li.over {
    box-shadow: inset 0 2px 0 var(--damson);
  }
  .knot {
    position: absolute;
    left: 2px;
    top: 8px;
    width: 10px;
    height: 10px;
    padding: 0;
    border: 2px solid var(--damson-edge);
    border-radius: 50%;
    background: var(--brief);
    cursor: pointer;
  }
  .knot::after {
    content: '';
    position: absolute;
    inset: -9px;
  }
  li.sight .knot {
    border-color: var(--damson-fill);
    background: var(--damson-fill);
  }
  li.failed .knot {
    border-color: var(--straw-edge, var(--straw));
    background: var(--straw);
  }
  p {
    position: relative;
    line-height: 19px;
    overflow-wrap: anywhere;
  }
  p::after {
    content: '';
    display: block;
    clear: both;
  }
  .off p {
    color: var(--muted);
    text-decoration: line-through;
  }
  .word {
    display: inline;
    padding: 0 4px;
    border-radius: 4px;
    background: var(--damson-wash);
    color: var(--damson);
    border-bottom: 1px solid var(--damson-edge);
    box-decoration-break: clone;
    -webkit-box-decoration-break: clone;
    cursor: pointer;
    text-decoration: inherit;
  }
  .word:hover {
    border-bottom-color: var(--damson);
  }
  .side {
    float: right;
    display: inline-flex;
    align-items: baseline;
    margin-left: 8px;
  }
  .rows {
    color: var(--muted);
    font-family: var(--mono);
    font-size: 12.5px;
  }
  .notes,
  .problem {
    padding-right: 8px;
    font-size: 12.5px;
    line-height: 17px;
    color: var(--muted);
  }
  .notes button {
    text-align: left;
  }
  .notes button.plain {
    font-size: inherit;
  }
  .straw,
  .problem {
    color: var(--straw-ink);
  }
  .problem {
    padding: 2px 6px;
    border-radius: 5px;
    background: var(--straw-wash);
  }
</style>
