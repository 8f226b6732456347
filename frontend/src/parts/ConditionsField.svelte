<!-- Conditions that rows meet, all of them: a column, how it is tested, and a value. -->
<script lang="ts">
  import type { Column, Condition } from '../api/client';
  import { conditionWords } from '../domain/words/conditions';
  import { isNumeric } from '../domain/kinds';
  import Taken from '../ui/Taken.svelte';

  interface Props {
    conditions: Condition[];
    columns: Column[];
    /** Values of columns that are known, to choose from. */
    lists?: Record<string, string[]>;
    onchange: (conditions: Condition[]) => void;
  }
  let { conditions, columns, lists = {}, onchange }: Props = $props();
  const own = $props.id();

  type How = 'is' | 'is not' | 'from' | 'up to' | 'contains' | 'is empty' | 'has a value';
  let column = $state('');
  let how = $state<How>('is');
  let value = $state('');
  const chosen = $derived(columns.find((one) => one.name === column));
  const ordered = $derived(!!chosen && (isNumeric(chosen) || chosen.kind.startsWith('date')));
  const ways = $derived<How[]>([
    'is',
    'is not',
    ...(ordered ? (['from', 'up to'] as How[]) : (['contains'] as How[])),
    'is empty',
    'has a value',
  ]);
  const bare = $derived(how === 'is empty' || how === 'has a value');

  function made(): Condition | null {
    if (!column || (!bare && !value.trim())) return null;
    const text = value.trim();
    switch (how) {
      case 'is':
      case 'is not':
        return { by: 'one of', column, values: [text], no: how === 'is not' };
      case 'from':
        return { by: 'between', column, low: text, high: null, no: false };
      case 'up to':
        return { by: 'between', column, low: null, high: text, no: false };
      case 'contains':
        return { by: 'text', column, text, no: false };
      default:
        return { by: 'empty', column, no: how === 'has a value' };
    }
  }

  /** What is filled in and not added yet counts too: a press of another button must not lose it. */
  function add(): void {
    const one = made();
    if (!one) return;
    onchange([...conditions, one]);
    column = value = '';
    how = 'is';
  }
</script>

<span class="conditions">
  {#each conditions as one, at (at)}
    <Taken
      text={conditionWords(one)}
      onremove={() => onchange(conditions.filter((_, index) => index !== at))}
    />
  {/each}
  <select class="field" name="condition-column" aria-label="Column" bind:value={column}>
    <option value="">{conditions.length ? 'and where…' : 'all rows'}</option>
    {#each columns.filter((one) => !one.hidden) as one (one.name)}<option>{one.name}</option>{/each}
  </select>
  {#if column}
    <select
      class="field"
      name="condition-how"
      aria-label="How it is tested"
      bind:value={how}
      onchange={() => bare && add()}
    >
      {#each ways as one (one)}<option>{one}</option>{/each}
    </select>
    {#if !bare}
      <input
        class="field"
        name="condition-value"
        aria-label="Value"
        list={lists[column] ? `${own}-values` : undefined}
        bind:value
        onchange={add}
        onkeydown={(event) => {
          if (event.key === 'Enter') {
            event.preventDefault();
            add();
          }
        }}
      />
      {#if lists[column]}
        <datalist id="{own}-values">
          {#each lists[column] ?? [] as one (one)}<option value={one}></option>{/each}
        </datalist>
      {/if}
    {/if}
    <button type="button" class="press small" onclick={add}>Add</button>
  {/if}
</span>

<style>
  .conditions {
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
