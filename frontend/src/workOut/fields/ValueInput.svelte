<!-- A value of a column, with those that the column has to choose from. -->
<script lang="ts">
  import { getContext } from 'svelte';
  import { api, ask, type TableRef } from '../../api/client';
  import { LINE_TABLE } from '../lineTable';

  interface Props {
    column: string;
    value: unknown;
    label: string;
    placeholder?: string;
    /** The values that the column has, once somebody is here to choose. */
    known?: string[];
    onchange: (text: string) => void;
    onpaste?: (event: ClipboardEvent) => void;
    onkeydown?: (event: KeyboardEvent) => void;
    onblur?: () => void;
  }
  let {
    column,
    value,
    label,
    placeholder,
    known = $bindable([]),
    onchange,
    onpaste,
    onkeydown,
    onblur,
  }: Props = $props();
  const MOST = 50;
  const own = $props.id();
  const table = getContext<(() => TableRef | null) | undefined>(LINE_TABLE);
  let asked = '';

  /** Ask for the values of the column, the most frequent first; where they cannot be told, none are offered. The table
   * may be another one by now, or not be there yet: a few times it is asked again. */
  async function offer(tries = 4): Promise<void> {
    if (!column || asked === column) return;
    const at = table?.();
    asked = column;
    known = [];
    const view = { sort: [], where: [] };
    const found = at
      ? await ask(api.POST('/api/table/values', { body: { ...at, column, view } })).catch(() => null)
      : null;
    if (asked !== column) return;
    if (!found) {
      asked = '';
      if (table && tries > 1) setTimeout(() => void offer(tries - 1), 300);
    } else
      known = found.values
        .map((one) => one.value as unknown)
        .filter((one) => typeof one === 'string' || typeof one === 'number')
        .slice(0, MOST)
        .map(String);
  }
</script>

<input
  class="field"
  aria-label={label}
  {placeholder}
  list={own}
  autocomplete="off"
  value={String(value ?? '')}
  onfocus={() => void offer()}
  oninput={(event) => {
    void offer();
    onchange(event.currentTarget.value);
  }}
  {onpaste}
  {onkeydown}
  {onblur}
/>
<datalist id={own}>
  {#each known as one (one)}<option value={one}></option>{/each}
</datalist>
