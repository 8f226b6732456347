<!-- Names or numbers, by commas. -->
<script lang="ts">
  import { untrack } from 'svelte';

  interface Props {
    label: string;
    placeholder: string;
    numbers: boolean;
    value: (string | number)[];
    onchange: (value: (string | number)[]) => void;
  }
  let { label, placeholder, numbers, value, onchange }: Props = $props();
  let text = $state(untrack(() => value.join(', ')));
  const wrong = $derived(
    numbers && text.split(',').some((one) => one.trim() && !Number.isFinite(Number(one))),
  );

  function typed(): void {
    const parts = text.split(',').map((one) => one.trim()).filter(Boolean); // prettier-ignore
    onchange(numbers ? parts.map(Number).filter(Number.isFinite) : parts);
  }
</script>

<label>
  <span class="label">{label}</span>
  <input class="field" {placeholder} bind:value={text} oninput={typed} />
  {#if wrong}<small>Write numbers with commas between them.</small>{/if}
</label>

<style>
  small {
    color: var(--straw-ink);
  }
</style>
