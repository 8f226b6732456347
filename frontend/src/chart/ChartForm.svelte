<!-- What a chart is drawn of: its fields as the registry has them, filled in from the table's columns. -->
<script lang="ts">
  import type { Chart, Column } from '../api/client';
  import { choices, entryOf, switched, type FieldInfo, type Values } from '../domain/choices';
  import { isNumeric } from '../domain/kinds';
  import Taken from '../ui/Taken.svelte';

  interface Props {
    chart: Chart;
    columns: Column[];
    onchange: (chart: Chart) => void;
  }
  let { chart, columns, onchange }: Props = $props();

  const entry = $derived(entryOf(choices().charts, chart.draw));
  const values = $derived(chart as unknown as Values);
  const shown = $derived(columns.filter((one) => !one.hidden));
  const numbers = $derived(shown.filter(isNumeric));
  let more = $state(false);

  const set = (name: string, value: unknown): void =>
    onchange({ ...values, [name]: value } as unknown as Chart);
  function choose(key: string): void {
    const next = entryOf(choices().charts, key);
    const kept = switched(next, values, ['title']);
    // One column and several are told in two ways.
    const y = values.y;
    if (typeof next.defaults.y === 'string' && Array.isArray(y)) kept.y = (y[0] as string | undefined) ?? '';
    if (Array.isArray(next.defaults.y) && typeof y === 'string') kept.y = y ? [y] : [];
    onchange({ ...kept, draw: key } as unknown as Chart);
  }
  const matters = (field: FieldInfo): boolean =>
    !field.with_field ||
    field.with_values.includes(String(values[field.with_field] ?? '')) ||
    (field.with_values.includes('*') && !!values[field.with_field]);
  const fields = $derived(entry.fields.filter((one) => matters(one) && (more || !one.more)));
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
    set('references', [...references, { value, label: label.trim() }]);
    line = label = '';
  }
</script>

<div class="form" role="group" aria-label="What is drawn">
  <div class="kinds" role="radiogroup" aria-label="The kind of chart">
    {#each choices().charts as one (one.key)}
      <button
        class="press small"
        class:main={chart.draw === one.key}
        role="radio"
        aria-checked={chart.draw === one.key}
        onclick={() => choose(one.key)}>{one.label}</button
      >
    {/each}
  </div>
  {#each fields as field (field.name)}
    {#if field.kind === 'yes'}
      <label class="flex items-center gap-1.5"
        ><input
          type="checkbox"
          name="chart-{field.name}"
          checked={!!values[field.name]}
          onchange={(event) => set(field.name, event.currentTarget.checked)}
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
              set(
                field.name,
                list(field.name).filter((one) => one !== name),
              )}
          />
        {/each}
        <select
          class="field"
          name="chart-{field.name}"
          aria-label={field.label}
          value=""
          onchange={(event) => {
            const name = event.currentTarget.value;
            event.currentTarget.value = '';
            if (name) set(field.name, [...list(field.name), name]);
          }}
        >
          <option value="">{list(field.name).length ? 'and…' : 'a column'}</option>
          {#each offered(field).filter((one) => !list(field.name).includes(one.name)) as one (one.name)}
            <option>{one.name}</option>
          {/each}
        </select>
      </div>
    {:else if field.kind === 'references'}
      <form class="field-of" onsubmit={addLine}>
        <span class="muted">{field.label}</span>
        {#each references as one, at (at)}
          <Taken
            text="{one.label} {one.value}"
            onremove={() =>
              set(
                'references',
                references.filter((_, index) => index !== at),
              )}
          />
        {/each}
        {#if references.length < 5}
          <input
            class="field"
            style="width: 72px"
            name="chart-line"
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
            name="chart-{field.name}"
            value={String(values[field.name] ?? '')}
            onchange={(event) => set(field.name, event.currentTarget.value)}
          >
            {#each field.options as one (one.value)}<option value={one.value}>{one.label}</option>{/each}
          </select>
        {:else if field.kind === 'number'}
          <input
            class="field"
            style="width: 74px"
            type="number"
            name="chart-{field.name}"
            min={field.least}
            placeholder={field.required ? '' : 'suits'}
            value={values[field.name] ?? ''}
            onchange={(event) => {
              const value = Math.round(Number(event.currentTarget.value));
              const fits = event.currentTarget.value !== '' && value >= (field.least ?? 1) && value <= 200;
              if (fits) set(field.name, value);
              else if (!field.required) set(field.name, null);
              else event.currentTarget.value = String(values[field.name] ?? '');
            }}
          />
        {:else}
          <select
            class="field"
            name="chart-{field.name}"
            value={String(values[field.name] ?? '')}
            onchange={(event) => set(field.name, event.currentTarget.value)}
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
  {#if entry.fields.some((one) => one.more)}
    <button class="plain" aria-expanded={more} onclick={() => (more = !more)}
      >{more ? 'less' : 'scale and lines'}</button
    >
  {/if}
</div>

<style>
  .form {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 7px 14px;
    font-size: 13px;
  }
  .kinds {
    display: flex;
    gap: 4px;
  }
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
