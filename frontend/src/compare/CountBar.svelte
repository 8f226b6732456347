<!-- A name, a bar of one or several lengths, and the count it stands for: a press chooses it. -->
<script lang="ts">
  import { count } from '../domain/words/format';

  interface Props {
    /** What tests and styles know it by. */
    kind: 'change' | 'group';
    name: string;
    /** Where the name is none of the table's own, it is muted. */
    muted?: boolean;
    /** The bar's parts, from the left. */
    parts: { look: 'new' | 'gone' | 'changed'; rows: number }[];
    /** What a full bar stands for. */
    most: number;
    on: boolean;
    title?: string;
    label?: string;
    onclick: () => void;
  }
  let { kind, name, muted = false, parts, most, on, title, label, onclick }: Props = $props();
  const all = $derived(parts.reduce((sum, one) => sum + one.rows, 0));
</script>

<button class="row {kind}" class:on aria-pressed={on} aria-label={label} {title} {onclick}>
  <span class="truncate" class:muted>{name}</span>
  <span class="bar" aria-hidden="true"
    >{#each parts as one (one.look)}{#if one.rows}<span
          class={one.look}
          style="width: {(one.rows / most) * 100}%"
        ></span>{/if}{/each}</span
  >
  <span class="text-right">{count(all)}</span>
</button>

<style>
  .row {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 46px 32px;
    gap: 6px;
    align-items: center;
    width: 100%;
    padding: 2px 8px 2px 6px;
    border-left: 3px solid transparent;
    border-radius: 5px;
    text-align: left;
    font-size: 13px;
    cursor: pointer;
  }
  .row:hover {
    background: var(--band);
  }
  .row.on {
    background: var(--damson-wash);
    border-left-color: var(--damson);
    color: var(--damson);
  }
  .bar {
    display: flex;
    height: 9px;
  }
  .bar span {
    min-width: 2px;
    height: 9px;
  }
  .new {
    background: var(--link);
  }
  .gone {
    background: repeating-linear-gradient(135deg, var(--muted) 0 2px, var(--faint) 2px 4px);
  }
  .changed {
    background: var(--straw);
  }
</style>
