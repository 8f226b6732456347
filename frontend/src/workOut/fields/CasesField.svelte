<!-- Labels, each with the test that a value must pass to get it. -->
<script lang="ts">
  import type { Column } from '../../api/client';
  import { isNumeric } from '../../domain/kinds';
  import DropButton from './DropButton.svelte';
  import TestField from './TestField.svelte';

  interface Case {
    test: string;
    value: unknown;
    values: unknown[];
    label: string;
  }
  interface Props {
    label: string;
    column: Column | undefined;
    value: Case[];
    onchange: (value: Case[]) => void;
  }
  let { label, column, value, onchange }: Props = $props();
  const shown = $derived(
    value.length
      ? value
      : [{ test: column && isNumeric(column) ? 'above' : 'is', value: '', values: [], label: '' }],
  );

  const set = (at: number, change: Partial<Case>): void =>
    onchange(shown.map((one, index) => (index === at ? { ...one, ...change } : one)));
</script>

<fieldset>
  <legend class="label">{label}</legend>
  {#each shown as one, at (at)}
    <div class="row">
      <input
        class="field"
        aria-label="Label {at + 1}"
        placeholder="late"
        value={one.label}
        oninput={(event) => set(at, { label: event.currentTarget.value })}
      />
      <span class="muted">when it</span>
      <TestField
        {column}
        test={one.test}
        value={one.value}
        values={one.values ?? []}
        name="label {at + 1}"
        onchange={(change) => set(at, change)}
      />
      <DropButton
        label="Remove label {at + 1}"
        disabled={shown.length < 2}
        onclick={() => onchange(shown.filter((_, index) => index !== at))}
      />
    </div>
  {/each}
  <button
    type="button"
    class="plain add"
    onclick={() =>
      onchange([...shown, { test: shown.at(-1)?.test ?? 'is', value: '', values: [], label: '' }])}
    >one more label</button
  >
</fieldset>

<style>
  .row {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto minmax(0, 1.6fr) 20px;
    gap: 5px;
    align-items: center;
    margin-bottom: 5px;
    font-size: 13px;
  }
  .add {
    font-size: 12.5px;
  }
</style>
