<!-- One way to give a parameter its values: a list, a range of dates, a column, a sheet. -->
<script lang="ts">
  import Trash2 from '@lucide/svelte/icons/trash-2';
  import { api, ask, type Brief, type Each } from '../../../api/client';
  import { labelOf, made, WAYS, type Offered } from '../../../domain/fanOut';
  import { lines } from '../../../domain/parameters';
  import AddSheet from '../../../parts/AddSheet.svelte';
  import FanOutEdge from './FanOutEdge.svelte';

  interface Props {
    one: Each;
    brief: Brief;
    offered: Offered;
    /** The numbers of the queries by their names. */
    ids: Record<string, number>;
    onchange: (one: Each) => void;
    onremove: () => void;
    /** There is one more sheet. */
    onsheets: () => Promise<void>;
  }
  let { one, brief, offered, ids, onchange, onremove, onsheets }: Props = $props();

  const names = $derived(brief.parameters.map((parameter) => parameter.name));
  const others = $derived(names.filter((name) => one.by !== 'range' || name !== one.parameter));
  const set = (change: object): void => onchange({ ...one, ...change } as Each);

  function switchTo(by: Each['by']): void {
    const parameter = one.by === 'sheet' ? Object.keys(one.with)[0] : one.parameter;
    onchange(made(by, parameter ?? names[0] ?? '', brief, offered));
  }

  let columns = $state.raw<string[]>([]);
  const queryId = $derived(one.by === 'column' ? ids[one.query] : undefined);
  $effect(() => {
    columns = [];
    if (queryId === undefined) return;
    const path = { query_id: queryId };
    // Behind its work-out lines: top five of one table may be what another one is asked for.
    ask(api.GET('/api/work-out/{query_id}/columns', { params: { path } })).then(
      (found) => {
        if (path.query_id === queryId) columns = found.map((column) => column.name);
      },
      () => {},
    );
  });
</script>

<div class="space-y-2 rounded-md border p-2.5" style="border-color: var(--line)">
  <div class="grid gap-2" style="grid-template-columns: repeat({one.by === 'range' ? 3 : 2}, 1fr) 26px">
    <label>
      <span class="label">For each of</span>
      <select
        class="field"
        name="each-by"
        value={one.by}
        onchange={(event) => switchTo(event.currentTarget.value as Each['by'])}
      >
        {#each WAYS as [by, words] (by)}<option value={by}>{words}</option>{/each}
      </select>
    </label>
    {#if one.by !== 'sheet'}
      <label>
        <span class="label">as the parameter</span>
        <select
          class="field"
          name="each-parameter"
          value={one.parameter}
          onchange={(event) => set({ parameter: event.currentTarget.value })}
        >
          {#each names as name (name)}<option>{name}</option>{/each}
        </select>
      </label>
    {:else}
      <label>
        <span class="label">sheet</span>
        <select
          class="field"
          value={one.sheet}
          onchange={(event) => set({ sheet: event.currentTarget.value })}
        >
          {#each offered.sheets as sheet (sheet.name)}<option>{sheet.name}</option>{/each}
        </select>
      </label>
    {/if}
    {#if one.by === 'range'}
      <label>
        <span class="label">Step</span>
        <select class="field" value={one.step} onchange={(event) => set({ step: event.currentTarget.value })}>
          <option value="day">every day</option><option value="week">every week (Mondays)</option>
          <option value="month">every month</option>
        </select>
      </label>
    {/if}
    <button
      type="button"
      class="mt-5 cursor-pointer"
      style="color: var(--muted)"
      aria-label="Remove"
      onclick={onremove}><Trash2 size={15} /></button
    >
  </div>
  {#if one.by === 'list'}
    <label class="block">
      <span class="label">Values, one a line; can be pasted from a sheet</span>
      <textarea
        class="field mono"
        name="each-values"
        rows="4"
        value={one.values.join('\n')}
        oninput={(event) => set({ values: lines(event.currentTarget.value) })}></textarea>
    </label>
  {:else if one.by === 'range'}
    <div class="space-y-2">
      <FanOutEdge label="From" value={one.start} names={others} onchange={(start) => set({ start })} />
      <FanOutEdge label="To" value={one.end} names={others} onchange={(end) => set({ end })} />
    </div>
  {:else if one.by === 'column'}
    <div class="grid grid-cols-2 gap-2">
      <label>
        <span class="label">Query</span>
        <select
          class="field"
          value={one.query}
          onchange={(event) => set({ query: event.currentTarget.value, column: '' })}
        >
          {#each offered.queries as name (name)}<option>{name}</option>{/each}
        </select>
      </label>
      <label>
        <span class="label">Column, each distinct value once</span>
        <select
          class="field"
          value={one.column}
          onchange={(event) => set({ column: event.currentTarget.value })}
        >
          <option value="">choose…</option>
          {#each columns as name (name)}<option>{name}</option>{/each}
        </select>
      </label>
    </div>
    <label class="flex items-center gap-2">
      <input
        type="checkbox"
        name="refresh-first"
        checked={one.first}
        onchange={(event) => set({ first: event.currentTarget.checked })}
      />
      Refresh {one.query || 'it'} first, in the same refresh
    </label>
    {#if !offered.queries.length}<p class="muted">No other query has a table yet.</p>{/if}
  {:else if one.by === 'sheet'}
    {@const sheet = offered.sheets.find((found) => found.name === one.sheet)}
    <AddSheet
      onadded={async (name) => {
        await onsheets();
        const heading = offered.sheets.find((one) => one.name === name)?.headings[0];
        set({ sheet: name, with: names[0] && heading ? { [names[0]]: heading } : {} });
      }}
    />
    {#each names as name (name)}
      <label class="grid grid-cols-2 items-center gap-2">
        <span>{labelOf(brief, name)}</span>
        <select
          class="field"
          value={one.with[name] ?? ''}
          onchange={(event) => {
            const rest = Object.fromEntries(Object.entries(one.with).filter(([own]) => own !== name));
            set({
              with: event.currentTarget.value ? { ...rest, [name]: event.currentTarget.value } : rest,
            });
          }}
        >
          <option value="">not from the sheet</option>
          {#each sheet?.headings ?? [] as heading (heading)}<option>{heading}</option>{/each}
        </select>
      </label>
    {/each}
  {/if}
</div>
