<!-- A test of a value: what it is, and what it is tested against. -->
<script lang="ts">
  import type { Column } from '../../api/client';
  import { choices } from '../../domain/choices';
  import { isNumeric, isTemporal } from '../../domain/kinds';
  import ValueInput from './ValueInput.svelte';
  import ValuesInput from './ValuesInput.svelte';

  interface Change {
    test: string;
    value: unknown;
    values: unknown[];
  }
  interface Props {
    column: Column | undefined;
    test: string;
    value: unknown;
    values: unknown[];
    /** What it is called by a screen reader. */
    name: string;
    onchange: (change: Change) => void;
  }
  let { column, test, value, values, name, onchange }: Props = $props();
  const own = $derived(choices().tests.find((one) => one.key === test));
  /** Texts have no thresholds, and numbers no beginnings. */
  const offered = $derived(
    choices().tests.filter(
      (one) =>
        one.key === test ||
        !column ||
        (one.takes === 'text'
          ? !isNumeric(column)
          : one.takes !== 'order' || isNumeric(column) || isTemporal(column) || column.kind === 'text'),
    ),
  );
</script>

<div class="test" class:list={own?.takes === 'list'}>
  <select
    class="field"
    aria-label="Test of {name}"
    value={test}
    onchange={(event) => onchange({ test: event.currentTarget.value, value, values })}
  >
    {#each offered as one (one.key)}<option value={one.key}>{one.words}</option>{/each}
  </select>
  {#if own?.takes === 'list'}
    <ValuesInput
      column={column?.name ?? ''}
      label="Values of {name}"
      {values}
      onchange={(next) => onchange({ test, value: null, values: next })}
    />
  {:else if own && own.takes !== 'nothing'}
    <ValueInput
      column={column?.name ?? ''}
      label="Value of {name}"
      {value}
      onchange={(text) => onchange({ test, value: text, values: [] })}
    />
  {/if}
</div>

<style>
  .test {
    display: grid;
    grid-auto-flow: column;
    grid-auto-columns: minmax(0, 1fr);
    gap: 5px;
  }
  /* Several values have the whole width. */
  .list {
    grid-auto-flow: row;
  }
</style>
