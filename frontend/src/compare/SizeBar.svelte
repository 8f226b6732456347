<!-- Which changes of a column are shown: those that rose or fell, by how much, and in which order. -->
<script lang="ts">
  import { count, counted } from '../domain/words/format';
  import type { SizeChoice } from './sizes';

  interface Props {
    column: string;
    unit: string;
    /** Whether its changes are numbers; of others there is nothing to choose. */
    numeric: boolean;
    choice: SizeChoice;
    /** How many rows are shown, of all that changed in the column. */
    shown: number | null;
    all: number;
    onchange: (choice: SizeChoice) => void;
    /** The column is to be ignored. */
    onignore: () => void;
    onclose: () => void;
  }
  let { column, unit, numeric, choice, shown, all, onchange, onignore, onclose }: Props = $props();

  const change = (part: Partial<SizeChoice>): void => onchange({ ...choice, ...part });
</script>

<div class="bar" role="group" aria-label="Which changes of {column}">
  <strong class="mono truncate">{column}</strong>
  {#if numeric}
    <select
      class="field"
      name="way"
      aria-label="Which way"
      value={choice.way}
      onchange={(event) => change({ way: event.currentTarget.value as SizeChoice['way'] })}
    >
      <option value="any">rose or fell</option>
      <option value="up">rose</option>
      <option value="down">fell</option>
    </select>
    <label class="flex items-center gap-1.5"
      >by more than <input
        class="field number"
        type="number"
        name="least"
        min="0"
        step="any"
        placeholder="0"
        value={choice.least || ''}
        onchange={(event) => change({ least: Math.max(0, Number(event.currentTarget.value) || 0) })}
      /></label
    >
    <select
      class="field"
      name="measure"
      aria-label="Measured in"
      value={choice.measure}
      onchange={(event) => change({ measure: event.currentTarget.value as SizeChoice['measure'] })}
    >
      <option value="amount">{unit || 'as a number'}</option>
      <option value="percent">% of what it was</option>
    </select>
    <label class="flex items-center gap-1.5"
      ><input
        type="checkbox"
        name="largest-first"
        checked={choice.order === 'size'}
        onchange={(event) => change({ order: event.currentTarget.checked ? 'size' : 'table' })}
      /> largest first</label
    >
  {/if}
  <span class="muted ml-auto" role="status"
    >{shown === null
      ? ''
      : shown === all
        ? counted(all, 'row')
        : `${count(shown)} of ${counted(all, 'row')}`}</span
  >
  <button class="plain" title="What differs in it alone counts as the same" onclick={onignore}
    >ignore it</button
  >
  <button class="plain" onclick={onclose}>all columns</button>
</div>

<style>
  .bar {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 6px 10px;
    padding: 5px 12px;
    border-bottom: 1px solid var(--line);
    font-size: 13px;
  }
  .field {
    width: auto;
    height: 26px;
    padding: 0 6px;
  }
  .number {
    width: 82px;
  }
  .mono {
    max-width: 220px;
    font-family: var(--mono);
  }
</style>
