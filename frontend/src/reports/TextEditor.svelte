<!-- A text that is written: figures stand in it as what they are, and typing offers more. -->
<script lang="ts">
  import {
    autocompletion,
    completionKeymap,
    type Completion,
    type CompletionContext,
  } from '@codemirror/autocomplete';
  import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
  import { EditorState } from '@codemirror/state';
  import { EditorView, keymap, placeholder } from '@codemirror/view';
  import { onMount, untrack } from 'svelte';
  import type { ReportFigure } from '../api/client';
  import { chips, NO_FACTS, setFacts, type Facts } from './chips';
  import FigureDialog from './FigureDialog.svelte';
  import type { ReportStore } from './reportStore.svelte';

  interface Props {
    store: ReportStore;
    value: string;
    onchange: (text: string) => void;
    ondone: () => void;
  }
  let { store, value, onchange, ondone }: Props = $props();
  let host = $state<HTMLElement>();
  let view: EditorView | undefined;
  /** The figure that is changed; an empty name for a new one. */
  let opened = $state<string | null>(null);

  const dayOf = (iso: string): string =>
    iso ? new Date(iso).toLocaleDateString('en-GB', { day: 'numeric', month: 'long' }) : '';
  const facts = $derived<Facts>(
    store.read
      ? {
          figures: new Map(store.read.figures.map((one) => [one.name.toLowerCase(), one])),
          asOf: dayOf(store.read.as_of),
          against: dayOf(store.read.against),
        }
      : NO_FACTS,
  );
  $effect(() => {
    const now = facts;
    view?.dispatch({ effects: setFacts.of(now) });
  });

  function put(own: EditorView, text: string, from: number, to: number): void {
    own.dispatch({ changes: { from, to, insert: text }, selection: { anchor: from + text.length } });
  }

  /** The figures of the report with what can be said of them, and those that its queries offer. */
  function options(): Completion[] {
    const own: Completion[] = facts.figures.size
      ? [...facts.figures.values()].flatMap((one) => [
          entry(one.name, one.words || one.why, 'in this report', 3),
          ...Object.entries(one.parts).map(([part, words]) =>
            entry(`${one.name}: ${part}`, words, 'in this report', 2),
          ),
        ])
      : [];
    const dates = [
      entry('as of', facts.asOf, 'in this report', 0),
      ...(facts.against ? [entry('against', facts.against, 'in this report', 0)] : []),
    ];
    const offered = Object.values(store.offers).flatMap((offers) =>
      offers.figures
        .filter((one) => !facts.figures.has(one.figure.name.toLowerCase()))
        .map((one) => entry(one.figure.name, one.words, offers.name, 1, one.figure)),
    );
    return [...own, ...dates, ...offered];
  }
  const entry = (
    label: string,
    detail: string,
    section: string,
    boost: number,
    figure?: ReportFigure,
  ): Completion => ({
    label,
    detail,
    section: { name: section, rank: section === 'in this report' ? 0 : 1 },
    boost,
    apply: (own, _, from, to) => {
      if (figure) store.addFigure(figure);
      const before = own.state.sliceDoc(Math.max(0, from - 1), from) === '{' ? 1 : 0;
      const after = own.state.sliceDoc(to, to + 1) === '}' ? 1 : 0;
      put(own, `{${label}}`, from - before, to + after);
    },
  });

  /** What fits a word: what begins with it first, then what has a word that does. */
  function fitting(word: string): Completion[] {
    const typed = word.trim().toLowerCase();
    const rank = (label: string): number => {
      const lower = label.toLowerCase();
      if (lower.startsWith(typed)) return 2;
      return lower.split(/[\s,:]+/).some((one) => one.startsWith(typed)) ||
        (typed.length > 3 && lower.includes(typed))
        ? 1
        : 0;
    };
    return options()
      .map((one) => ({ ...one, boost: (one.boost ?? 0) + rank(one.label) * 10 }))
      .filter((one) => !typed || one.boost >= 10)
      .sort((a, b) => b.boost - a.boost);
  }

  function complete(context: CompletionContext) {
    const braced = context.matchBefore(/\{[^{}\n]*/);
    const word = braced ? null : context.matchBefore(/[\p{L}\p{N}_]{3,}/u);
    if (!braced && !word && !context.explicit) return null;
    const found = fitting(braced ? braced.text.slice(1) : (word?.text ?? ''));
    if (!found.length) return null;
    return { from: braced ? braced.from + 1 : (word?.from ?? context.pos), options: found, filter: false };
  }

  onMount(() => {
    view = new EditorView({
      parent: host as HTMLElement,
      state: EditorState.create({
        doc: value,
        selection: { anchor: value.length },
        extensions: [
          chips(
            untrack(() => facts),
            (name) => (opened = name),
          ),
          history(),
          autocompletion({ override: [complete], icons: false, maxRenderedOptions: 60 }),
          keymap.of([
            ...completionKeymap,
            {
              key: 'Escape',
              run: () => {
                ondone();
                return true;
              },
            },
            {
              key: 'Mod-Enter',
              run: () => {
                ondone();
                return true;
              },
            },
            ...historyKeymap,
            ...defaultKeymap,
          ]),
          placeholder('Write. Type { or a word such as “late” for a live figure.'),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ 'aria-label': 'Text', spellcheck: 'true' }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) onchange(update.state.doc.toString());
          }),
        ],
      }),
    });
    view.focus();
    return () => view?.destroy();
  });

  // It was changed from elsewhere: a figure has another name, or something was undone.
  $effect(() => {
    const text = value;
    if (view && view.state.doc.toString() !== text)
      view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text } });
  });

  function insert(text: string): void {
    if (!view) return;
    const { from, to } = view.state.selection.main;
    put(view, text, from, to);
    view.focus();
  }

  /** Show what is selected only when something holds. */
  function onlyWhen(): void {
    if (!view) return;
    const { from, to } = view.state.selection.main;
    const chosen = view.state.sliceDoc(from, to) || 'This sentence stands only when it holds.';
    const name = [...facts.figures.values()].find((one) => !one.why)?.name ?? 'a figure';
    put(view, `{when ${name} above 0}${chosen}{end}`, from, to);
    view.focus();
  }
</script>

<div class="editor" bind:this={host}></div>
<div class="below not-printed">
  <button class="press small" onclick={() => (opened = '')}>A figure…</button>
  <button class="press small" onclick={onlyWhen}>Only when…</button>
  <span class="muted"
    >Typing offers figures. <code>**bold**</code>, <code># heading</code>, <code>- list</code>, a blank line
    between paragraphs.</span
  >
  <button class="press small main ml-auto" onclick={ondone}>Done</button>
</div>
{#if opened !== null}
  <FigureDialog
    {store}
    name={opened}
    onclose={() => {
      opened = null;
      view?.focus();
    }}
    onadded={(name) => insert(`{${name}}`)}
  />
{/if}

<style>
  .editor {
    border: 1px solid var(--damson-edge);
    border-radius: 7px;
    background: var(--paper);
  }
  .editor:focus-within {
    outline: 2px solid var(--damson);
    outline-offset: -1px;
  }
  .editor :global(.cm-editor) {
    outline: none;
  }
  .editor :global(.cm-scroller) {
    font-family: inherit;
    line-height: 26px;
  }
  .editor :global(.cm-content) {
    min-height: 60px;
    padding: 8px 10px;
    max-width: 92ch;
    font-family: inherit;
    font-size: 15.5px;
    line-height: 26px;
    caret-color: var(--ink);
  }
  .editor :global(.cm-cursor) {
    border-left-color: var(--ink);
  }
  .editor :global(.live) {
    cursor: pointer;
  }
  .editor :global(.rule) {
    padding: 0 6px;
    border: 1px dashed var(--faint);
    border-radius: 5px;
    color: var(--muted);
    font-size: 12.5px;
  }
  .editor :global(.cm-tooltip) {
    border: 1px solid var(--line);
    border-radius: 7px;
    background: var(--paper);
    box-shadow: var(--shadow);
    color: var(--ink);
  }
  .editor :global(.cm-tooltip-autocomplete > ul) {
    max-height: 240px;
    font-family: inherit;
    font-size: 13.5px;
  }
  .editor :global(.cm-tooltip-autocomplete > ul > li) {
    padding: 2px 10px;
  }
  .editor :global(.cm-tooltip-autocomplete > ul > li[aria-selected]) {
    background: var(--damson-wash);
    color: var(--damson);
  }
  .editor :global(.cm-completionDetail) {
    margin-left: 12px;
    color: var(--muted);
    font-style: normal;
  }
  .editor :global(completion-section) {
    padding: 3px 10px;
    border-bottom: 1px solid var(--hair);
    opacity: 1;
    color: var(--muted);
    font-size: 12px;
  }
  .below {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 8px;
    padding: 7px 0;
    font-size: 12.5px;
    line-height: 17px;
  }
</style>
