<!-- For each: the values that the question is asked for. -->
<script lang="ts">
  import { Trash2 } from '@lucide/svelte';
  import { onMount } from 'svelte';
  import { api, ask, type Brief, type FirstCall, type Each, type SheetInfo } from '../../api/client';
  import { counted } from '../../domain/words/format';
  import { lines } from '../../domain/parameters';
  import { relative } from '../../domain/words/durations';
  import { listWords } from '../../domain/words/labels';
  import Popover from '../../ui/Popover.svelte';
  import EditorRow from './EditorRow.svelte';

  interface Props {
    brief: Brief;
    firstCall: FirstCall | null;
    /** The iterations of the last run that failed, and why. */
    failed: { label: string; what: string; words: string }[];
    onchange: (brief: Brief) => void;
  }
  let { brief, firstCall, failed, onchange }: Props = $props();

  let draft = $state.raw<Each[]>([]);
  let others = $state.raw<string[]>([]);
  let columns = $state<Record<string, string[]>>({});
  let sheets = $state.raw<SheetInfo[]>([]);
  let ids: Record<string, number> = {};

  onMount(() => {
    ask(api.GET('/api/desk')).then(
      (desk) => {
        others = desk.queries
          .filter((line) => line.latest && line.name !== brief.name)
          .map((line) => line.name);
        ids = Object.fromEntries(desk.queries.map((line) => [line.name, line.id]));
        for (const one of brief.each) if (one.by === 'column') void loadColumns(one.query);
      },
      () => (others = []),
    );
    ask(api.GET('/api/sheets')).then(
      (found) => (sheets = found),
      () => (sheets = []),
    );
  });

  async function loadColumns(query: string): Promise<void> {
    const id = ids[query];
    if (id === undefined || columns[query]) return;
    const detail = await ask(
      api.GET('/api/queries/{query_id}', { params: { path: { query_id: id } } }),
    ).catch(() => null);
    if (detail) columns[query] = detail.columns.map((column) => column.name);
  }

  const names = $derived(brief.parameters.map((parameter) => parameter.name));
  const first = $derived(names[0] ?? '');
  const label = (name: string): string => brief.parameters.find((one) => one.name === name)?.label || name;

  const WAYS: [Each['by'], string][] = [
    ['list', 'values of a list'],
    ['range', 'days, weeks or months'],
    ['column', 'a column of another table'],
    ['sheet', 'rows of a sheet'],
    ['parameter', 'values of a list parameter'],
  ];

  function make(by: Each['by'], parameter: string): Each {
    switch (by) {
      case 'range':
        return {
          by,
          parameter,
          step: brief.parameters.find((one) => one.name === parameter)?.kind === 'month' ? 'month' : 'day',
          start: { anchor: 'today', offset: '-P6D' },
          end: { anchor: 'today', offset: 'P0D' },
        };
      case 'column':
        return { by, parameter, query: others[0] ?? '', column: '' };
      case 'sheet':
        return { by, sheet: sheets[0]?.name ?? '', with: { [parameter]: sheets[0]?.headings[0] ?? '' } };
      case 'parameter':
        return { by, parameter };
      default:
        return { by: 'list', parameter, values: [] };
    }
  }

  const set = (at: number, change: object): void => {
    draft = draft.map((one, index) => (index === at ? ({ ...one, ...change } as Each) : one));
  };
  const parameterOf = (one: Each): string =>
    one.by === 'sheet' ? (Object.keys(one.with)[0] ?? first) : one.parameter;

  function words(one: Each): string {
    switch (one.by) {
      case 'list':
        return `${label(one.parameter)} of ${listWords(one.values)}`;
      case 'range':
        return `${one.step}, ${edge(one.start)} – ${edge(one.end)}`;
      case 'column':
        return `${one.column} of “${one.query}”`;
      case 'sheet':
        return `row of the sheet “${one.sheet}”`;
      default:
        return `value of ${label(one.parameter)}`;
    }
  }
  const edge = (one: string | { anchor: string; offset: string }): string =>
    typeof one === 'string' ? one : relative(one.anchor, one.offset);

  type Edge = Extract<Each, { by: 'range' }>['start'];
  function edgeOf(text: string, fallback: Edge): Edge {
    const match = /^(-?\d+)$/.exec(text.trim());
    if (match) {
      const amount = Number(match[1]);
      return { anchor: 'today', offset: `${amount < 0 ? '-' : ''}P${Math.abs(amount)}D` };
    }
    return text || fallback;
  }

  function done(close: () => void): void {
    onchange({ ...brief, each: draft });
    close();
  }
</script>

{#snippet edgeField(at: number, name: 'start' | 'end', value: Edge, words: string)}
  {@const moves = typeof value === 'object'}
  <div>
    <span class="label">{words}</span>
    <div class="flex gap-1.5">
      <select
        class="field"
        style="width: 112px"
        aria-label="{words}, how"
        value={moves ? value.anchor : 'date'}
        onchange={(event) => {
          const anchor = event.currentTarget.value;
          set(at, {
            [name]:
              anchor === 'date'
                ? new Date().toISOString().slice(0, 10)
                : { anchor, offset: moves ? value.offset : 'P0D' },
          });
        }}
      >
        <option value="date">the date</option><option>today</option><option>start of week</option>
        <option>start of month</option><option>start of quarter</option><option>start of year</option>
        <option>last refresh</option>
      </select>
      {#if moves}
        {@const days = /^(-?)P(\d+)D$/.exec(value.offset)}
        <input
          class="field"
          type="number"
          style="width: 54px"
          aria-label="{words}, days more or less"
          title="days more or less"
          value={days ? Number(`${days[1]}${days[2]}`) : 0}
          onchange={(event) => {
            const found = edgeOf(event.currentTarget.value || '0', value);
            set(at, { [name]: typeof found === 'object' ? { ...value, offset: found.offset } : value });
          }}
        />
        <span class="muted self-center text-[12.5px]">days</span>
      {:else}
        <input
          class="field"
          type="date"
          aria-label={words}
          {value}
          onchange={(event) => event.currentTarget.value && set(at, { [name]: event.currentTarget.value })}
        />
      {/if}
    </div>
  </div>
{/snippet}

{#snippet form(close: () => void)}
  <div class="space-y-3">
    <p class="muted text-[13px]">
      The question is asked once for every value, or for every combination; the values become columns, and one
      that fails does not lose the others.
    </p>
    {#each draft as one, at (at)}
      <div class="space-y-2 rounded-md border p-2.5" style="border-color: var(--line)">
        <div class="grid grid-cols-[1fr_1fr_26px] gap-2">
          <label>
            <span class="label">For each of</span>
            <select
              class="field"
              name="each-by"
              value={one.by}
              onchange={(event) => {
                const made = make(event.currentTarget.value as Each['by'], parameterOf(one));
                draft = draft.map((old, index) => (index === at ? made : old));
                if (made.by === 'column') void loadColumns(made.query);
              }}
            >
              {#each WAYS as [by, words] (by)}<option value={by}>{words}</option>{/each}
            </select>
          </label>
          {#if one.by !== 'sheet'}
            <label>
              <span class="label">it is the parameter</span>
              <select
                class="field"
                name="each-parameter"
                value={one.parameter}
                onchange={(event) => set(at, { parameter: event.currentTarget.value })}
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
                onchange={(event) => set(at, { sheet: event.currentTarget.value })}
              >
                {#each sheets as sheet (sheet.name)}<option>{sheet.name}</option>{/each}
              </select>
            </label>
          {/if}
          <button
            type="button"
            class="mt-5 cursor-pointer"
            style="color: var(--muted)"
            aria-label="Remove"
            onclick={() => (draft = draft.filter((_, index) => index !== at))}><Trash2 size={15} /></button
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
              oninput={(event) => set(at, { values: lines(event.currentTarget.value) })}></textarea>
          </label>
        {:else if one.by === 'range'}
          <label class="block">
            <span class="label">Step</span>
            <select
              class="field"
              style="width: 190px"
              value={one.step}
              onchange={(event) => set(at, { step: event.currentTarget.value })}
            >
              <option value="day">every day</option><option value="week">every week, its Monday</option>
              <option value="month">every month</option>
            </select>
          </label>
          <div class="flex gap-3">
            {@render edgeField(at, 'start', one.start, 'From')}
            {@render edgeField(at, 'end', one.end, 'To')}
          </div>
        {:else if one.by === 'column'}
          <div class="grid grid-cols-2 gap-2">
            <label>
              <span class="label">Query</span>
              <select
                class="field"
                value={one.query}
                onchange={(event) => {
                  set(at, { query: event.currentTarget.value, column: '' });
                  void loadColumns(event.currentTarget.value);
                }}
              >
                {#each others as name (name)}<option>{name}</option>{/each}
              </select>
            </label>
            <label>
              <span class="label">Column, each distinct value once</span>
              <select
                class="field"
                value={one.column}
                onchange={(event) => set(at, { column: event.currentTarget.value })}
              >
                <option value="">choose…</option>
                {#each columns[one.query] ?? [] as name (name)}<option>{name}</option>{/each}
              </select>
            </label>
          </div>
          {#if !others.length}<p class="muted">No other query has a table yet.</p>{/if}
        {:else if one.by === 'sheet'}
          {@const sheet = sheets.find((found) => found.name === one.sheet)}
          {#if !sheets.length}
            <p class="muted">There is no sheet yet. <a class="plain" href="#/sheets">Add one</a> first.</p>
          {/if}
          {#each names as name (name)}
            <label class="grid grid-cols-2 items-center gap-2">
              <span>{label(name)}</span>
              <select
                class="field"
                value={one.with[name] ?? ''}
                onchange={(event) => {
                  const rest = Object.fromEntries(Object.entries(one.with).filter(([own]) => own !== name));
                  set(at, {
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
    {/each}
    {#if names.length}
      <button
        type="button"
        class="plain text-[13px]"
        onclick={() => (draft = [...draft, make('list', first)])}
        >{draft.length ? 'combine with more values' : 'add values'}</button
      >
    {:else}
      <p class="seen">
        The question has no parameter yet. Put one in braces into the path, an address parameter or the body
        first.
      </p>
    {/if}
    <div class="foot"><button class="press main small" onclick={() => done(close)}>Done</button></div>
  </div>
{/snippet}

{#if brief.each.length}
  <EditorRow
    verb="For each"
    note={firstCall && firstCall.iterations > 1
      ? `${counted(firstCall.iterations, 'iteration')}: ${firstCall.iteration_labels.slice(0, 3).join(' · ')}${firstCall.iterations > 3 ? ' …' : ''}`
      : firstCall?.iterations === 1
        ? 'one round'
        : ''}
  >
    {#each brief.each as one, at (at)}
      {at ? ' and each ' : ''}<Popover label="For each" onopen={() => (draft = brief.each)} width={480}>
        {#snippet trigger()}{words(one)}{/snippet}
        {#snippet children(close)}{@render form(close)}{/snippet}
      </Popover>{/each}.
    {#each failed.slice(0, 3) as one (one.label)}
      <span class="failed"><strong>{one.label}</strong> failed: {one.words || one.what}</span>
    {/each}
    {#if failed.length > 3}<span class="failed">{failed.length - 3} more failed; see Calls.</span>{/if}
  </EditorRow>
{:else}
  <EditorRow verb="For each">
    <Popover
      label="For each"
      look="phrase quiet"
      onopen={() => (draft = names.length ? [make('list', first)] : [])}
      width={480}
    >
      {#snippet trigger()}asked once{/snippet}
      {#snippet children(close)}{@render form(close)}{/snippet}
    </Popover>.
  </EditorRow>
{/if}

<style>
  .failed {
    display: block;
    margin-top: 3px;
    padding: 1px 7px;
    border: 1px solid var(--straw);
    border-radius: 5px;
    background: var(--straw-wash);
    font-size: 12.5px;
    line-height: 17px;
  }
</style>
