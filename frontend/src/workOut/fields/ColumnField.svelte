<!-- One column, chosen among those of the table. -->
<script lang="ts">
  import type { Column } from '../../api/client';

  interface Props {
    label?: string;
    /** What it is called by a screen reader where no label stands above it. */
    name?: string;
    columns: Column[];
    value: string;
    /** What stands for no column, where there may be none. */
    none?: string;
    onchange: (value: string) => void;
  }
  let { label = '', name = '', columns, value, none = '', onchange }: Props = $props();
  const there = $derived(columns.some((one) => one.name === value));
</script>

<label>
  {#if label}<span class="label">{label}</span>{/if}
  <select
    class="field"
    aria-label={label ? undefined : name}
    {value}
    onchange={(event) => onchange(event.currentTarget.value)}
  >
    {#if none || !value}<option value="">{none || 'choose a column'}</option>{/if}
    {#if value && !there}<option {value}>{value} (not there)</option>{/if}
    {#each columns as one (one.name)}<option value={one.name}>{one.name}</option>{/each}
  </select>
</label>
