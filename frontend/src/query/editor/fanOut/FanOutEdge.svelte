<!-- The first or the last day of a range: a date, or one that moves with the calendar. -->
<script lang="ts">
  import type { Edge } from '../../../domain/fanOut';
  import RelativeDateField from '../../../parts/RelativeDateField.svelte';

  interface Props {
    value: Edge;
    label: string;
    /** The other parameters, whose value may be the end. */
    names: string[];
    onchange: (value: Edge) => void;
  }
  let { value, label, names, onchange }: Props = $props();
  const how = $derived(typeof value === 'string' ? 'date' : 'parameter' in value ? 'parameter' : 'moves');

  function switchTo(to: string): void {
    if (to === 'date') onchange(today());
    else if (to === 'parameter') onchange({ parameter: names[0] ?? '' });
    else onchange({ anchor: 'today', offset: 'P0D' });
  }

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
      value={how}
      onchange={(event) => switchTo(event.currentTarget.value)}
    >
      <option value="date">the date</option><option value="moves">moves</option>
      {#if names.length}<option value="parameter">parameter</option>{/if}
    </select>
    {#if typeof value === 'object' && 'parameter' in value}
      <select
        class="field"
        aria-label={label}
        value={value.parameter}
        onchange={(event) => onchange({ parameter: event.currentTarget.value })}
      >
        {#each names as name (name)}<option>{name}</option>{/each}
      </select>
    {:else if typeof value === 'object'}
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
