<!-- Several columns, in the order in which they were chosen. -->
<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import type { Column } from '../../api/client';
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
      <button
        type="button"
        class="one"
        title="Take {name} out"
        onclick={() => onchange(value.filter((one) => one !== name))}>{name}<X size={12} /></button
      >
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
  .one {
    display: inline-flex;
    align-items: center;
    gap: 4px;
    height: 27px;
    max-width: 100%;
    padding: 0 8px;
    overflow: hidden;
    border: 1px solid var(--damson-edge);
    border-radius: 6px;
    background: var(--damson-wash);
    color: var(--damson);
    font-size: 13px;
    cursor: pointer;
  }
  .more {
    width: 130px;
  }
  .more :global(.field) {
    height: 27px;
    font-size: 13px;
  }
</style>
