<!-- Values, each with the one that takes its place. -->
<script lang="ts">
  import DropButton from './DropButton.svelte';
  import ValueInput from './ValueInput.svelte';

  interface Change {
    old: unknown;
    new: unknown;
  }
  interface Props {
    label: string;
    /** The column whose values are replaced. */
    column: string;
    value: Change[];
    onchange: (value: Change[]) => void;
  }
  let { label, column, value, onchange }: Props = $props();
  const shown = $derived(value.length ? value : [{ old: '', new: null }]);
  const set = (at: number, change: Partial<Change>): void =>
    onchange(shown.map((one, index) => (index === at ? { ...one, ...change } : one)));

  /** Cells of a sheet, two columns: a mapping that is pasted at once. */
  function pasted(event: ClipboardEvent, at: number): void {
    const rows = (event.clipboardData?.getData('text') ?? '').split(/\r?\n/).filter(Boolean);
    if (!rows.some((row) => row.includes('\t'))) return;
    event.preventDefault();
    const more = rows.map((row) => {
      const [old = '', to = ''] = row.split('\t');
      return { old: old.trim(), new: to.trim() || null };
    });
    onchange([...shown.slice(0, at), ...more, ...shown.slice(at + 1)]);
  }
</script>

<fieldset>
  <legend class="label">{label} <span class="muted">(two columns of a sheet can be pasted)</span></legend>
  <div class="rows">
    {#each shown as one, at (at)}
      <div class="row">
        <ValueInput
          {column}
          label="Old value {at + 1}"
          placeholder="0"
          value={one.old}
          onchange={(old) => set(at, { old })}
          onpaste={(event) => pasted(event, at)}
        />
        <span class="muted">by</span>
        <input
          class="field"
          aria-label="New value {at + 1}"
          placeholder="blank"
          value={String(one.new ?? '')}
          oninput={(event) =>
            set(at, { new: event.currentTarget.value === '' ? null : event.currentTarget.value })}
        />
        <DropButton
          label="Remove value {at + 1}"
          disabled={shown.length < 2}
          onclick={() => onchange(shown.filter((_, index) => index !== at))}
        />
      </div>
    {/each}
  </div>
  <button type="button" class="plain add" onclick={() => onchange([...shown, { old: '', new: null }])}
    >one more value</button
  >
</fieldset>

<style>
  .rows {
    max-height: 190px;
    overflow: auto;
  }
  .row {
    display: grid;
    grid-template-columns: minmax(0, 1fr) auto minmax(0, 1fr) 20px;
    gap: 5px;
    align-items: center;
    margin-bottom: 5px;
    font-size: 13px;
  }
  .add {
    font-size: 12.5px;
  }
</style>
