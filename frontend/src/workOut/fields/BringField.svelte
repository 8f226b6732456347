<!-- The columns of another table that are brought in, and their names here. -->
<script lang="ts">
  import type { OtherStore } from '../otherStore.svelte';

  interface Brought {
    column: string;
    name: string;
  }
  interface Props {
    label: string;
    other: OtherStore;
    value: Brought[];
    onchange: (value: Brought[]) => void;
  }
  let { label, other, value, onchange }: Props = $props();
  const columns = $derived([
    ...(other.found?.columns.map((one) => one.name) ?? []),
    ...value
      .map((one) => one.column)
      .filter((name) => other.found && !other.found.columns.some((one) => one.name === name)),
  ]);

  function toggle(column: string, on: boolean): void {
    onchange(on ? [...value, { column, name: '' }] : value.filter((one) => one.column !== column));
  }
</script>

<fieldset>
  <legend class="label">{label}</legend>
  <div class="list">
    {#each columns as column (column)}
      {@const own = value.find((one) => one.column === column)}
      <div class="row">
        <label
          ><input
            type="checkbox"
            checked={!!own}
            onchange={(event) => toggle(column, event.currentTarget.checked)}
          />
          {column}</label
        >
        {#if own}
          <input
            class="field"
            aria-label="Name of {column} here"
            placeholder="named {column}"
            value={own.name}
            oninput={(event) =>
              onchange(
                value.map((one) =>
                  one.column === column ? { ...one, name: event.currentTarget.value } : one,
                ),
              )}
          />
        {/if}
      </div>
    {/each}
  </div>
</fieldset>

<style>
  .list {
    max-height: 168px;
    overflow: auto;
  }
  .row {
    display: grid;
    grid-template-columns: 1fr 1fr;
    align-items: center;
    min-height: 26px;
    font-size: 13px;
  }
  .row .field {
    height: 25px;
    font-size: 12.5px;
  }
</style>
