<!-- A column's heading: name, kind and origin; opens what can be seen of the column and done with it. -->
<script lang="ts">
  import type { Column, TableRef, ColumnSpec } from '../../api/client';
  import type { ColumnEdit } from '../../domain/columns';
  import { count } from '../../domain/words/format';
  import { kindWords } from '../../domain/kinds';
  import type { TableView } from '../tableview.svelte';
  import ColumnGlance from './ColumnGlance.svelte';
  import ColumnSettings from './ColumnSettings.svelte';
  import Popover from '../../ui/Popover.svelte';
  import Tabs from '../../ui/Tabs.svelte';

  interface Props {
    column: Column;
    /** How the brief takes it, where it does so by name. */
    chosen: Partial<ColumnSpec> | undefined;
    rows: number;
    table: TableRef;
    look: TableView;
    /** What stands below the name. */
    sub: string;
    /** Values that did not fit the kind. */
    unfit: number;
    isKey: boolean;
    /** Where the column stands among those that are shown, from 0. */
    at: number;
    onchange: (change: ColumnEdit) => void;
    ondrop: () => void;
    onmove: (by: number) => void;
    onkey: (on: boolean) => void;
    /** Another column is dropped in front of this one. */
    onplace: (name: string) => void;
    onopen?: () => void;
  }
  let {
    column,
    chosen,
    rows,
    table,
    look,
    sub,
    unfit,
    isKey,
    at,
    onchange,
    ondrop,
    onmove,
    onkey,
    onplace,
    onopen,
  }: Props = $props();

  const share = $derived(
    column.filled === null || column.filled === undefined || !rows ? 1 : column.filled / rows,
  );
  const TABS = [
    ['look', 'At a glance'],
    ['column', 'The column'],
  ] as const;
  let tab = $state<(typeof TABS)[number][0]>('look');
  let over = $state(false);
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
  class="carry"
  class:over
  draggable={column.origin === 'taken'}
  ondragstart={(event) => event.dataTransfer?.setData('application/x-column', column.name)}
  ondragover={(event) => {
    if (column.origin !== 'taken' || !event.dataTransfer?.types.includes('application/x-column')) return;
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(event) => {
    over = false;
    const name = event.dataTransfer?.getData('application/x-column');
    if (name && name !== column.name) onplace(name);
    event.preventDefault();
  }}
>
  <Popover label={column.name} look="colhead" width={350} {onopen}>
    {#snippet trigger()}
      <span class="name">{column.name}</span>
      <span class="sub" class:off={unfit > 0}
        >{sub}{unfit ? ` · ${count(unfit)} not ${kindWords(column.kind)}` : ''}</span
      >
      {#if share < 0.9995}
        <span class="bar" title="{count(column.filled ?? 0)} of {count(rows)} rows have a value">
          <span style="width: {share * 100}%"></span>
        </span>
      {/if}
    {/snippet}
    {#snippet children(close)}
      <Tabs bind:value={tab} tabs={TABS} small>
        {#snippet children(shown)}
          {#if shown === 'look'}
            <ColumnGlance {column} {table} {look} {chosen} {at} {onchange} />
          {:else}
            <ColumnSettings {column} {chosen} {isKey} {onchange} {ondrop} {onmove} {onkey} onclose={close} />
          {/if}
        {/snippet}
      </Tabs>
    {/snippet}
  </Popover>
</div>

<style>
  .carry.over {
    box-shadow: inset 3px 0 0 var(--damson);
  }
  :global(.colhead) {
    display: block;
    width: 100%;
    position: relative;
    text-align: inherit;
    cursor: pointer;
    border-radius: 4px;
    padding-bottom: 2px;
  }
  :global(.colhead:hover .name) {
    color: var(--damson);
  }
  .name {
    display: block;
    font-weight: 700;
    font-size: 13.5px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .sub {
    display: block;
    color: var(--muted);
    font-family: var(--mono);
    font-size: 11.5px;
    line-height: 14px;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .sub.off {
    color: var(--straw-ink);
  }
  .bar {
    position: absolute;
    left: 0;
    right: 0;
    bottom: -3px;
    height: 2px;
    background: var(--faint);
  }
  .bar span {
    display: block;
    height: 2px;
    background: var(--link);
  }
</style>
