<!-- The fields of an entry of a registry, drawn as the server describes them. -->
<script lang="ts">
  import { readJson, writeJson } from '../api/json';
  import type { FieldInfo, Values } from '../domain/choices';
  import { isoOf, minutesOf } from '../domain/words/durations';

  interface Props {
    fields: FieldInfo[];
    values: Values;
    /** What stands before a field's name. */
    prefix: string;
    onchange: (name: string, value: unknown) => void;
    /** Suggestions, by the name of a field. */
    lists?: Record<string, string[]>;
  }
  let { fields, values, prefix, onchange, lists = {} }: Props = $props();

  // A JSON text that is being typed is none for a while.
  let drafts = $state<Record<string, string>>({});
  let broken = $state<Record<string, boolean>>({});

  const text = (name: string): string => String(values[name] ?? '');
  const jsonOf = (name: string): string => {
    const body = values[name] as { kind: string; value?: unknown } | null | undefined;
    return body?.kind === 'json' ? writeJson(body.value) : '';
  };

  function typedJson(name: string, typed: string): void {
    drafts[name] = typed;
    try {
      onchange(name, typed.trim() ? { kind: 'json', value: readJson(typed) } : null);
      broken[name] = false;
    } catch {
      broken[name] = true;
    }
  }

  function typedNumber(name: string, typed: string): void {
    onchange(name, typed === '' ? null : Number(typed));
  }

  function typedNames(name: string, typed: string): void {
    onchange(
      name,
      typed
        .split(',')
        .map((one) => one.trim())
        .filter(Boolean),
    );
  }
</script>

{#each fields as field (field.name)}
  <label class:wide={field.wide} class:yes={field.kind === 'yes'}>
    {#if field.kind === 'yes'}
      <input
        type="checkbox"
        name="{prefix}{field.name}"
        checked={!!values[field.name]}
        onchange={(event) => onchange(field.name, event.currentTarget.checked)}
      />
    {/if}
    <span class="label">{field.label}</span>
    {#if field.kind === 'yes'}<!-- Its box stands in front. -->
    {:else if field.options.length}
      <select
        class="field"
        name="{prefix}{field.name}"
        value={text(field.name)}
        onchange={(event) => onchange(field.name, event.currentTarget.value)}
      >
        {#each field.options as one (one.value)}<option value={one.value}>{one.label}</option>{/each}
      </select>
    {:else if field.kind === 'number' || field.kind === 'minutes'}
      <input
        class="field"
        type="number"
        name="{prefix}{field.name}"
        min={field.least}
        required={field.required}
        placeholder={field.placeholder}
        value={field.kind === 'minutes' ? (minutesOf(text(field.name)) ?? '') : text(field.name)}
        onchange={(event) =>
          field.kind === 'minutes'
            ? onchange(field.name, isoOf(Math.max(1, Math.round(Number(event.currentTarget.value))), 'TM'))
            : typedNumber(field.name, event.currentTarget.value)}
      />
    {:else if field.kind === 'json'}
      <textarea
        class="field mono"
        rows="2"
        name="{prefix}{field.name}"
        value={broken[field.name] ? drafts[field.name] : jsonOf(field.name)}
        oninput={(event) => typedJson(field.name, event.currentTarget.value)}></textarea>
      {#if broken[field.name]}<small style="color: var(--straw-ink)">This is not JSON yet.</small>{/if}
    {:else if field.kind === 'names'}
      <input
        class="field mono"
        name="{prefix}{field.name}"
        required={field.required}
        value={((values[field.name] as string[] | undefined) ?? []).join(', ')}
        onchange={(event) => typedNames(field.name, event.currentTarget.value)}
      />
    {:else}
      <input
        class="field"
        class:mono={field.kind !== 'text'}
        name="{prefix}{field.name}"
        required={field.required}
        placeholder={field.placeholder}
        value={text(field.name)}
        list={lists[field.name]?.length ? `${prefix}${field.name} list` : undefined}
        oninput={(event) => onchange(field.name, event.currentTarget.value)}
      />
      {#if lists[field.name]?.length}
        <datalist id="{prefix}{field.name} list">
          {#each lists[field.name] as one (one)}<option value={one}></option>{/each}
        </datalist>
      {/if}
    {/if}
  </label>
{/each}

<style>
  .wide {
    grid-column: 1 / -1;
  }
  .yes {
    grid-column: 1 / -1;
    display: flex;
    align-items: center;
    gap: 8px;
  }
  .yes .label {
    margin: 0;
  }
</style>
