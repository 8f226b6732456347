<!-- The tables that a query starts from. -->
<script lang="ts">
  import type { Brief, Start } from '../../api/client';
  import TablesField from '../../workOut/fields/TablesField.svelte';
  import Popover from '../../ui/Popover.svelte';
  import EditorRow from './EditorRow.svelte';

  interface Props {
    brief: Brief;
    start: Start;
    onchange: (brief: Brief) => void;
  }
  let { brief, start, onchange }: Props = $props();
  let tables = $state.raw<Start['tables']>([]);
  let whose = $state('');
  let every = $state.raw<Start['every_date']>(null);
  const ROWS = [
    { rows: 'all', words: 'every date', label: 'all rows of each date, with the date as a column' },
    {
      rows: 'each once',
      words: 'each row ever seen',
      label: 'each row that was ever seen, once: as it was last, with when it was seen first and last',
    },
    {
      rows: 'changes',
      words: 'the changes',
      label: 'the changes: each row that is new, changed or gone against the date before, with what it was',
    },
  ] as const;
  const names = $derived(start.tables.map((one) => one.query ?? `sheet ${one.sheet}`));
  const canEvery = $derived(tables.length === 1 && !!tables[0]?.query && !whose.trim());
</script>

<EditorRow verb="Start">
  from
  <Popover
    label="The tables it starts from"
    onopen={() => {
      tables = start.tables;
      whose = start.whose;
      every = start.every_date ?? null;
    }}
  >
    {#snippet trigger()}{names.join(', then ')}{start.every_date
        ? `, ${ROWS.find((one) => one.rows === start.every_date?.rows)?.words}${start.every_date.days ? ` of the last ${start.every_date.days} days` : ''}`
        : ''}{/snippet}
    {#snippet children(close)}
      <div class="space-y-2.5">
        <TablesField
          label="Tables, the rows of one below those of the other"
          value={tables as never}
          onchange={(value) => (tables = value as never)}
        />
        <label class="block">
          <span class="label">A column that says which table a row is of</span>
          <input class="field" name="whose" placeholder="none" bind:value={whose} />
        </label>
        <label class="flex items-center gap-2"
          ><input
            type="checkbox"
            name="every-date"
            checked={!!every}
            disabled={!canEvery}
            onchange={(event) =>
              (every = event.currentTarget.checked ? { days: 30, column: 'as of', rows: 'all' } : null)}
          /> Every date of it, not one alone</label
        >
        {#if every && canEvery}
          <fieldset class="text-[13px]">
            {#each ROWS as one (one.rows)}
              <label class="mb-1 flex items-start gap-2"
                ><input
                  class="mt-0.5"
                  type="radio"
                  name="every-rows"
                  checked={every.rows === one.rows}
                  onchange={() => {
                    if (every) every = { ...every, rows: one.rows };
                  }}
                />
                <span>{one.label}</span></label
              >
            {/each}
          </fieldset>
          <div class="grid grid-cols-2 gap-2">
            <label
              ><span class="label">Days back; all when empty</span>
              <input
                class="field"
                type="number"
                min="1"
                name="every-days"
                value={every.days ?? ''}
                onchange={(event) => {
                  const days = Math.round(Number(event.currentTarget.value));
                  if (every) every = { ...every, days: days >= 1 ? days : null };
                }}
              /></label
            >
            <label
              ><span class="label">The column of the date</span>
              <input
                class="field"
                name="every-column"
                value={every.column}
                onchange={(event) => {
                  if (every) every = { ...every, column: event.currentTarget.value.trim() || 'as of' };
                }}
              /></label
            >
          </div>
        {/if}
        <button
          class="press main small"
          disabled={!tables.length}
          onclick={() => {
            const every_date = canEvery ? every : null;
            onchange({ ...brief, start: { tables, whose: whose.trim(), every_date } });
            close();
          }}>Done</button
        >
      </div>
    {/snippet}
  </Popover>
</EditorRow>
