<!-- The fields of a registry's entry that is of a table: filled in from its columns. -->
<script lang="ts">
  import type { Column, Condition } from '../api/client';
  import type { FieldInfo, Values } from '../domain/choices';
  import { isNumeric } from '../domain/kinds';
  import Taken from '../ui/Taken.svelte';
  import ConditionsField from './ConditionsField.svelte';

  interface Props {
    fields: FieldInfo[];
    values: Values;
    columns: Column[];
    /** What the names of the fields begin with. */
    prefix: string;
    /** Values of columns that are known, to choose from. */
    lists?: Record<string, string[]>;
    onchange: (name: string, value: unknown) => void;
  }
  let { fields, values, columns, prefix, lists = {}, onchange }: Props = $props();
  const shown = $derived(columns.filter((one) => !one.hidden));
  const numbers = $derived(shown.filter(isNumeric));
  const matters = (field: FieldInfo): boolean =>
    !field.with_field ||
    field.with_values.includes(String(values[field.with_field] ?? '')) ||
    (field.with_values.includes('*') && !!values[field.with_field]);
  const seen = $derived(fields.filter(matters));
  const offered = (field: FieldInfo): Column[] => (field.kind.startsWith('number') ? numbers : shown);
  const list = (name: string): string[] => (Array.isArray(values[name]) ? (values[name] as string[]) : []);
  interface Reference {
    value: number;
    label: string;
  }
  const references = $derived((values.references as Reference[] | undefined) ?? []);
  let line = $state('');
  let label = $state('');
  function addLine(event: SubmitEvent): void {
    event.preventDefault();
    const value = Number(line);
    if (!line.trim() || !Number.isFinite(value)) return;
    onchange('references', [...references, { value, label: label.trim() }]);
    line = label = '';
  }
</script>

{#each seen as field (field.name)}
  {#if field.kind === 'yes'}
    <label class="flex items-center gap-1.5"
      ><input
        type="checkbox"
        name="{prefix}-{field.name}"
        checked={!!values[field.name]}
        onchange={(event) => onchange(field.name, event.currentTarget.checked)}
      />
      {field.label}</label
    >
  {:else if field.kind === 'columns' || field.kind === 'number columns'}
    <div class="field-of">
      <span class="muted">{field.label}</span>
      {#each list(field.name) as name (name)}
        <Taken
          text={name}
          onremove={() =>
            onchange(
              field.name,
              list(field.name).filter((one) => one !== name),
            )}
        />
      {/each}
      <select
        class="field"
        name="{prefix}-{field.name}"
        aria-label={field.label}
        value=""
        onchange={(event) => {
          const name = event.currentTarget.value;
          event.currentTarget.value = '';
          if (name) onchange(field.name, [...list(field.name), name]);
        }}
      >
        <option value="">{list(field.name).length ? 'and…' : 'a column'}</option>
        {#each offered(field).filter((one) => !list(field.name).includes(one.name)) as one (one.name)}
          <option>{one.name}</option>
        {/each}
      </select>
    </div>
  {:else if field.kind === 'conditions'}
    <div class="field-of">
      <span class="muted">{field.label}</span>
      <ConditionsField
        conditions={(values[field.name] as Condition[] | undefined) ?? []}
        {columns}
        {lists}
        onchange={(next) => onchange(field.name, next)}
      />
    </div>
  {:else if field.kind === 'references'}
    <form class="field-of" onsubmit={addLine}>
      <span class="muted">{field.label}</span>
      {#each references as one, at (at)}
        <Taken
          text="{one.label} {one.value}"
          onremove={() =>
            onchange(
              'references',
              references.filter((_, index) => index !== at),
            )}
        />
      {/each}
      {#if references.length < 5}
        <input
          class="field"
          style="width: 72px"
          name="{prefix}-line"
          inputmode="decimal"
          aria-label="Value"
          placeholder="value"
          bind:value={line}
        />
        <input
          class="field"
          style="width: 96px"
          aria-label="Its name"
          placeholder="its name"
          maxlength="200"
          bind:value={label}
        />
        <button class="press small">Add</button>
      {/if}
    </form>
  {:else}
    <label class="field-of"
      ><span class="muted">{field.label}</span>
      {#if field.options.length}
        <select
          class="field"
          name="{prefix}-{field.name}"
          value={String(values[field.name] ?? '')}
          onchange={(event) => onchange(field.name, event.currentTarget.value)}
        >
          {#each field.options as one (one.value)}<option value={one.value}>{one.label}</option>{/each}
        </select>
      {:else if field.kind === 'number'}
        <input
          class="field"
          style="width: 74px"
          type="number"
          name="{prefix}-{field.name}"
          min={field.least}
          placeholder={field.required ? '' : 'suits'}
          value={values[field.name] ?? ''}
          onchange={(event) => {
            const value = Math.round(Number(event.currentTarget.value));
            const fits = event.currentTarget.value !== '' && value >= (field.least ?? 1) && value <= 200;
            if (fits) onchange(field.name, value);
            else if (!field.required) onchange(field.name, null);
            else event.currentTarget.value = String(values[field.name] ?? '');
          }}
        />
      {:else}
        <select
          class="field"
          name="{prefix}-{field.name}"
          value={String(values[field.name] ?? '')}
          onchange={(event) => onchange(field.name, event.currentTarget.value)}
        >
          <option value="" disabled={field.required}
            >{field.required ? 'a column' : field.placeholder || 'none'}</option
          >
          {#if values[field.name] && !offered(field).some((one) => one.name === values[field.name])}
            <option>{values[field.name]}</option>
          {/if}
          {#each offered(field) as one (one.name)}<option>{one.name}</option>{/each}
        </select>
      {/if}
    </label>
  {/if}
{/each}

<style>
  .field-of {
    display: inline-flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 5px;
    min-width: 0;
  }
  .field {
    width: auto;
    max-width: 170px;
    height: 27px;
    padding: 0 5px;
  }
</style>
