<!-- The head of a report: its title, its dates, what can be chosen, and where it goes. -->
<script lang="ts">
  import Redo2 from '@lucide/svelte/icons/redo-2';
  import RefreshCw from '@lucide/svelte/icons/refresh-cw';
  import Undo2 from '@lucide/svelte/icons/undo-2';
  import type { Report } from '../api/client';
  import { choices } from '../domain/choices';
  import { dated, day } from '../domain/words/format';
  import Popover from '../ui/Popover.svelte';
  import ChoicesEditor from './ChoicesEditor.svelte';
  import ChoiceField from './ChoiceField.svelte';
  import HandOut from './HandOut.svelte';
  import type { ReportStore } from './reportStore.svelte';

  interface Props {
    store: ReportStore;
  }
  let { store }: Props = $props();
  const report = $derived(store.report as Report);

  const localDay = (iso: string): string => {
    const own = new Date(iso);
    const two = (value: number): string => String(value).padStart(2, '0');
    return `${own.getFullYear()}-${two(own.getMonth() + 1)}-${two(own.getDate())}`;
  };
  /** The days on which there are tables, the newest first. */
  const days = $derived([...new Set(store.dates.map(localDay))]);
  const asOf = $derived(store.read?.as_of ? dated(store.read.as_of) : '…');
  const against = $derived(store.read?.against ? day(store.read.against) : 'nothing');
  const keeping = { kept: 'kept', waiting: 'not kept yet', keeping: 'keeping…' };
</script>

<h1 class="sr-only">{report.title}</h1>
<header class="head not-printed">
  <input
    class="title"
    name="report-title"
    aria-label="Title of the report"
    maxlength="200"
    value={report.title}
    onchange={(event) => {
      const typed = event.currentTarget.value.trim();
      if (typed) store.change({ ...report, title: typed });
      else event.currentTarget.value = report.title;
    }}
  />
  <span class="kept" role="status" class:waiting={store.unkept}>{keeping[store.keeping]}</span>
  <button class="round" aria-label="Undo" title="Undo" disabled={!store.past.length} onclick={store.undo}
    ><Undo2 size={16} /></button
  >
  <button class="round" aria-label="Redo" title="Redo" disabled={!store.future.length} onclick={store.redo}
    ><Redo2 size={16} /></button
  >
  <button class="round" aria-label="Read it again" title="Read it again" onclick={() => store.again()}
    ><RefreshCw size={15} /></button
  >
  <Popover label="As of which date" look="press" width={270} placement="bottom-end">
    {#snippet trigger()}<span class="muted font-normal">as of</span> {asOf}{/snippet}
    {#snippet children(close)}
      <div class="space-y-2 text-[13.5px]">
        <button
          class="press w-full"
          class:main={!store.asOf}
          onclick={() => {
            store.asOf = '';
            close();
          }}>The newest tables</button
        >
        <label class="block"
          ><span class="label">A day; the last tables up to its end</span>
          <input
            class="field"
            type="date"
            name="as-of"
            max={days[0]}
            min={days.at(-1)}
            value={store.asOf}
            onchange={(event) => (store.asOf = event.currentTarget.value)}
          /></label
        >
        <ul class="days" aria-label="Days with tables">
          {#each days.slice(0, 60) as one (one)}
            <li>
              <button
                class:on={store.asOf === one}
                onclick={() => {
                  store.asOf = one;
                  close();
                }}>{day(one)}</button
              >
            </li>
          {/each}
        </ul>
      </div>
    {/snippet}
  </Popover>
  <Popover label="Against which date" look="press" width={270} placement="bottom-end">
    {#snippet trigger()}<span class="muted font-normal">against</span> {against}{/snippet}
    {#snippet children(close)}
      <div class="space-y-2 text-[13.5px]">
        <label class="block"
          ><span class="label">The report is held against</span>
          <select
            class="field"
            name="against-rule"
            value={report.against}
            onchange={(event) => {
              store.against = null;
              store.change({ ...report, against: event.currentTarget.value as Report['against'] });
            }}
          >
            {#each choices().against as { value, label } (value)}<option {value}>{label}</option>{/each}
          </select></label
        >
        <label class="block"
          ><span class="label">or, for now, a day</span>
          <input
            class="field"
            type="date"
            name="against"
            max={days[0]}
            min={days.at(-1)}
            value={store.against && store.against !== 'none' ? store.against : ''}
            onchange={(event) => (store.against = event.currentTarget.value || null)}
          /></label
        >
        {#if store.against}
          <button
            class="press w-full"
            onclick={() => {
              store.against = null;
              close();
            }}>As the report says</button
          >
        {/if}
      </div>
    {/snippet}
  </Popover>
  {#each store.read?.choices ?? [] as one (one.name)}
    <ChoiceField
      choice={one}
      value={store.chosen[one.name] ?? one.value}
      onchange={(value) => (store.chosen = { ...store.chosen, [one.name]: value })}
      onask={store.askAnew}
    />
  {/each}
  <ChoicesEditor {store} />
  <HandOut {store} />
</header>

<style>
  .head {
    display: flex;
    flex-wrap: wrap;
    align-items: center;
    gap: 8px;
    padding: 9px 20px;
  }
  .title {
    flex: 1;
    min-width: 150px;
    border: 0;
    border-bottom: 1px solid transparent;
    background: none;
    font-size: 19px;
    font-weight: 700;
    text-overflow: ellipsis;
  }
  .title:hover,
  .title:focus {
    border-bottom-color: var(--faint);
  }
  .kept {
    color: var(--muted);
    font-size: 12.5px;
  }
  .kept.waiting {
    color: var(--straw-ink);
  }
  .round {
    display: grid;
    place-items: center;
    width: 28px;
    height: 28px;
    border-radius: 7px;
    color: var(--muted);
    cursor: pointer;
  }
  .round:hover:not(:disabled) {
    background: var(--damson-wash);
    color: var(--damson);
  }
  .round:disabled {
    opacity: 0.35;
    cursor: default;
  }
  .days {
    max-height: 220px;
    overflow: auto;
  }
  .days button {
    width: 100%;
    padding: 2px 8px;
    border-radius: 5px;
    text-align: left;
    cursor: pointer;
  }
  .days button:hover,
  .days button.on {
    background: var(--damson-wash);
    color: var(--damson);
  }
</style>
