<!-- What readers can choose: which column, and how its values count. -->
<script lang="ts">
  import SlidersHorizontal from '@lucide/svelte/icons/sliders-horizontal';
  import type { Column, Report } from '../api/client';
  import Popover from '../ui/Popover.svelte';
  import Taken from '../ui/Taken.svelte';
  import { queryColumns } from './queryColumns';
  import type { ReportStore } from './reportStore.svelte';

  interface Props {
    store: ReportStore;
  }
  let { store }: Props = $props();
  type How = 'is' | 'from' | 'to';
  const HOW: Record<How, string> = {
    is: 'one of its values',
    from: 'the first that counts',
    to: 'the last that counts',
  };

  let columns = $state.raw<Column[]>([]);
  let column = $state('');
  let how = $state<How>('is');
  let name = $state('');
  const report = $derived(store.report as Report);
  const proposed = $derived(how === 'is' ? column : how);

  async function open(): Promise<void> {
    const found = await Promise.all(store.queries.map((one) => queryColumns(one).catch(() => [])));
    const seen = new Map(found.flat().map((one) => [one.name, one]));
    columns = [...seen.values()].filter((one) => !one.hidden);
  }
  function add(): void {
    const own = (name.trim() || proposed).slice(0, 80);
    if (!column || report.choices.some((one) => one.name === own)) return;
    store.change({
      ...report,
      choices: [...report.choices, { name: own, column, how, value: '', asks: false }],
    });
    column = name = '';
    how = 'is';
  }
</script>

<Popover
  label="What readers can choose"
  look="round-press"
  width={340}
  placement="bottom-end"
  icon
  onopen={() => void open()}
>
  {#snippet trigger()}<SlidersHorizontal size={16} />{/snippet}
  {#snippet children()}
    <div class="space-y-2 text-[13.5px]">
      <p>
        What readers can choose. Rows are left out that do not fit. No call is made, unless that is switched
        on.
      </p>
      {#each report.choices as one, at (one.name)}
        <div>
          <Taken
            text="{one.name}: {one.column}, {HOW[one.how ?? 'is']}"
            onremove={() =>
              store.change({ ...report, choices: report.choices.filter((_, index) => index !== at) })}
          />
          <label class="flex items-center gap-1.5"
            ><input
              type="checkbox"
              name="choice-asks"
              checked={!!one.asks}
              onchange={(event) =>
                store.change({
                  ...report,
                  choices: report.choices.map((own, index) =>
                    index === at ? { ...own, asks: event.currentTarget.checked } : own,
                  ),
                })}
            />
            may ask queries anew that have a parameter “{one.name}”</label
          >
        </div>
      {/each}
      {#if report.choices.length < 6}
        <select class="field" name="new-choice" aria-label="Column" bind:value={column}>
          <option value="">a column…</option>
          {#each columns as one (one.name)}<option>{one.name}</option>{/each}
        </select>
        {#if column}
          <select class="field" name="new-choice-how" aria-label="How its values count" bind:value={how}>
            {#each Object.entries(HOW) as [key, words] (key)}<option value={key}>{words}</option>{/each}
          </select>
          <input
            class="field"
            name="new-choice-name"
            aria-label="Its name"
            placeholder={proposed}
            maxlength="80"
            bind:value={name}
          />
          <button class="press main" onclick={add}>Add</button>
        {/if}
      {/if}
    </div>
  {/snippet}
</Popover>

<style>
  :global(.round-press) {
    display: grid;
    place-items: center;
    width: 31px;
    height: 31px;
    border: 1px solid var(--line);
    border-radius: 7px;
    background: var(--paper);
    cursor: pointer;
  }
</style>
