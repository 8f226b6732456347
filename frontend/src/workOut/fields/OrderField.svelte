<!-- What rows are ordered by. -->
<script lang="ts">
  import type { Column } from '../../api/client';
  import ColumnField from './ColumnField.svelte';
  import DropButton from './DropButton.svelte';

  interface By {
    column: string;
    down: boolean;
  }
  interface Props {
    label: string;
    columns: Column[];
    value: By[];
    onchange: (value: By[]) => void;
  }
  let { label, columns, value, onchange }: Props = $props();
  const set = (at: number, change: Partial<By>): void =>
    onchange(value.map((one, index) => (index === at ? { ...one, ...change } : one)));
</script>

<fieldset>
  <legend class="label">{label}</legend>
  {#each value as one, at (at)}
    <div class="row">
      <ColumnField
        name="{label} {at + 1}"
        {columns}
        value={one.column}
        onchange={(column) => set(at, { column })}
      />
      <select
        class="field"
        aria-label="Direction {at + 1}"
        value={one.down ? 'down' : 'up'}
        onchange={(event) => set(at, { down: event.currentTarget.value === 'down' })}
      >
        <option value="up">lowest first</option>
        <option value="down">highest first</option>
      </select>
      <DropButton
        label="Remove {one.column}"
        onclick={() => onchange(value.filter((_, index) => index !== at))}
      />
    </div>
  {/each}
  <div class="half">
    <ColumnField
      name="{label}: one more column"
      {columns}
      value=""
      none="+ column"
      onchange={(column) => column && onchange([...value, { column, down: false }])}
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
