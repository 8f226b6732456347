<!-- A column's heading: name, kind and origin; opens what can be seen of the column and done with it. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import type { Column, ColumnSpec, LineKind, LineOffer, TableRef } from '../../api/client';
  import type { ColumnEdit } from '../../domain/columns';
  import { count } from '../../domain/words/format';
  import { choices } from '../../domain/choices';
  import { isNumeric, isTemporal, kindWords } from '../../domain/kinds';
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
    /** Whether the brief takes it, so that it can be changed there. */
    own?: boolean;
    /** Begin a work-out line from it. */
    online?: (kind: LineKind) => void;
    /** What the values of the table suggest. */
    offers?: LineOffer[];
    onoffer?: (offer: LineOffer) => void;
    /** Where a figure of it is seen through time. */
    through?: string;
    /** The lines come into sight. */
    onlines?: () => void;
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
    own = true,
    online,
    offers = [],
    onoffer,
    onlines,
    through = '',
  }: Props = $props();

  const share = $derived(
    column.filled === null || column.filled === undefined || !rows ? 1 : column.filled / rows,
  );
  type TabName = 'look' | 'column' | 'lines';
  const TABS = $derived<[TabName, string][]>([
    ['look', 'At a glance'],
    ...(own ? ([['column', 'The column']] as [TabName, string][]) : []),
    ...(online ? ([['lines', 'Work out']] as [TabName, string][]) : []),
  ]);
  let tab = $state<TabName>('look');
  $effect(() => {
    if (tab === 'column' && !own) tab = 'look';
  });
  $effect(() => {
    if (tab === 'lines') untrack(() => onlines?.());
  });
  const suggested = $derived(offers.filter((one) => one.column === column.name));
  /** The lines that are offered for a column of its kind. */
  const lines = $derived(
    choices().lines.filter(
      (one) =>
        one.heading &&
        (one.of === 'any' ||
          (one.of === 'numbers' && isNumeric(column)) ||
          (one.of === 'dates' && isTemporal(column)) ||
          (one.of === 'texts' && column.kind === 'text')),
    ),
  );
  let over = $state(false);
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
  class="carry"
  class:over
  draggable={own && column.origin === 'taken'}
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
            {#if through}<p class="mt-2 text-[13px]">
                <a class="plain" href={through}>See it through time</a>
              </p>{/if}
          {:else if shown === 'lines'}
            {#each suggested as offer (offer.label)}
              <button
                class="offer"
                onclick={() => {
                  close();
                  onoffer?.(offer);
                }}><b>{offer.label}</b> <span class="muted">{offer.evidence}</span></button
              >
            {/each}
            <div class="lines">
              {#each lines as one (one.key)}
                <button
                  title={one.hint}
                  onclick={() => {
                    close();
                    online?.(one);
                  }}>{one.heading}</button
                >
              {/each}
            </div>
          {:else}
            <ColumnSettings {column} {chosen} {isKey} {onchange} {ondrop} {onmove} {onkey} onclose={close} />
          {/if}
        {/snippet}
      </Tabs>
    {/snippet}
  </Popover>
</div>

<style>
  .lines {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 0 6px;
  }
  .lines button {
    padding: 4px 7px;
    border-radius: 5px;
    text-align: left;
    cursor: pointer;
  }
  .offer {
    display: block;
    width: 100%;
    margin-bottom: 5px;
    padding: 5px 8px;
    border: 1px solid var(--damson-edge);
    border-radius: 7px;
    text-align: left;
    line-height: 17px;
    cursor: pointer;
  }
  .offer b {
    display: block;
    color: var(--damson);
    font-weight: 600;
  }
  .offer .muted {
    display: block;
    font-size: 12px;
    overflow-wrap: anywhere;
  }
  .offer:hover,
  .lines button:hover {
    background: var(--damson-wash);
    color: var(--damson);
  }
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
