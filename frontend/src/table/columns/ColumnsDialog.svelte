<!-- All columns of a table and all fields that are not taken: choose, order, hide, rename, search. -->
<script lang="ts">
  import ArrowDown from '@lucide/svelte/icons/arrow-down';
  import ArrowUp from '@lucide/svelte/icons/arrow-up';
  import Eye from '@lucide/svelte/icons/eye';
  import EyeOff from '@lucide/svelte/icons/eye-off';
  import GripVertical from '@lucide/svelte/icons/grip-vertical';
  import { tick } from 'svelte';
  import type { Brief, Column, Kind } from '../../api/client';
  import { chosenColumns, newColumn, withColumns, type Chosen } from '../../domain/columns';
  import { count, counted } from '../../domain/words/format';
  import { nameOf } from '../../domain/jsonpath';
  import { kindWords, offeredKinds } from '../../domain/kinds';
  import Dialog from '../../ui/Dialog.svelte';
  import VirtualList from '../../ui/VirtualList.svelte';

  interface Props {
    open: boolean;
    brief: Brief;
    /** The columns of the table now. */
    columns: Column[];
    /** Places that are not taken. */
    fresh: string[];
    rows: number;
    onchange: (brief: Brief) => void;
    onclose: () => void;
  }
  let { open, brief, columns, fresh, rows, onchange, onclose }: Props = $props();

  type Line = Chosen & {
    on: boolean;
    id: number;
    /** The number of its tick, where ticks give the order. */ pick?: number;
  };
  const ROW = 32;
  let lines = $state<Line[]>([]);
  let search = $state('');
  let only = $state<'all' | 'taken' | 'left'>('all');
  let dragged = $state<number | null>(null);
  let target = $state<number | null>(null);
  let problem = $state('');

  $effect(() => {
    if (!open) return;
    search = '';
    only = 'all';
    active = 0;
    problem = '';
    const taken = chosenColumns(brief, columns).map((one) => ({ ...one, on: true }));
    const known = new Set(taken.map((one) => one.place));
    const rest = fresh
      .filter((place) => !known.has(place))
      .map((place) => ({ ...newColumn(place, nameOf(place)), on: false }));
    lines = [...taken, ...rest].map((one, id) => ({ ...one, id }));
  });

  const kindOf = $derived(new Map(columns.map((column) => [column.name, column])));
  const seen = $derived(
    lines.filter(
      (one) =>
        (only === 'all' || one.on === (only === 'taken')) &&
        `${one.name} ${one.place}`.toLowerCase().includes(search.trim().toLowerCase()),
    ),
  );
  const taken = $derived(lines.filter((one) => one.on).length);

  /** After all were left, the order of the ticks is that of the columns. */
  const picking = $derived(lines.some((one) => one.pick !== undefined));

  /** Take a line, or leave it. */
  function mark(line: Line, on: boolean): void {
    if (on && (picking || !taken)) line.pick = Math.max(0, ...lines.map((one) => one.pick ?? 0)) + 1;
    else if (!on && line.pick !== undefined) {
      for (const one of lines) if (one.pick !== undefined && one.pick > line.pick) one.pick -= 1;
      line.pick = undefined;
    }
    line.on = on;
  }

  /** The lines in the order of their ticks, which they have from then on. */
  function settle(): void {
    if (!picking) return;
    const order = (one: Line): number => one.pick ?? Infinity;
    lines = [...lines].sort((a, b) => (order(a) === order(b) ? 0 : order(a) - order(b)));
    for (const one of lines) one.pick = undefined;
  }

  function move(line: Line, before: Line | undefined): void {
    settle();
    const others = lines.filter((one) => one !== line);
    const at = before ? others.indexOf(before) : others.length;
    others.splice(at < 0 ? others.length : at, 0, line);
    lines = others;
  }

  function step(line: Line, by: number): void {
    const at = seen.indexOf(line);
    const other = seen[at + by];
    if (!other) return;
    move(line, by < 0 ? other : lines[lines.indexOf(other) + 1]);
  }

  /** The line that the keyboard is on: Tab goes to its fields, the arrows to the other lines. */
  let active = $state(0);
  let view = $state<HTMLElement>();

  async function goTo(at: number): Promise<void> {
    active = Math.max(0, Math.min(seen.length - 1, at));
    if (!view) return;
    const y = active * ROW;
    if (y < view.scrollTop) view.scrollTop = y;
    if (y + ROW > view.scrollTop + view.clientHeight) view.scrollTop = y + ROW - view.clientHeight;
    await tick();
    await new Promise(requestAnimationFrame);
    view.querySelector<HTMLElement>('[data-active] input[type=checkbox]')?.focus();
  }

  function keydown(event: KeyboardEvent): void {
    const target = event.target as HTMLElement;
    if (!target.matches('input[type=checkbox]')) return;
    const line = seen[active];
    const page = Math.max(1, Math.floor((view?.clientHeight ?? 0) / ROW) - 1);
    const by = { ArrowDown: 1, ArrowUp: -1, PageDown: page, PageUp: -page }[event.key];
    if (by !== undefined && event.altKey && line) {
      step(line, by);
      void goTo(seen.findIndex((one) => one.id === line.id));
    } else if (by !== undefined) void goTo(active + by);
    else if (event.key === 'Home') void goTo(0);
    else if (event.key === 'End') void goTo(seen.length - 1);
    else if (event.key === 'Enter' && taken) done();
    else return;
    event.preventDefault();
  }

  function done(): void {
    settle();
    const chosen = lines.filter((one) => one.on);
    const names: string[] = [];
    for (const one of chosen) {
      if (!one.name.trim()) problem = `The column at ${one.place} has no name.`;
      else if (names.includes(one.name)) problem = `Two columns are named “${one.name}”.`;
      else {
        names.push(one.name);
        continue;
      }
      return;
    }
    const plain = chosen.map((one) => {
      const { on, id, pick, ...column } = one;
      void [on, id, pick];
      return column;
    });
    onchange(withColumns(brief, plain));
    onclose();
  }

  const kindShown = (name: string | null | undefined): string => {
    const kind = name ? kindOf.get(name)?.kind : undefined;
    return kind ? kindWords(kind) : '';
  };

  function share(line: Line): number | null {
    const column = line.was ? kindOf.get(line.was) : undefined;
    if (!column || column.filled === null || column.filled === undefined || !rows) return null;
    return column.filled / rows;
  }
</script>

<Dialog title="Columns" {open} {onclose} width={860}>
  <div class="mb-2 flex flex-wrap items-center gap-2">
    <input class="field" style="width: 260px" placeholder="Find a column or field…" bind:value={search} />
    <select class="field" style="width: 150px" bind:value={only} aria-label="Which ones">
      <option value="all">all {count(lines.length)}</option>
      <option value="taken">the {count(taken)} taken</option>
      <option value="left">the {count(lines.length - taken)} not taken</option>
    </select>
    <span class="ml-auto"></span>
    <button class="press small" onclick={() => seen.forEach((one) => (one.on = true))}
      >Take these {count(seen.length)}</button
    >
    <button
      class="press small"
      onclick={() => {
        seen.forEach((one) => mark(one, false));
        void goTo(0);
      }}>Take none of these</button
    >
  </div>
  <VirtualList
    count={seen.length}
    rowHeight={ROW}
    class="columns-list"
    role="list"
    label="Columns and fields"
    keyOf={(at) => seen[at]?.id}
    bind:view
    onkey={keydown}
  >
    {#snippet row(at, style)}
      {@const line = seen[at]}
      {#if line}
        {@const filled = share(line)}
        {@const tabindex = at === active ? 0 : -1}
        <div
          class="line"
          class:off={!line.on}
          class:target={target === line.id && dragged !== line.id}
          role="listitem"
          data-active={at === active || undefined}
          onfocusin={() => (active = at)}
          {style}
          ondragover={(event) => {
            event.preventDefault();
            target = line.id;
          }}
          ondrop={(event) => {
            event.preventDefault();
            const own = lines.find((one) => one.id === dragged);
            if (own && own !== line) move(own, line);
            dragged = target = null;
          }}
        >
          <!-- svelte-ignore a11y_no_static_element_interactions -->
          {#if line.pick}<span class="pick" aria-hidden="true">{line.pick}</span>{:else}<span
              class="grip"
              draggable="true"
              ondragstart={() => (dragged = line.id)}
              ondragend={() => (dragged = target = null)}><GripVertical size={14} /></span
            >{/if}
          <input
            type="checkbox"
            checked={line.on}
            onchange={(event) => mark(line, event.currentTarget.checked)}
            aria-label="Take {line.place}{line.pick ? `, column ${line.pick}` : ''}"
            {tabindex}
            data-first={at === 0 || undefined}
          />
          <input class="field name" bind:value={line.name} aria-label="Name of {line.place}" {tabindex} />
          <code class="muted truncate" title={line.place}
            >{line.of === 'record' ? '' : `${line.of} `}{line.place}</code
          >
          <select
            class="field kind"
            {tabindex}
            value={line.kind ?? ''}
            onchange={(event) => {
              line.kind = (event.currentTarget.value || null) as Kind | null;
              line.reads = null;
            }}
            aria-label="Kind of {line.name}"
          >
            <option value="">{kindShown(line.was) || 'as it comes'}{line.kind ? ', as it comes' : ''}</option>
            {#each offeredKinds() as one (one.name)}<option value={one.name}>{one.label}</option>{/each}
          </select>
          <span
            class="fill"
            title={filled === null ? '' : `${Math.round(filled * 100)} % of the rows have a value`}
          >
            {#if filled !== null}<i style="width: {filled * 100}%"></i>{/if}
          </span>
          <button
            {tabindex}
            aria-label={line.hidden ? 'Show it' : 'Hide it'}
            title={line.hidden ? 'Hidden: kept, but neither shown nor exported' : 'Hide it'}
            onclick={() => (line.hidden = !line.hidden)}
          >
            {#if line.hidden}<EyeOff size={14} />{:else}<Eye size={14} />{/if}
          </button>
          <button {tabindex} aria-label="Up" onclick={() => step(line, -1)}><ArrowUp size={14} /></button>
          <button {tabindex} aria-label="Down" onclick={() => step(line, 1)}><ArrowDown size={14} /></button>
        </div>
      {/if}
    {/snippet}
    {#snippet empty()}
      <p class="muted p-4">No column or field has “{search}” in its name or place.</p>
    {/snippet}
  </VirtualList>
  {#if problem}<p class="mt-2" style="color: var(--straw-ink)" role="alert">{problem}</p>{/if}
  <div class="mt-3 flex flex-wrap items-center gap-2">
    <button class="press main" disabled={!taken} onclick={done}>Take {counted(taken, 'column')}</button>
    <button
      class="press"
      title="Also those that the API may send later"
      onclick={() => {
        onchange({ ...brief, take: { ...brief.take, columns: null } });
        onclose();
      }}>Take all there are, always</button
    >
    <span class="muted ml-auto max-w-md text-right text-[13px]" role="status"
      >{picking || !taken
        ? 'The columns stand in the order in which you tick them.'
        : 'Space takes a column. Drag it, or press Alt+↑ or Alt+↓, to order. What is not taken stays in the saved answers.'}</span
    >
  </div>
</Dialog>

<style>
  :global(.columns-list) {
    height: min(58vh, 520px);
    border: 1px solid var(--line);
    border-radius: 8px;
    position: relative;
  }
  .line {
    display: grid;
    grid-template-columns: 18px 18px minmax(120px, 1.1fr) minmax(100px, 1.2fr) 128px 54px 22px 22px 22px;
    align-items: center;
    gap: 7px;
    height: 32px;
    padding: 0 8px;
    border-bottom: 1px solid var(--hair);
  }
  .line.off {
    background: var(--band);
  }
  .line.target {
    box-shadow: inset 0 2px 0 var(--damson);
  }
  .pick {
    font-weight: 700;
    text-align: center;
    color: var(--damson);
  }
  .grip {
    cursor: grab;
    color: var(--muted);
  }
  .field.name,
  .field.kind {
    height: 25px;
    font-size: 13px;
  }
  .line code {
    font-size: 12px;
  }
  .line button {
    cursor: pointer;
  }
</style>
