<!-- What a reader can choose. -->
<script lang="ts">
  import type { Schemas } from '../api/client';
  import { counted } from '../domain/words/format';

  interface Props {
    choice: Schemas['ReportChoiceInfo'];
    value: string;
    onchange: (value: string) => void;
    /** Queries are to be asked anew with the value; done when they are refreshed. */
    onask: (name: string, value: string, queries: number[]) => Promise<void>;
  }
  let { choice, value, onchange, onask }: Props = $props();
  let asking = $state(false);

  async function ask(): Promise<void> {
    asking = true;
    await onask(choice.name, value, choice.asks);
    asking = false;
  }
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
  {#if choice.asks.length && value}
    <button class="press small" disabled={asking} onclick={() => void ask()}
      >{asking ? 'Asking…' : `Ask ${counted(choice.asks.length, 'query', 'queries')} anew`}</button
    >
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
  input.field[type='date'] {
    width: 136px;
  }
  .field {
    width: auto;
    max-width: 150px;
  }
</style>
