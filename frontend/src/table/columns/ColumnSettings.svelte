<!-- A column's own settings: its name, how its values are read, its unit and note, its place among the others. -->
<script lang="ts">
  import type { Column, Kind, Reads, ColumnSpec } from '../../api/client';
  import { NO_READS, type ColumnEdit } from '../../domain/columns';
  import DatePatterns from '../../ui/DatePatterns.svelte';
  import { offeredKinds, readsWith } from '../../domain/kinds';

  interface Props {
    column: Column;
    /** How the brief takes it, where it does so by name. */
    chosen: Partial<ColumnSpec> | undefined;
    isKey: boolean;
    onchange: (change: ColumnEdit) => void;
    ondrop: () => void;
    onmove: (by: number) => void;
    onkey: (on: boolean) => void;
    onclose: () => void;
  }
  let { column, chosen, isKey, onchange, ondrop, onmove, onkey, onclose }: Props = $props();

  let dates = $derived(chosen?.reads?.dates ?? '');
  let zone = $derived(chosen?.reads?.zone ?? '');

  function changedReads(change: Partial<Reads>): Reads | null {
    const next: Reads = {
      ...NO_READS,
      ...chosen?.reads,
      ...change,
    };
    return next.comma || next.dates || next.zone || next.yes.length || next.no.length || next.empty.length
      ? next
      : null;
  }
  /** Texts that mean nothing mean so in every kind. */
  function onlyEmpties(): Reads | null {
    const empty = chosen?.reads?.empty ?? [];
    return empty.length ? { ...NO_READS, empty } : null;
  }
</script>

<div class="space-y-3">
  <p class="muted text-[13px]">
    {column.origin === 'taken' ? 'From' : `Looked up as ${column.origin}, at`}
    <code class="wrap-anywhere">{column.place}</code>{column.list_words ? `, ${column.list_words}` : ''}
  </p>
  <label class="block">
    <span class="label">Name</span>
    <input
      class="field"
      value={column.name}
      onchange={(event) =>
        event.currentTarget.value.trim() && onchange({ name: event.currentTarget.value.trim() })}
    />
  </label>
  <div class="grid grid-cols-2 gap-3">
    <label>
      <span class="label">Read as</span>
      <select
        class="field"
        value={column.kind}
        onchange={(event) => onchange({ kind: event.currentTarget.value as Kind, reads: onlyEmpties() })}
      >
        {#if column.kind === 'json'}<option value="json">list as text</option>{/if}
        {#each offeredKinds() as one (one.name)}<option value={one.name}>{one.label}</option>{/each}
      </select>
    </label>
    <label>
      <span class="label">Unit</span>
      <input
        class="field"
        value={column.unit}
        placeholder="none"
        onchange={(event) => onchange({ unit: event.currentTarget.value.trim() })}
      />
    </label>
  </div>
  {#if readsWith(column, 'dates')}
    <div class="grid grid-cols-2 gap-3">
      <label>
        <span class="label">Written as</span>
        <input
          class="field mono"
          list="patterns"
          bind:value={dates}
          placeholder="ISO 8601"
          onchange={() =>
            onchange({ kind: column.kind, reads: changedReads({ dates: dates.trim() || null }) })}
        />
        <DatePatterns id="patterns" />
      </label>
      <label>
        <span class="label">Time zone</span>
        <input
          class="field"
          bind:value={zone}
          placeholder="as written"
          onchange={() => onchange({ kind: column.kind, reads: changedReads({ zone: zone.trim() || null }) })}
        />
      </label>
    </div>
  {/if}
  {#if readsWith(column, 'comma') && column.origin === 'taken'}
    <label class="flex items-center gap-2">
      <input
        type="checkbox"
        checked={chosen?.reads?.comma ?? false}
        onchange={(event) =>
          onchange({ kind: column.kind, reads: changedReads({ comma: event.currentTarget.checked }) })}
      />
      Texts have a decimal comma
    </label>
  {/if}
  {#if column.origin === 'taken'}
    <label class="block">
      <span class="label">Texts that mean there is no value, a comma between them</span>
      <input
        class="field mono"
        name="empty-texts"
        value={chosen?.reads?.empty.join(', ') ?? ''}
        placeholder="-, n/a"
        onchange={(event) =>
          onchange({
            kind: chosen?.kind ?? null,
            reads: changedReads({
              empty: event.currentTarget.value
                .split(',')
                .map((text) => text.trim())
                .filter(Boolean),
            }),
          })}
      />
    </label>
  {/if}
  {#if chosen?.kind}
    <button class="plain text-[13px]" onclick={() => onchange({ kind: null, reads: null })}
      >Leave the values unchanged</button
    >
  {/if}
  <label class="block">
    <span class="label">Note</span>
    <input
      class="field"
      value={column.note}
      placeholder="a note for readers"
      onchange={(event) => onchange({ note: event.currentTarget.value.trim() })}
    />
  </label>
  <label class="flex items-center gap-2">
    <input type="checkbox" checked={isKey} onchange={(event) => onkey(event.currentTarget.checked)} />
    Rows match by this column
  </label>
  <div class="flex flex-wrap gap-2">
    <button class="press small" onclick={() => onmove(-1)}>← Left</button>
    <button class="press small" onclick={() => onmove(1)}>Right →</button>
    <button
      class="press small"
      title="Kept, but neither shown nor exported"
      onclick={() => {
        onclose();
        onchange({ hidden: true });
      }}>Hide</button
    >
    <button
      class="press small"
      onclick={() => {
        onclose();
        ondrop();
      }}>Do not take it</button
    >
  </div>
</div>
