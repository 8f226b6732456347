<!-- The figures of each group. -->
<script lang="ts">
  import type { Column } from '../../api/client';
  import { choices } from '../../domain/choices';
  import { isNumeric } from '../../domain/kinds';
  import ColumnField from './ColumnField.svelte';
  import DropButton from './DropButton.svelte';

  interface Figure {
    of: string;
    column: string;
    name: string;
    separator: string;
  }
  interface Props {
    label: string;
    columns: Column[];
    /** One figure, or several. */
    single?: boolean;
    value: Figure[] | Figure;
    onchange: (value: Figure[] | Figure) => void;
  }
  let { label, columns, single = false, value, onchange }: Props = $props();
  const list = $derived(Array.isArray(value) ? value : [value]);
  const kinds = $derived(
    single
      ? choices().figures.filter((one) => !['share', 'share of rows', 'joined'].includes(one.key))
      : choices().figures,
  );
  const kindOf = (of: string) => choices().figures.find((one) => one.key === of);
  /** Numbers first where numbers alone count. */
  const fitting = (of: string): Column[] =>
    kindOf(of)?.numbers
      ? [...columns.filter(isNumeric), ...columns.filter((one) => !isNumeric(one))]
      : columns;

  function give(next: Figure[]): void {
    onchange(single ? (next[0] as Figure) : next);
  }

  function set(at: number, change: Partial<Figure>): void {
    give(
      list.map((one, index) => {
        if (index !== at) return one;
        const changed = { ...one, ...change };
        const kind = kindOf(changed.of);
        if (!kind?.column) changed.column = '';
        else if (!changed.column) changed.column = fitting(changed.of)[0]?.name ?? '';
        return changed;
      }),
    );
  }
</script>

<fieldset>
  <legend class="label">{label}</legend>
  {#each list as one, at (at)}
    <div class="row" class:single>
      <select
        class="field"
        aria-label="Figure {at + 1}"
        value={one.of}
        onchange={(event) => set(at, { of: event.currentTarget.value })}
      >
        {#each kinds as kind (kind.key)}<option value={kind.key}>{kind.label}</option>{/each}
      </select>
      {#if kindOf(one.of)?.column}
        <ColumnField
          name="Column of figure {at + 1}"
          columns={fitting(one.of)}
          value={one.column}
          onchange={(column) => set(at, { column })}
        />
      {:else}<span></span>{/if}
      {#if !single}
        <input
          class="field"
          aria-label="Name of figure {at + 1}"
          placeholder="name"
          value={one.name}
          oninput={(event) => set(at, { name: event.currentTarget.value })}
        />
        <DropButton
          label="Remove figure {at + 1}"
          disabled={list.length < 2}
          onclick={() => give(list.filter((_, index) => index !== at))}
        />
      {/if}
    </div>
  {/each}
  {#if !single}
    <button
      type="button"
      class="plain add"
      onclick={() => {
        const column = columns.find(isNumeric)?.name;
        give([
          ...list,
          {
            of: column ? 'sum' : 'filled',
            column: column ?? columns[0]?.name ?? '',
            name: '',
            separator: ', ',
          },
        ]);
      }}>one more figure</button
    >
  {/if}
</fieldset>

<style>
  .row {
    display: grid;
    grid-template-columns: minmax(0, 1.2fr) minmax(0, 1.1fr) minmax(0, 0.9fr) 20px;
    gap: 5px;
    align-items: center;
    margin-bottom: 5px;
  }
  .row.single {
    grid-template-columns: 1fr 1fr;
  }
  .add {
    font-size: 12.5px;
  }
</style>
