<!-- The first or the last day of a range: a date, or one that moves with the calendar. -->
<script lang="ts">
  import type { Edge } from '../../../domain/fanOut';
  import RelativeDateField from '../../../parts/RelativeDateField.svelte';

  interface Props {
    value: Edge;
    label: string;
    onchange: (value: Edge) => void;
  }
  let { value, label, onchange }: Props = $props();
  const moves = $derived(typeof value === 'object');

  function today(): string {
    const now = new Date();
    return new Date(now.getTime() - now.getTimezoneOffset() * 60_000).toISOString().slice(0, 10);
  }
</script>

<div>
  <span class="label">{label}</span>
  <div class="grid grid-cols-[116px_1fr] gap-2">
    <select
      class="field"
      aria-label="{label}, how"
      value={moves ? 'moves' : 'date'}
      onchange={(event) =>
        onchange(event.currentTarget.value === 'date' ? today() : { anchor: 'today', offset: 'P0D' })}
    >
      <option value="date">the date</option><option value="moves">moves</option>
    </select>
    {#if typeof value === 'object'}
      {@const relative = value}
      <RelativeDateField
        value={relative}
        kind="date"
        {label}
        onchange={(found) => onchange({ ...relative, ...found } as Edge)}
      />
    {:else}
      <input
        class="field"
        style="width: 160px"
        type="date"
        aria-label={label}
        {value}
        onchange={(event) => event.currentTarget.value && onchange(event.currentTarget.value)}
      />
    {/if}
  </div>
</div>
