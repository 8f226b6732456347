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

  /** Ask for the values of the column, the most frequent first; where they cannot be told, none are offered. */
  async function offer(): Promise<void> {
    const at = table?.();
    if (!at || !column || asked === column) return;
    asked = column;
    known = [];
    const body = { ...at, column, view: { sort: [], where: [] } };
    const found = await ask(api.POST('/api/table/values', { body })).catch(() => null);
    if (asked === column && found)
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
  onfocus={offer}
  oninput={(event) => {
    // Where the table was not there yet when somebody came, it may be now.
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
