<!-- An SQL expression: completed by columns and functions, its mistake marked, its first values beside it. -->
<script lang="ts">
  import {
    autocompletion,
    closeBrackets,
    completionKeymap,
    type CompletionContext,
  } from '@codemirror/autocomplete';
  import { defaultKeymap, history, historyKeymap } from '@codemirror/commands';
  import { SQLite } from '@codemirror/lang-sql';
  import { HighlightStyle, syntaxHighlighting } from '@codemirror/language';
  import { setDiagnostics } from '@codemirror/lint';
  import { EditorState } from '@codemirror/state';
  import { EditorView, keymap, placeholder } from '@codemirror/view';
  import { tags } from '@lezer/highlight';
  import { onMount } from 'svelte';
  import { api, ask, type Cell, type Column, type Sample } from '../../api/client';
  import { Latest } from '../../api/latest';
  import { choices } from '../../domain/choices';
  import { cellText } from '../../domain/words/format';
  import { kindWords } from '../../domain/kinds';
  import { quoted } from '../palette';
  import type { WorkOutStore } from '../workOutStore.svelte';

  interface Props {
    label: string;
    columns: Column[];
    store: WorkOutStore;
    /** The place of the line: what is before it is what the expression reads. */
    index: number;
    value: string;
    /** The place of a mistake. */
    mark: { start: number; end: number } | null;
    onchange: (value: string) => void;
    onsubmit: () => void;
  }
  let { label, columns, store, index, value, mark, onchange, onsubmit }: Props = $props();
  let host = $state<HTMLElement>();
  let view: EditorView | undefined;
  let sample = $state.raw<Sample | null>(null);
  let listing = $state(false);

  const looks = new Latest((expression: string) => {
    const asked = store.asked;
    const body = {
      snapshot: asked?.table.snapshot ?? null,
      preview: asked?.table.preview ?? null,
      query_id: asked?.table.query_id ?? null,
      starts_from: asked?.table.starts_from ?? null,
      lines: (asked?.lines.slice(0, index) ?? []) as never,
      expression,
      logic: false,
    };
    return ask(api.POST('/api/work-out/sample', { body }));
  }, 90);

  $effect(() => {
    const expression = value;
    void store.asked?.table;
    if (!expression.trim()) {
      sample = null;
      return;
    }
    looks.ask(expression).then(
      (found) => found && (sample = found.value),
      () => undefined,
    );
  });

  const problem = $derived(sample?.problem ?? null);
  const wrong = $derived(
    sample?.problem && sample.start !== null ? { start: sample.start, end: sample.end ?? 0 } : mark,
  );
  $effect(() => {
    const place = wrong;
    if (!view) return;
    const end = view.state.doc.length;
    const from = Math.max(0, Math.min(place?.start ?? 0, end > 0 ? end - 1 : 0));
    const to = Math.min(Math.max(place?.end ?? 0, from + 1), end);
    const found =
      place && end ? [{ from, to, severity: 'error' as const, message: sample?.problem?.what ?? '' }] : [];
    view.dispatch(setDiagnostics(view.state, found));
  });

  function complete(context: CompletionContext) {
    const word = context.matchBefore(/"[^"]*|[\p{L}_][\p{L}\p{N}_]*/u);
    if (!word && !context.explicit) return null;
    return {
      from: word?.from ?? context.pos,
      options: [
        ...columns.map((one) => ({
          label: quoted(one.name),
          displayLabel: one.name,
          detail: kindWords(one.kind),
          type: 'variable',
          boost: 2,
        })),
        ...choices().functions.map((one) => ({
          label: one.name,
          apply: (own: EditorView, _: unknown, from: number, to: number) => {
            own.dispatch({
              changes: { from, to, insert: `${one.name}()` },
              selection: { anchor: from + one.name.length + 1 },
            });
          },
          detail: one.takes,
          info: one.does,
          type: 'function',
        })),
        ...[
          'CASE',
          'WHEN',
          'THEN',
          'ELSE',
          'END',
          'AND',
          'OR',
          'NOT',
          'IN',
          'BETWEEN',
          'LIKE',
          'IS',
          'NULL',
        ].map((keyword) => ({ label: keyword, type: 'keyword', boost: -1 })),
      ],
    };
  }

  const colours = HighlightStyle.define([
    { tag: tags.keyword, color: 'var(--damson)', fontWeight: '600' },
    { tag: tags.string, color: 'var(--link)' },
    { tag: tags.number, color: 'var(--link)' },
  ]);

  onMount(() => {
    view = new EditorView({
      parent: host as HTMLElement,
      state: EditorState.create({
        doc: value,
        extensions: [
          SQLite.language,
          syntaxHighlighting(colours),
          history(),
          closeBrackets(),
          autocompletion({ override: [complete], icons: false }),
          keymap.of([
            {
              key: 'Mod-Enter',
              run: () => {
                onsubmit();
                return true;
              },
            },
            ...completionKeymap,
            ...historyKeymap,
            ...defaultKeymap,
          ]),
          placeholder('delay / 60.0'),
          EditorView.lineWrapping,
          EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'false' }),
          EditorView.updateListener.of((update) => {
            if (update.docChanged) onchange(update.state.doc.toString());
          }),
        ],
      }),
    });
    return () => view?.destroy();
  });

  // It was changed from elsewhere.
  $effect(() => {
    const text = value;
    if (view && view.state.doc.toString() !== text)
      view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: text } });
  });

  function insert(text: string, back = 0): void {
    if (!view) return;
    const { from, to } = view.state.selection.main;
    view.dispatch({ changes: { from, to, insert: text }, selection: { anchor: from + text.length - back } });
    view.focus();
  }

  const shown = (cell: unknown): string => {
    const text = cellText((cell ?? null) as Cell, { kind: 'text' } as Column);
    return text === '' ? 'blank' : text;
  };
  const groups = $derived([...new Set(choices().functions.map((one) => one.group))]);
</script>

<div>
  <span class="label">{label}</span>
  <div class="editor" bind:this={host}></div>
  {#if problem}
    <p class="problem" role="alert">{problem.what} {problem.do}</p>
  {:else if sample?.values.length}
    <table class="sample" aria-label="The first values">
      <tbody>
        {#each sample.values.slice(0, 4) as one, at (at)}
          <tr>
            {#each sample.rows[at] ?? [] as cell, place (place)}
              <td class="muted">{sample.inputs[place]} {shown(cell)}</td>
            {/each}
            <td><b>{shown(one)}</b></td>
          </tr>
        {/each}
      </tbody>
    </table>
  {/if}
  <p class="help">
    <span class="muted"
      >Columns stand by name, in double quotes where they have a space; texts in single quotes.</span
    >
    <button type="button" class="plain" onclick={() => (listing = !listing)}
      >{listing ? 'hide the functions' : 'columns and functions'}</button
    >
  </p>
  {#if listing}
    <div class="listing">
      <b>Columns</b>
      <p>
        {#each columns as one (one.name)}
          <button type="button" class="plain" onclick={() => insert(quoted(one.name))}>{one.name}</button>
        {/each}
      </p>
      {#each groups as group (group)}
        <b>{group}</b>
        {#each choices().functions.filter((one) => one.group === group) as one (one.name)}
          <p>
            <button type="button" class="plain mono" onclick={() => insert(`${one.name}()`, 1)}
              >{one.name}({one.takes})</button
            >
            <span class="muted">{one.does}</span>
          </p>
        {/each}
      {/each}
    </div>
  {/if}
</div>

<style>
  .editor {
    border: 1px solid var(--line);
    border-radius: 6px;
    background: var(--paper);
  }
  .editor:focus-within {
    outline: 2px solid var(--damson);
    outline-offset: -1px;
  }
  .editor :global(.cm-editor) {
    outline: none;
    font-size: 13px;
  }
  .editor :global(.cm-content) {
    font-family: var(--mono);
    min-height: 29px;
    padding: 5px 4px;
    caret-color: var(--ink);
  }
  .editor :global(.cm-cursor) {
    border-left-color: var(--ink);
  }
  .editor :global(.cm-lintRange-error) {
    background: var(--straw);
    text-decoration: underline wavy var(--straw-ink);
  }
  .editor :global(.cm-tooltip) {
    border: 1px solid var(--line);
    border-radius: 7px;
    background: var(--paper);
    box-shadow: var(--shadow);
    color: var(--ink);
  }
  .editor :global(.cm-tooltip-autocomplete > ul > li[aria-selected]) {
    background: var(--damson-wash);
    color: var(--damson);
  }
  .editor :global(.cm-tooltip.cm-completionInfo) {
    padding: 4px 8px;
    font-size: 12.5px;
  }
  .sample {
    margin-top: 5px;
    font-size: 12.5px;
  }
  .sample td {
    padding: 0 12px 0 0;
    max-width: 190px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .problem {
    margin-top: 5px;
    color: var(--straw-ink);
    font-size: 12.5px;
    line-height: 17px;
  }
  .help {
    margin-top: 4px;
    font-size: 12px;
    line-height: 16px;
  }
  .listing {
    max-height: 190px;
    overflow: auto;
    margin-top: 5px;
    padding: 6px 9px;
    border-radius: 6px;
    background: var(--band);
    font-size: 12.5px;
    line-height: 18px;
  }
  .listing b {
    display: block;
    margin-top: 3px;
  }
  .mono {
    font-family: var(--mono);
    font-size: 12px;
  }
</style>
