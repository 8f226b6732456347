<!-- An answer as a tree, of which only the rows in sight are drawn. -->
<script lang="ts">
  import { writeJson } from '../api/json';
  import type { ListReduction, RecordsGuess, ColumnSpec } from '../api/client';
  import { newColumn } from '../domain/columns';
  import { count, counted } from '../domain/words/format';
  import { EACH, formatPlace, formatPointer, parsePlace, relationOf, type Steps } from '../domain/jsonpath';
  import VirtualList from '../ui/VirtualList.svelte';
  import { actionsOf, columnName, type Rules } from './nodeActions';
  import { isTree, type AnswerTree, type TreeNode } from './tree.svelte';
  import TakeMenu, { type Asked } from './TakeMenu.svelte';

  interface Props {
    tree: AnswerTree;
    /** JSONPath to the records. */
    records: string;
    /** Places of lists that become rows. */
    rowsFor: string[];
    /** What is taken, by its place and where that counts from. */
    taken: Set<string>;
    guesses: RecordsGuess[];
    /** Whether places can be taken from this answer. */
    live: boolean;
    /** The column that is pointed at elsewhere. */
    lit: { place: string; of: string } | null;
    ontake: (column: ColumnSpec) => void;
    onrecords: (guess: Partial<RecordsGuess> & { path: string }) => void;
    onrows: (place: string, on: boolean, keyed: boolean) => void;
    onown: (place: string) => void;
    onpoint: (at: { place: string; of: string } | null) => void;
  }
  let {
    tree,
    records,
    rowsFor,
    taken,
    guesses,
    live,
    lit,
    ontake,
    onrecords,
    onrows,
    onown,
    onpoint,
  }: Props = $props();

  const ROW = 24;
  const own = $props.id();
  let view = $state<HTMLElement>();
  let height = $state(500);
  let active = $state(0);
  let asked = $state<Asked | null>(null);
  let said = $state('');

  const path = $derived(parsePlace(records));
  const total = $derived(tree.rows);
  const hit = $derived(tree.found?.found[tree.found.at] ?? null);

  /** Bring a row into sight. */
  export function show(row: number | null): void {
    if (row === null || !view) return;
    active = row;
    const y = row * ROW;
    if (y < view.scrollTop + ROW || y > view.scrollTop + view.clientHeight - 2 * ROW)
      view.scrollTop = Math.max(0, y - view.clientHeight / 3);
  }

  // The place of a column that is pointed at is brought into sight, where the way to it is open.
  $effect(() => {
    if (!lit || !path) return;
    const place = parsePlace(lit.place);
    if (!place) return;
    const whole = lit.of === 'answer' ? place : [...path, ...place];
    const steps: Steps = whole.map((segment) => (segment === EACH ? 0 : segment));
    const row = tree.rowOfDrawn(steps);
    if (row !== null) show(row);
  });

  const sameSteps = (one: Steps, other: Steps) =>
    one.length === other.length && one.every((step, at) => step === other[at]);

  const rules = $derived<Rules>({
    path,
    rowsFor,
    taken,
    guesses,
    ontake,
    onrecords,
    onrows,
    onask: (found, event) => {
      const box = (event.currentTarget as Element).getBoundingClientRect();
      asked = { ...found, box };
    },
  });

  function takeAsked(how: ListReduction | null): void {
    if (!asked) return;
    const place = asked.isList && how === null ? asked.list : asked.place;
    ontake(newColumn(place, columnName(place, how), { reduction: how }));
  }

  async function copy(text: string): Promise<void> {
    try {
      await navigator.clipboard.writeText(text);
      said = `copied: ${text.slice(0, 80)}`;
    } catch {
      said = 'The browser did not allow copying.';
    }
    setTimeout(() => (said = ''), 2500);
  }

  function keydown(event: KeyboardEvent): void {
    if (event.target !== view) return;
    const node = tree.at(active);
    if (event.key === 'ArrowDown') active = Math.min(total - 1, active + 1);
    else if (event.key === 'ArrowUp') active = Math.max(0, active - 1);
    else if (event.key === 'PageDown') active = Math.min(total - 1, active + Math.floor(height / ROW));
    else if (event.key === 'PageUp') active = Math.max(0, active - Math.floor(height / ROW));
    else if (event.key === 'Home') active = 0;
    else if (event.key === 'End') active = total - 1;
    else if (event.key === 'ArrowRight' && node) {
      if (isTree(node) && !node.open) void tree.toggle(node);
      else active = Math.min(total - 1, active + 1);
    } else if (event.key === 'ArrowLeft' && node) {
      if (node.open) void tree.toggle(node);
      else if (node.parent) active = tree.rowOf(node.parent);
    } else if (event.key === 'Enter' && node) {
      view?.querySelector<HTMLButtonElement>('[data-active] .take')?.click();
    } else return;
    event.preventDefault();
    show(active);
  }

  function sizeWords(node: TreeNode): string {
    const { kind, size, text } = node.info;
    if (kind === 'list')
      return size ? `list of ${count(size)} ${size === 1 ? text.replace(/s$/, '') : text}` : 'empty list';
    return size ? counted(size, 'field') : 'empty object';
  }

  const reasonOf = (node: TreeNode): RecordsGuess | undefined =>
    guesses.find(
      (one) =>
        one.path === formatPlace([...node.steps, EACH]) ||
        (one.rows_for.length > 0 && one.path === formatPlace(node.steps)),
    );
</script>

<VirtualList
  count={total}
  rowHeight={ROW}
  spare={10}
  class="tree"
  role="tree"
  label="The answer"
  activeId={total ? `${own}-${active}` : undefined}
  bind:view
  bind:height
  onkeydown={keydown}
>
  {#snippet row(row, style)}
    {@const node = tree.at(row)}
    {#if node}
      {@const { info, steps } = node}
      {@const relation = relationOf(steps, path)}
      {@const at =
        relation.what === 'field'
          ? { place: relation.place, of: 'record' }
          : relation.what === 'outside'
            ? { place: relation.place, of: 'answer' }
            : null}
      {@const actions = live ? actionsOf(node, relation, rules) : []}
      {@const guess = reasonOf(node)}
      <div
        class="line"
        class:records={relation.what === 'records'}
        class:active={row === active}
        class:lit={!!lit && at?.place === lit.place && at.of === lit.of}
        class:hit={!!hit && sameSteps(hit.steps, steps)}
        id="{own}-{row}"
        data-active={row === active || undefined}
        role="treeitem"
        aria-level={steps.length + 1}
        aria-expanded={isTree(node) ? tree.isOpen(node) : undefined}
        aria-selected={actions.some((action) => action.on)}
        tabindex="-1"
        style="{style}; padding-left: {Math.min(24, steps.length) * 15 + 6}px"
        onmouseenter={() => onpoint(at)}
        onmouseleave={() => onpoint(null)}
      >
        {#if isTree(node)}
          <button
            class="turn"
            tabindex="-1"
            onclick={() => tree.toggle(node)}
            aria-label={tree.isOpen(node) ? 'Close' : 'Open'}>{tree.isOpen(node) ? '▾' : '▸'}</button
          >
        {:else}
          <span class="turn"></span>
        {/if}
        {#if info.name !== null}<span class="key" class:item={typeof info.name === 'number'}
            >{String(info.name).slice(0, 120) || '""'}</span
          >{/if}
        {#if info.kind === 'list' || info.kind === 'object'}
          <span class="size">{sizeWords(node)}</span>
          {#if relation.what === 'records'}<span class="here">the rows</span>{/if}
          {#if guess && relation.what !== 'records' && !path?.length}
            <span class="why">looks like rows: {guess.why}</span>
          {/if}
        {:else}
          <span class="value {info.kind === 'yes/no' ? 'yesno' : info.kind}"
            >{info.kind === 'text' ? writeJson(info.text.slice(0, 300)) : info.text}</span
          >
        {/if}
        {#each actions as action (action.words)}
          <button
            class="take"
            class:near={action.near}
            class:on={action.on}
            tabindex={row === active ? 0 : -1}
            onclick={(event) => {
              // It is another button afterwards; the keyboard stays in the tree.
              if (event.currentTarget === document.activeElement) view?.focus();
              action.act(event);
            }}>{action.words}</button
          >
        {/each}
        <span class="copies">
          <button
            tabindex={row === active ? 0 : -1}
            title="Copy the JSONPath"
            onclick={() => copy(formatPlace(steps))}>JSONPath</button
          >
          <button
            tabindex={row === active ? 0 : -1}
            title="Copy the JSON Pointer"
            onclick={() => copy(formatPointer(steps))}>JSON Pointer</button
          >
        </span>
      </div>
    {:else}
      <div class="line muted" style="{style}; padding-left: 40px">…</div>
    {/if}
  {/snippet}
</VirtualList>
{#if said}<p class="said" role="status">{said}</p>{/if}
{#if asked}
  {@const own = asked}
  <TakeMenu
    asked={own}
    onclose={() => {
      asked = null;
      // The keyboard goes back to the place in the tree.
      view?.focus();
    }}
    onrows={() => onrows(own.list, true, own.keyed)}
    ontake={takeAsked}
    onown={() => onown(own.list)}
  />
{/if}

<style>
  :global(.tree) {
    height: 100%;
    outline-offset: -2px;
    contain: strict;
  }
  .line {
    display: flex;
    align-items: baseline;
    gap: 7px;
    height: 24px;
    padding-right: 8px;
    font-family: var(--mono);
    font-size: 13px;
    line-height: 24px;
    white-space: nowrap;
    overflow: hidden;
  }
  .line:hover {
    background: var(--band);
  }
  .line.records,
  .line.lit {
    background: var(--damson-wash);
  }
  .line.hit {
    background: var(--straw-wash);
    box-shadow: inset 3px 0 0 var(--straw);
  }
  :global(.tree:focus) .line.active {
    box-shadow: inset 0 0 0 1.5px var(--damson-edge);
  }
  .turn {
    width: 14px;
    flex: none;
    color: var(--muted);
    cursor: pointer;
    text-align: center;
  }
  span.turn {
    cursor: default;
  }
  .key {
    flex: none;
    max-width: 40ch;
    overflow: hidden;
    text-overflow: ellipsis;
    font-weight: 600;
  }
  .key.item {
    color: var(--muted);
    font-weight: 400;
  }
  .size,
  .why,
  .here,
  .take,
  .copies {
    font-family: 'Atkinson Hyperlegible Next Variable', sans-serif;
  }
  .size {
    flex: none;
    color: var(--muted);
  }
  .why {
    flex: none;
    padding: 0 6px;
    border-radius: 4px;
    background: var(--straw-wash);
    line-height: 19px;
  }
  .value {
    flex: 0 1 auto;
    min-width: 5ch;
    color: var(--link);
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .value.text {
    color: var(--ink);
  }
  .value.null {
    color: var(--muted);
    font-style: italic;
  }
  .take {
    flex: none;
    opacity: 0;
    color: var(--damson);
    text-decoration: underline;
    text-underline-offset: 2px;
    cursor: pointer;
  }
  .line:hover .take,
  .line.active .take,
  .take:focus-visible,
  .take.near,
  .take.on {
    opacity: 1;
  }
  .take.on {
    text-decoration: none;
  }
  .here {
    flex: none;
    color: var(--damson);
    font-weight: 600;
  }
  .copies {
    display: none;
    flex: none;
    gap: 7px;
    margin-left: auto;
    font-size: 12px;
    color: var(--muted);
  }
  .line:hover .copies,
  .line.active:focus-within .copies,
  :global(.tree:focus) .line.active .copies {
    display: inline-flex;
  }
  .copies button {
    cursor: pointer;
  }
  .copies button:hover {
    color: var(--damson);
    text-decoration: underline;
  }
  .said {
    position: absolute;
    left: 14px;
    bottom: 12px;
    z-index: 4;
    max-width: 90%;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    padding: 3px 10px;
    border: 1px solid var(--line);
    border-radius: 7px;
    background: var(--paper);
    box-shadow: var(--shadow);
    font-size: 13px;
  }
</style>
