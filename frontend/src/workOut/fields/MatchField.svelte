<!-- The columns by which two tables match; what the data suggest is offered, with how many rows match. -->
<script lang="ts">
  import type { Column } from '../../api/client';
  import { count } from '../../domain/words/format';
  import type { OtherStore } from '../otherStore.svelte';
  import ColumnField from './ColumnField.svelte';
  import DropButton from './DropButton.svelte';

  interface Match {
    theirs: string;
    ours: string | null;
    value: unknown;
  }
  interface Props {
    label: string;
    columns: Column[];
    other: OtherStore;
    value: Match[];
    onchange: (value: Match[]) => void;
  }
  let { label, columns, other, value, onchange }: Props = $props();
  /** No column is called so. */
  const A_VALUE = '\u0000';
  const theirs = $derived(other.found?.columns ?? []);
  const shown = $derived(value.length ? value : [{ theirs: '', ours: '', value: null }]);
  const offers = $derived(
    (other.found?.matches ?? []).filter(
      (one) => !value.some((own) => own.theirs === one.theirs && own.ours === one.ours),
    ),
  );

  const set = (at: number, change: Partial<Match>): void =>
    onchange(shown.map((one, index) => (index === at ? { ...one, ...change } : one)));

  function take(one: { theirs: string; ours: string }): void {
    const open = shown.filter((own) => own.theirs && (own.ours || own.value !== null));
    onchange([...open, { theirs: one.theirs, ours: one.ours, value: null }]);
  }
</script>

<fieldset>
  <legend class="label">{label}</legend>
  {#if other.found?.problem}
    <p class="problem" role="alert">{other.found.problem.what} {other.found.problem.do}</p>
  {/if}
  {#each shown as one, at (at)}
    <div class="row">
      <ColumnField
        name="Their column {at + 1}"
        columns={theirs}
        value={one.theirs}
        onchange={(name) => set(at, { theirs: name })}
      />
      <span class="muted">is</span>
      {#if one.ours !== null}
        <label>
          <select
            class="field"
            aria-label="Our column {at + 1}"
            value={one.ours}
            onchange={(event) =>
              event.currentTarget.value === A_VALUE
                ? set(at, { ours: null, value: '' })
                : set(at, { ours: event.currentTarget.value, value: null })}
          >
            {#if !one.ours}<option value="">choose a column</option>{/if}
            {#each columns as column (column.name)}<option value={column.name}>{column.name}</option>{/each}
            <option value={A_VALUE}>a value…</option>
          </select>
        </label>
      {:else}
        <input
          class="field"
          aria-label="Value {at + 1}"
          placeholder="a value"
          value={String(one.value ?? '')}
          oninput={(event) => set(at, { value: event.currentTarget.value })}
        />
      {/if}
      <DropButton
        label="Remove match {at + 1}"
        disabled={shown.length < 2}
        onclick={() => onchange(shown.filter((_, index) => index !== at))}
      />
    </div>
  {/each}
  {#if offers.length}
    <p class="offers">
      <span class="muted">The values match:</span>
      {#each offers.slice(0, 3) as one (`${one.theirs}/${one.ours}`)}
        <button type="button" class="offer" onclick={() => take(one)}
          >{one.theirs} is {one.ours}
          <span class="muted"
            >{count(one.rows)} of {count(one.of)} rows{one.unique ? '' : ', some more than once'}</span
          ></button
        >
      {/each}
    </p>
  {/if}
  <button
    type="button"
    class="plain add"
    onclick={() => onchange([...shown, { theirs: '', ours: '', value: null }])}>one more column</button
  >
</fieldset>

<style>
  .row {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto minmax(0, 1fr) 20px;
    gap: 5px;
    align-items: center;
    margin-bottom: 5px;
    font-size: 13px;
  }
  .add {
    font-size: 12.5px;
  }
  .offers {
    display: flex;
    flex-wrap: wrap;
    gap: 4px 6px;
    margin-bottom: 5px;
    font-size: 12.5px;
  }
  .offer {
    padding: 1px 7px;
    border: 1px dashed var(--damson-edge);
    border-radius: 6px;
    color: var(--damson);
    cursor: pointer;
  }
  .offer:hover {
    background: var(--damson-wash);
  }
  .problem {
    margin-bottom: 5px;
    color: var(--straw-ink);
    font-size: 12.5px;
  }
</style>
