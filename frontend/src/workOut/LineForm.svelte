<!-- The form of a work-out line, drawn as the server's registry describes it. The table shows at once what it does. -->
<script lang="ts">
  import { onDestroy, onMount, setContext } from 'svelte';
  import type { Column, Kind, Line } from '../api/client';
  import { choices, matters, type FieldInfo, type Values } from '../domain/choices';
  import { readsWith } from '../domain/kinds';
  import DatePatterns from '../ui/DatePatterns.svelte';
  import { dropTyped, markTyped } from '../ui/typed.svelte';
  import BringField from './fields/BringField.svelte';
  import CasesField from './fields/CasesField.svelte';
  import ChangesField from './fields/ChangesField.svelte';
  import ColumnField from './fields/ColumnField.svelte';
  import ColumnsField from './fields/ColumnsField.svelte';
  import ConditionsField from './fields/ConditionsField.svelte';
  import ExpressionField from './fields/ExpressionField.svelte';
  import FiguresField from './fields/FiguresField.svelte';
  import GroupsField from './fields/GroupsField.svelte';
  import MatchField from './fields/MatchField.svelte';
  import NamesField from './fields/NamesField.svelte';
  import OrderField from './fields/OrderField.svelte';
  import TablesField from './fields/TablesField.svelte';
  import { LINE_TABLE } from './lineTable';
  import { OtherStore } from './otherStore.svelte';
  import { lineOf, type Editing, type WorkOutStore } from './workOutStore.svelte';

  interface Tested {
    test: string;
    value: unknown;
    values: unknown[];
  }
  interface Props {
    store: WorkOutStore;
    editing: Editing;
    /** The columns that the line finds. */
    columns: Column[];
    /** Whose typing this is. */
    keep: string;
    ondone: (line: Line) => void;
  }
  let { store, editing, columns, keep, ondone }: Props = $props();
  setContext(LINE_TABLE, () => store.tableBefore(editing.index));
  let form = $state<HTMLFormElement>();
  /** What a field has to choose from. */
  const LISTS: Record<string, string> = { zone: 'zones-of-lines', dates: 'dates-of-lines' };
  const READ_WITH = ['comma', 'dates', 'zone'];
  const values = $derived(editing.values);
  const done = $derived(store.done?.lines[editing.index] ?? null);
  const fields = $derived(editing.kind.fields.filter((field) => matters(field, values) && isShown(field)));
  const isEmpty = (value: unknown): boolean =>
    value === null || value === undefined || value === '' || (Array.isArray(value) && !value.length);
  /** Whether a test lacks what a value is tested against. */
  const isOpen = (one: Tested): boolean => {
    const takes = choices().tests.find((test) => test.key === one.test)?.takes;
    return takes === 'list' ? isEmpty(one.values) : takes !== 'nothing' && isEmpty(one.value);
  };
  /** What must still be filled in, by its label. */
  const lacks = $derived(
    fields
      .filter((field) => {
        const value = values[field.name];
        if (field.kind === 'conditions') {
          const some = list(field.name) as ({ column: string } & Tested)[];
          return some.length ? some.some((one) => !one.column || isOpen(one)) : isEmpty(values.expression);
        }
        if (field.kind === 'cases' || field.kind === 'changes')
          return (
            isEmpty(value) ||
            (field.kind === 'cases' &&
              (value as ({ label: string } & Tested)[]).some((one) => !one.label || isOpen(one)))
          );
        if (field.kind === 'match')
          return (
            isEmpty(value) ||
            (value as { theirs: string; ours: string | null; value: unknown }[]).some(
              (one) => !one.theirs || one.ours === '' || (one.ours === null && isEmpty(one.value)),
            )
          );
        if (field.kind === 'bring' && values.rows === 'all') return isEmpty(value);
        return field.required && isEmpty(value);
      })
      .map((field) => field.label.toLowerCase()),
  );
  const ready = $derived(
    !lacks.length && !!done && (done.state === 'done' || done.words.length > 0) && !store.running,
  );
  const other = new OtherStore(() => ({ store, index: editing.index }));

  $effect(() => other.follow(values.table as never));

  function set(name: string, value: unknown): void {
    markTyped(keep);
    const next: Values = { ...values, [name]: value };
    // A name follows what it is the name of, as long as nobody wrote another one.
    if (editing.kind.key === 'period' && (name === 'column' || name === 'period')) {
      const usual = `${String(values.period)} of ${String(values.column)}`;
      if (!values.name || values.name === usual)
        next.name = `${String(next.period)} of ${String(next.column)}`;
    }
    store.change(next);
  }

  /** Which fields matter, where more than the value of another one says so. */
  function isShown(field: FieldInfo): boolean {
    const { key } = editing.kind;
    if (key === 'bring') {
      if (!values.table && field.name !== 'table') return false;
      return values.rows !== 'unmatched' || !['columns', 'several'].includes(field.name);
    }
    if (key === 'keep') {
      if (field.name === 'expression') return !((values.where as unknown[] | null) ?? []).length;
      if (field.name === 'any') return ((values.where as unknown[] | null) ?? []).length > 1;
      return !values.expression;
    }
    // What a value is read with depends on what it becomes.
    if (key === 'read' && READ_WITH.includes(field.name))
      return readsWith({ kind: String(values.kind) as Kind }, field.name);
    if (key === 'below' && field.name === 'own') return !!values.whose;
    return true;
  }

  const list = (name: string): unknown[] => (Array.isArray(values[name]) ? (values[name] as unknown[]) : []);
  const text = (name: string): string => String(values[name] ?? '');

  onMount(() => {
    const own = editing.field && form?.querySelector<HTMLElement>(`[data-field="${editing.field}"]`);
    const lead = own || form?.querySelector<HTMLElement>('[data-field]');
    const empty = [
      ...(form?.querySelectorAll<HTMLInputElement>('[data-field] :is(input, select)') ?? []),
    ].find((one) => !one.value && one.offsetParent);
    const first = own ? own.querySelector<HTMLElement>('input, select, .cm-content, button') : null;
    (first ?? empty ?? lead?.querySelector<HTMLElement>('input, select, .cm-content, button'))?.focus();
    form?.scrollIntoView({ block: 'nearest' });
  });
  onDestroy(() => dropTyped(keep));

  function finish(): void {
    if (ready) ondone(lineOf(editing));
  }
</script>

<form
  class="form"
  bind:this={form}
  aria-label="Line {editing.index + 1}"
  onsubmit={(event) => {
    event.preventDefault();
    finish();
  }}
>
  <div class="grid">
    {#each fields as field (field.name)}
      <div class="field-of" class:wide={field.wide} data-field={field.name}>
        {#if field.kind === 'column'}
          <ColumnField
            label={field.label}
            {columns}
            value={text(field.name)}
            onchange={(value) => set(field.name, value)}
          />
        {:else if field.kind === 'columns'}
          <ColumnsField
            label={field.label}
            placeholder={field.placeholder}
            {columns}
            value={list(field.name) as string[]}
            onchange={(value) => set(field.name, value)}
          />
        {:else if field.kind === 'expression'}
          <ExpressionField
            label={field.label}
            {columns}
            {store}
            index={editing.index}
            value={text(field.name)}
            mark={done?.state === 'failed' && done.start !== null
              ? { start: done.start, end: done.end ?? 0 }
              : null}
            onchange={(value) => set(field.name, value)}
            onsubmit={finish}
          />
        {:else if field.kind === 'conditions'}
          <ConditionsField
            label={field.label}
            {columns}
            value={list(field.name) as never}
            onchange={(value) => set(field.name, value)}
          />
        {:else if field.kind === 'cases'}
          <CasesField
            label={field.label}
            column={columns.find((one) => one.name === values.column)}
            value={list(field.name) as never}
            onchange={(value) => set(field.name, value)}
          />
        {:else if field.kind === 'changes'}
          <ChangesField
            label={field.label}
            column={String(values.column ?? '')}
            value={list(field.name) as never}
            onchange={(value) => set(field.name, value)}
          />
        {:else if field.kind === 'order'}
          <OrderField
            label={field.label}
            {columns}
            value={list(field.name) as never}
            onchange={(value) => set(field.name, value)}
          />
        {:else if field.kind === 'groups'}
          <GroupsField
            label={field.label}
            {columns}
            value={list(field.name) as never}
            onchange={(value) => set(field.name, value)}
          />
        {:else if field.kind === 'figures'}
          <FiguresField
            label={field.label}
            {columns}
            single={editing.kind.key === 'spread'}
            value={editing.kind.key === 'spread'
              ? (values[field.name] as never)
              : (list(field.name) as never)}
            onchange={(value) => set(field.name, value)}
          />
        {:else if field.kind === 'table'}
          <TablesField
            label={field.label}
            single
            value={(values[field.name] as never) ?? null}
            onchange={(value) => set(field.name, value)}
          />
        {:else if field.kind === 'tables'}
          <TablesField
            label={field.label}
            value={list(field.name) as never}
            onchange={(value) => set(field.name, value)}
          />
        {:else if field.kind === 'match'}
          <MatchField
            label={field.label}
            {columns}
            {other}
            value={list(field.name) as never}
            onchange={(value) => set(field.name, value)}
          />
        {:else if field.kind === 'bring'}
          <BringField
            label={field.label}
            {other}
            value={list(field.name) as never}
            onchange={(value) => set(field.name, value)}
          />
        {:else if field.kind === 'names' || field.kind === 'numbers'}
          <NamesField
            label={field.label}
            placeholder={field.placeholder}
            numbers={field.kind === 'numbers'}
            value={list(field.name) as never}
            onchange={(value) => set(field.name, value)}
          />
        {:else}
          <label>
            <span class="label">{field.label}</span>
            {#if field.kind === 'yes' && !field.options.length}
              <input
                type="checkbox"
                name={field.name}
                checked={!!values[field.name]}
                onchange={(event) => set(field.name, event.currentTarget.checked)}
              />
            {:else if field.options.length}
              <select
                class="field"
                name={field.name}
                value={field.kind === 'yes' ? (values[field.name] ? 'yes' : '') : text(field.name)}
                onchange={(event) =>
                  set(
                    field.name,
                    field.kind === 'yes' ? event.currentTarget.value === 'yes' : event.currentTarget.value,
                  )}
              >
                {#each field.options as one (one.value)}<option value={one.value}>{one.label}</option>{/each}
              </select>
            {:else if field.kind === 'number'}
              <input
                class="field"
                type="number"
                name={field.name}
                min={field.least}
                placeholder={field.placeholder}
                value={text(field.name)}
                oninput={(event) =>
                  set(
                    field.name,
                    event.currentTarget.value === '' ? null : Number(event.currentTarget.value),
                  )}
              />
            {:else}
              <input
                class="field"
                class:mono={field.kind === 'code' || field.kind === 'dates'}
                name={field.name}
                list={LISTS[field.kind]}
                placeholder={field.placeholder}
                value={text(field.name)}
                oninput={(event) => set(field.name, event.currentTarget.value)}
              />
            {/if}
          </label>
        {/if}
      </div>
    {/each}
  </div>
  {#if fields.some((field) => field.kind === 'zone')}
    <datalist id="zones-of-lines">
      {#each ['UTC', ...Intl.supportedValuesOf('timeZone')] as one (one)}<option value={one}></option>{/each}
    </datalist>
  {/if}
  {#if fields.some((field) => field.kind === 'dates')}<DatePatterns id={LISTS.dates ?? ''} />{/if}
  {#if lacks.length}
    <p class="notes">Still to be filled in: {lacks.join(', ')}.</p>
  {:else if done?.state === 'failed' && done.problem}
    <p class="problem" role="alert">{done.problem.what} {done.problem.do}</p>
  {:else if done?.notes.length}
    <p class="notes">{done.notes.map((note) => note.text).join(' · ')}</p>
  {/if}
  <div class="deeds">
    <button class="press main small" disabled={!ready}>Done</button>
    <button type="button" class="press small" onclick={() => store.stopEditing()}>Cancel</button>
    {#if store.running}<span class="muted">working…</span>{/if}
  </div>
</form>

<style>
  .form {
    margin: 4px 0 6px;
    padding: 9px 10px;
    border: 1px solid var(--damson-edge);
    border-radius: 8px;
    background: var(--paper);
    cursor: default;
  }
  .grid {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 8px 10px;
  }
  .field-of {
    min-width: 0;
  }
  .wide {
    grid-column: 1 / -1;
  }
  .deeds {
    display: flex;
    align-items: center;
    gap: 8px;
    /* In reach, however long the form is. */
    position: sticky;
    bottom: -8px;
    z-index: 2;
    margin: 5px -9px -8px;
    padding: 6px 9px 9px;
    border-radius: 0 0 8px 8px;
    background: var(--paper);
    font-size: 13px;
  }
  .problem,
  .notes {
    margin-top: 7px;
    font-size: 12.5px;
    line-height: 17px;
  }
  .notes {
    color: var(--muted);
  }
  .problem {
    padding: 3px 7px;
    border-radius: 5px;
    background: var(--straw-wash);
    color: var(--straw-ink);
  }
</style>
