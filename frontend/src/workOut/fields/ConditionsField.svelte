<!-- Conditions on columns, a row each. -->
<script lang="ts">
  import type { Column } from '../../api/client';
  import ColumnField from './ColumnField.svelte';
  import DropButton from './DropButton.svelte';
  import TestField from './TestField.svelte';

  interface Condition {
    column: string;
    test: string;
    value: unknown;
    values: unknown[];
  }
  interface Props {
    label: string;
    columns: Column[];
    value: Condition[];
    onchange: (value: Condition[]) => void;
  }
  let { label, columns, value, onchange }: Props = $props();

  const BLANK: Condition = { column: '', test: 'is', value: '', values: [] };
  const shown = $derived(value.length ? value : [BLANK]);
  const set = (at: number, change: Partial<Condition>): void =>
    onchange(shown.map((one, index) => (index === at ? { ...one, ...change } : one)));
</script>

<fieldset>
  <legend class="label">{label}</legend>
  {#each shown as one, at (at)}
    <div class="row">
      <ColumnField
        name="Column of condition {at + 1}"
        {columns}
        value={one.column}
        onchange={(column) => set(at, { column })}
      />
      <TestField
        column={columns.find((column) => column.name === one.column)}
        test={one.test}
        value={one.value}
        values={one.values ?? []}
        name="condition {at + 1}"
        onchange={(change) => set(at, change)}
      />
      <DropButton
        label="Remove condition {at + 1}"
        disabled={!value.length}
        onclick={() => onchange(value.filter((_, index) => index !== at))}
      />
    </div>
  {/each}
  <button
    type="button"
    class="plain add"
    disabled={!value.length}
    onclick={() => onchange([...value, { ...BLANK, column: columns[0]?.name ?? '' }])}
    >one more condition</button
  >
</fieldset>

<style>
  .row {
    display: grid;
    grid-template-columns: minmax(0, 1fr) minmax(0, 1.7fr) 20px;
    gap: 5px;
    align-items: start;
    margin-bottom: 5px;
  }
  .add {
    font-size: 12.5px;
  }
</style>
