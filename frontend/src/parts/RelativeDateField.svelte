<!-- A date that moves with the calendar: how far, in which direction, from when. -->
<script lang="ts">
  import { choices, entryOf } from '../domain/choices';
  import { amountOf, isoOf, type Unit } from '../domain/words/durations';

  export interface Relative {
    anchor: string;
    offset: string;
  }
  interface Props {
    value: Relative;
    /** The kind of parameter whose anchors and units are offered. */
    kind: string;
    /** What stands before the fields' names where several stand together. */
    label?: string;
    onchange: (value: Relative) => void;
  }
  let { value, kind, label = '', onchange }: Props = $props();

  const offered = $derived(entryOf(choices().parameters, kind));
  const far = $derived(amountOf(value.offset));
  // Zero has no direction of its own.
  let before = $state(true);
  const negative = $derived(far?.amount ? far.negative : before);
  const named = (name: string): string => (label ? `${label}, ${name.toLowerCase()}` : name);

  function move(amount: number, unit: Unit, back: boolean): void {
    before = back;
    onchange({ ...value, offset: isoOf(Math.abs(amount), unit, back) });
  }
</script>

<div class="grid grid-cols-[64px_92px_84px_1fr] gap-2">
  {#if far}
    <input
      class="field"
      type="number"
      min="0"
      max="9999"
      aria-label={named('How many')}
      value={far.amount}
      oninput={(event) =>
        event.currentTarget.value && move(Number(event.currentTarget.value), far.unit, negative)}
    />
    <select
      class="field"
      aria-label={named('Unit')}
      value={far.unit}
      onchange={(event) => move(far.amount, event.currentTarget.value as Unit, negative)}
    >
      {#each offered.units as unit (unit.value)}<option value={unit.value}>{unit.label}</option>{/each}
    </select>
    <select
      class="field"
      aria-label={named('Direction')}
      value={negative ? 'before' : 'after'}
      onchange={(event) => move(far.amount, far.unit, event.currentTarget.value === 'before')}
    >
      <option>before</option><option>after</option>
    </select>
  {:else}
    <input
      class="field mono col-span-3"
      aria-label={named('How far, as an ISO 8601 duration')}
      title="An ISO 8601 duration, such as -P1M15D"
      value={value.offset}
      onchange={(event) => onchange({ ...value, offset: event.currentTarget.value.trim() })}
    />
  {/if}
  <select
    class="field"
    aria-label={named('From when')}
    value={value.anchor}
    onchange={(event) => onchange({ ...value, anchor: event.currentTarget.value })}
  >
    {#each offered.anchors as anchor (anchor)}<option>{anchor}</option>{/each}
  </select>
</div>
