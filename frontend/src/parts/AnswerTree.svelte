<!-- An answer as a tree: counts on lists, and a click takes a list's items or a field. -->
<script lang="ts">
  import type { Node } from '../lib/api/client';
  import { count, counted } from '../lib/format';
  import Self from './AnswerTree.svelte';

  interface Props {
    node: Node;
    name?: string;
    place?: string;
    depth?: number;
    /** JSONPath of the list whose items are the records, without [*]. */
    records: string;
    /** Places of the fields that are columns, from the record. */
    taken: Set<string>;
    ontake: (place: string) => void;
    onrecords: (place: string) => void;
  }
  let { node, name = '', place = '$', depth = 0, records, taken, ontake, onrecords }: Props = $props();

  const kind = $derived(
    Array.isArray(node) ? (node[0] as 'list' | 'object' | 'number') : node === null ? 'null' : typeof node,
  );
  const isTree = $derived(kind === 'list' || kind === 'object');
  const children = $derived.by((): [string, string, Node][] => {
    if (kind === 'object')
      return (node as ['object', number, [string, Node][]])[2].map(([key, inner]) => [key, step(key), inner]);
    if (kind === 'list')
      return (node as ['list', number, Node[]])[2].map((inner, at) => [String(at), `[${at}]`, inner]);
    return [];
  });
  const size = $derived(isTree ? (node as ['list', number, Node[]])[1] : 0);
  // svelte-ignore state_referenced_locally
  let open = $state(depth < 2 || (depth < 5 && place.startsWith(records + '[0]')));
  let most = $state(10);

  function step(key: string): string {
    return /^[A-Za-z_\u0080-\uffff][A-Za-z0-9_\u0080-\uffff]*$/.test(key)
      ? `.${key}`
      : `['${key.replaceAll('\\', '\\\\').replaceAll("'", "\\'")}']`;
  }

  /** The place within the record, when this node lies in the records' list. */
  const inRecord = $derived.by(() => {
    if (records !== '$' && !place.startsWith(records)) return null;
    const rest = place.slice(records.length);
    const match = /^\[\d+\](.*)$/.exec(rest);
    return match && match[1] ? `$${match[1]}` : null;
  });
  const isTaken = $derived(inRecord !== null && taken.has(inRecord));
  const isRecords = $derived(kind === 'list' && place === records);

  function sample(value: Node): string {
    if (value === null) return 'null';
    if (Array.isArray(value)) return value[0] === 'number' ? String(value[1]) : '';
    return JSON.stringify(value);
  }
</script>

<div
  class="node"
  style="--depth: {depth}"
  role="treeitem"
  aria-expanded={isTree ? open : undefined}
  aria-selected={isTaken || isRecords}
>
  <div class="line" class:records={isRecords}>
    {#if isTree}
      <button class="turn" onclick={() => (open = !open)} aria-label={open ? 'Close' : 'Open'}
        >{open ? '▾' : '▸'}</button
      >
    {:else}
      <span class="turn"></span>
    {/if}
    {#if name}<span class="key">{name}</span>{/if}
    {#if kind === 'list'}
      <span class="size">list of {count(size)}</span>
      {#if isRecords}
        <span class="here">the rows</span>
      {:else}
        <button class="take" class:near={depth < 3} onclick={() => onrecords(place)}
          >take its items as rows</button
        >
      {/if}
    {:else if kind === 'object'}
      <span class="size">{counted(size, 'field')}</span>
    {:else}
      <span class="value {kind}">{sample(node)}</span>
      {#if inRecord !== null}
        <button class="take" class:on={isTaken} onclick={() => ontake(inRecord)}>
          {isTaken ? '✓ a column' : 'make it a column'}
        </button>
      {/if}
    {/if}
  </div>
  {#if isTree && open}
    <div role="group">
      {#each children.slice(0, kind === 'list' ? most : children.length) as [key, part, inner] (part)}
        <Self
          node={inner}
          name={key}
          place={place + part}
          depth={depth + 1}
          {records}
          {taken}
          {ontake}
          {onrecords}
        />
      {/each}
      {#if kind === 'list' && most < children.length}
        <button class="plain more" onclick={() => (most += 50)}
          >{count(children.length - most)} more items here</button
        >
      {:else if size > children.length}
        <span class="more muted">{count(size - children.length)} more are not shown</span>
      {/if}
    </div>
  {/if}
</div>

<style>
  .line {
    display: flex;
    align-items: baseline;
    gap: 7px;
    padding: 1px 8px 1px calc(var(--depth) * 17px + 6px);
    font-family: var(--mono);
    font-size: 13px;
    line-height: 22px;
    white-space: nowrap;
  }
  .line:hover {
    background: var(--band);
  }
  .line.records {
    background: var(--damson-wash);
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
    font-weight: 600;
  }
  .size {
    color: var(--muted);
    font-family: 'Atkinson Hyperlegible Next Variable', sans-serif;
  }
  .value {
    color: var(--link);
    overflow: hidden;
    text-overflow: ellipsis;
    max-width: 60ch;
  }
  .value.string {
    color: var(--ink);
  }
  .value.null {
    color: var(--muted);
    font-style: italic;
  }
  .take {
    opacity: 0;
    color: var(--damson);
    font-family: 'Atkinson Hyperlegible Next Variable', sans-serif;
    text-decoration: underline;
    text-underline-offset: 2px;
    cursor: pointer;
  }
  .line:hover .take,
  .take:focus-visible,
  .take.near,
  .take.on {
    opacity: 1;
  }
  .take.on {
    text-decoration: none;
  }
  .here {
    font-family: 'Atkinson Hyperlegible Next Variable', sans-serif;
    color: var(--damson);
    font-weight: 600;
  }
  .more {
    margin-left: calc(var(--depth) * 17px + 44px);
    font-size: 13px;
  }
</style>
