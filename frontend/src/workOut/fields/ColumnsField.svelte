<!-- Several columns, in the order in which they were chosen. -->
<script lang="ts">
  import type { Column } from '../../api/client';
  import Taken from '../../ui/Taken.svelte';
  import ColumnField from './ColumnField.svelte';

  interface Props {
    label: string;
    placeholder?: string;
    columns: Column[];
    value: string[];
    onchange: (value: string[]) => void;
  }
  let { label, placeholder = '', columns, value, onchange }: Props = $props();
  const rest = $derived(columns.filter((one) => !value.includes(one.name)));
</script>

<fieldset>
  <legend class="label">{label}</legend>
  <div class="chosen">
    {#each value as name (name)}
      <Taken text={name} onremove={() => onchange(value.filter((one) => one !== name))} />
    {/each}
    <span class="more"
      ><ColumnField
        name="{label}: one more column"
        columns={rest}
        value=""
        none={value.length ? '+ column' : placeholder || '+ column'}
        onchange={(name) => name && onchange([...value, name])}
      /></span
    >
  </div>
</fieldset>

<style>
  .chosen {
    display: flex;
    flex-wrap: wrap;
    gap: 5px;
  }
  .more {
    width: 130px;
  }
  .more :global(.field) {
    height: 27px;
    font-size: 13px;
  }
</style>
