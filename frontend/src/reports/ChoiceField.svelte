<!-- What a reader can choose. -->
<script lang="ts">
  import type { Schemas } from '../api/client';

  interface Props {
    choice: Schemas['ReportChoiceInfo'];
    value: string;
    onchange: (value: string) => void;
  }
  let { choice, value, onchange }: Props = $props();
</script>

<label class="choice">
  <span class="muted">{choice.name}</span>
  {#if choice.how === 'is'}
    <select
      class="field"
      name="choice-{choice.name}"
      {value}
      onchange={(event) => onchange(event.currentTarget.value)}
    >
      <option value="">all</option>
      {#if value && !choice.options.includes(value)}<option>{value}</option>{/if}
      {#each choice.options as one (one)}<option>{one}</option>{/each}
    </select>
  {:else}
    <input
      class="field"
      name="choice-{choice.name}"
      type={choice.kind.startsWith('date') ? 'date' : 'text'}
      placeholder="any"
      {value}
      onchange={(event) => onchange(event.currentTarget.value.trim())}
    />
  {/if}
</label>

<style>
  .choice {
    display: inline-flex;
    align-items: center;
    gap: 6px;
    font-size: 13.5px;
  }
  input.field {
    width: 105px;
  }
  .field {
    width: auto;
    max-width: 150px;
  }
</style>
