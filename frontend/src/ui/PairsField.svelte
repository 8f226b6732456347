<!-- Names and values, one a row: address parameters, headers, form fields. -->
<script lang="ts">
  import Braces from '@lucide/svelte/icons/braces';
  import Trash2 from '@lucide/svelte/icons/trash-2';
  import type { Pair } from '../api/client';

  interface Props {
    legend: string;
    pairs: Pair[];
    more: string;
    /** Whether a name may stand without a value. */
    bare?: boolean;
    /** Makes a parameter of a value; gives what then stands in its place. */
    onparameter?: (name: string, value: string) => string;
  }
  let { legend, pairs = $bindable(), more, bare = false, onparameter }: Props = $props();

  const set = (at: number, change: Partial<Pair>): void => {
    pairs = pairs.map((pair, index) => (index === at ? { ...pair, ...change } : pair));
  };
</script>

<fieldset class="space-y-1.5">
  <legend class="label">{legend}</legend>
  {#each pairs as pair, at (at)}
    <div class="flex items-center gap-1.5">
      <input
        class="field mono"
        style="flex: 2; min-width: 0"
        aria-label="Name"
        value={pair.name}
        oninput={(event) => set(at, { name: event.currentTarget.value })}
      />
      {#if pair.value === null}
        <button type="button" class="none" onclick={() => set(at, { value: '' })}
          >no value; give it one</button
        >
      {:else}
        <input
          class="field mono"
          style="flex: 3; min-width: 0"
          aria-label="Value of {pair.name}"
          value={pair.value}
          oninput={(event) => set(at, { value: event.currentTarget.value })}
        />
      {/if}
      {#if onparameter && pair.name && pair.value && !pair.value.includes('{')}
        <button
          type="button"
          class="tool"
          title="Make it a parameter"
          aria-label="Make {pair.name} a parameter"
          onclick={() => set(at, { value: onparameter(pair.name, pair.value ?? '') })}
          ><Braces size={15} /></button
        >
      {:else if bare && pair.value === ''}
        <button
          type="button"
          class="tool"
          title="Send the name alone, without ="
          aria-label="Send {pair.name} without a value"
          onclick={() => set(at, { value: null })}>∅</button
        >
      {/if}
      <button
        type="button"
        class="tool"
        aria-label="Remove {pair.name}"
        onclick={() => (pairs = pairs.filter((_, index) => index !== at))}><Trash2 size={15} /></button
      >
    </div>
  {/each}
  <button
    type="button"
    class="plain text-[13px]"
    onclick={() => (pairs = [...pairs, { name: '', value: '' }])}>{more}</button
  >
</fieldset>

<style>
  .tool {
    width: 26px;
    height: 28px;
    display: grid;
    place-items: center;
    border-radius: 5px;
    color: var(--muted);
    cursor: pointer;
  }
  .tool:hover {
    background: var(--damson-wash);
    color: var(--damson);
  }
  .none {
    flex: 3;
    min-width: 0;
    text-align: left;
    color: var(--muted);
    font-size: 12.5px;
    cursor: pointer;
  }
</style>
