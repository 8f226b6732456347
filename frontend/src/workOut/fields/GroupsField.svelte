<!-- What makes a group: columns, and periods of dates. -->
<script lang="ts">
  import type { Column } from '../../api/client';
  import { choices } from '../../domain/choices';
  import { isTemporal } from '../../domain/kinds';
  import ColumnField from './ColumnField.svelte';
  import DropButton from './DropButton.svelte';

  interface Group {
    column: string;
    period: string | null;
  }
  interface Props {
    label: string;
    columns: Column[];
    value: Group[];
    onchange: (value: Group[]) => void;
  }
  let { label, columns, value, onchange }: Props = $props();
  const dated = (name: string): boolean => {
    const column = columns.find((one) => one.name === name);
    return !!column && isTemporal(column);
  };
  const made = (column: string): Group => ({ column, period: dated(column) ? 'month' : null });
</script>

<fieldset>
  <legend class="label">{label}</legend>
  {#each value as one, at (at)}
    <div class="row">
      <ColumnField
        name="{label} {at + 1}"
        {columns}
        value={one.column}
        onchange={(column) => onchange(value.map((old, index) => (index === at ? made(column) : old)))}
      />
      {#if dated(one.column) || one.period}
        <select
          class="field"
          aria-label="Period of {one.column}"
          value={one.period ?? ''}
          onchange={(event) =>
            onchange(
              value.map((old, index) =>
                index === at ? { ...old, period: event.currentTarget.value || null } : old,
              ),
            )}
        >
          <option value="">as it is</option>
          {#each choices().periods as period (period.value)}<option value={period.value}
              >{period.label}</option
            >{/each}
        </select>
      {:else}<span></span>{/if}
      <DropButton
        label="Remove {one.column}"
        onclick={() => onchange(value.filter((_, index) => index !== at))}
      />
    </div>
  {/each}
  <div class="half">
    <ColumnField
      name="{label}: one more column"
      columns={columns.filter(
        (column) => dated(column.name) || !value.some((one) => one.column === column.name),
      )}
      value=""
      none={value.length ? '+ column' : 'all rows together'}
      onchange={(column) => column && onchange([...value, made(column)])}
    />
  </div>
</fieldset>

<style>
  .row {
    display: grid;
    grid-template-columns: minmax(0, 1.3fr) minmax(0, 1fr) 20px;
    gap: 5px;
    align-items: center;
    margin-bottom: 5px;
  }
  .half {
    width: 50%;
  }
</style>
