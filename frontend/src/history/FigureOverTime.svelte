<!-- A figure of a table on every date, as a line and as a table. -->
<script lang="ts">
  import Download from '@lucide/svelte/icons/download';
  import { onMount } from 'svelte';
  import { push, replace, router } from 'svelte-spa-router';
  import {
    api,
    ask,
    problemOf,
    type FigureLine,
    type Format,
    type Problem,
    type QueryDetail,
  } from '../api/client';
  import { Latest } from '../api/latest';
  import { isNumeric } from '../domain/kinds';
  import { momentText } from '../domain/timeline';
  import { counted, dated, numberText, percent, signed } from '../domain/words/format';
  import { keptStyle } from '../domain/csv';
  import { fileOptions, queryText } from '../domain/files';
  import { STATE_SIGNS } from '../domain/words/proof';
  import FileLinks from '../parts/FileLinks.svelte';
  import Popover from '../ui/Popover.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import { figureOf, figuresOverTime, figureWords, namedFigure, type FigureName } from './figures';
  import LineOverTime from './LineOverTime.svelte';
  import WatchButton from './WatchButton.svelte';

  interface Props {
    /** Number of the query. */
    id: number;
  }
  let { id }: Props = $props();
  const named = new URLSearchParams(router.querystring ?? '');

  let detail = $state.raw<QueryDetail | null>(null);
  let columns = $state.raw<{ name: string; numeric: boolean }[]>([]);
  let figure = $state(namedFigure(named.get('figure')));
  let column = $state(named.get('column') ?? '');
  let found = $state.raw<FigureLine | null>(null);
  /** What was found is a figure of. */
  let of = $state.raw<{ figure: FigureName; column: string }>({ figure: 'rows', column: '' });
  let problem = $state.raw<Problem | null>(null);
  let coming = $state(false);
  const latest = new Latest((query: { figure: FigureName; column: string }) =>
    ask(api.GET('/api/queries/{query_id}/figure', { params: { path: { query_id: id }, query } })),
  );

  onMount(() => {
    ask(api.GET('/api/queries/{query_id}', { params: { path: { query_id: id } } })).then(
      async (own) => {
        detail = own;
        document.title = `${own.brief.name} through time · Tin Bucket`;
        columns = own.columns.map((one) => ({ name: one.name, numeric: isNumeric(one) }));
        // Behind its lines it may have others.
        if (!own.brief.work_out.length && !own.brief.start) return;
        const told = await ask(
          api.GET('/api/work-out/{query_id}/columns', { params: { path: { query_id: id } } }),
        ).catch(() => []);
        if (told.length) columns = told.map((one) => ({ name: one.name, numeric: isNumeric(one) }));
      },
      (error: unknown) => (problem = problemOf(error)),
    );
  });

  $effect(() => {
    const query = { figure, column: figureOf(figure).column ? column : '' };
    if (figureOf(figure).column && !column) return;
    coming = true;
    latest.ask(query).then(
      (told) => {
        if (!told) return;
        found = told.value;
        of = query;
        problem = null;
        coming = false;
      },
      (error: unknown) => {
        problem = problemOf(error);
        coming = false;
      },
    );
    void replace(
      `/query/${id}/through-time?figure=${figure}${query.column ? `&column=${encodeURIComponent(column)}` : ''}`,
    );
  });

  const label = $derived(figureWords(of.figure, of.column));
  const offered = $derived(columns.filter((one) => one.numeric || !figureOf(figure).numbers));
  const rows = $derived.by(() => {
    const line = found;
    if (!line) return [];
    return line.snapshots
      .map((snapshot, index) => ({
        snapshot,
        at: (line.at[index] ?? 0) * 1000,
        state: line.states[index] ?? '',
        value: line.values[index] ?? null,
        why: line.why[index] ?? '',
        before: line.values.slice(0, index).findLast((one) => one !== null) ?? null,
      }))
      .reverse();
  });
  const digits = $derived(rows.every((one) => one.value === null || Number.isInteger(one.value)) ? 0 : 2);
  const change = $derived.by(() => {
    const [now] = rows;
    if (!now || now.value === null || now.before === null) return '';
    const by = now.value - now.before;
    if (!by) return 'the same as on the date before';
    const share = now.before ? `, ${percent(Math.abs(by), Math.abs(now.before))}` : '';
    return `${numberText(Math.abs(by), digits)}${share} ${by > 0 ? 'more' : 'less'} than on the date before`;
  });

  let how = $state.raw(keptStyle());
  const address = (one: Format): string =>
    `/api/queries/${id}/figure.${one.ending}${queryText({
      figure: of.figure,
      column: of.column || undefined,
      ...fileOptions(one, how, true),
    })}`;

  function choose(next: FigureName): void {
    figure = next;
    if (!figureOf(next).column) return;
    const fits = columns.filter((one) => one.numeric || !figureOf(next).numbers);
    if (!fits.some((one) => one.name === column)) column = fits[0]?.name ?? '';
  }
</script>

<div class="flex h-full flex-col">
  <header class="border-b px-4 py-3" style="border-color: var(--line)">
    <div class="flex items-center gap-3 max-[700px]:flex-wrap">
      <h1 class="min-w-0 truncate text-[19px] font-bold">{detail?.brief.name ?? ''} through time</h1>
      <select
        class="field"
        style="width: auto"
        aria-label="Figure"
        value={figure}
        onchange={(event) => choose(namedFigure(event.currentTarget.value))}
      >
        {#each figuresOverTime() as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
      </select>
      {#if figureOf(figure).column}
        <select class="field" style="width: auto; max-width: 220px" aria-label="Column" bind:value={column}>
          {#each offered as one (one.name)}<option>{one.name}</option>{/each}
        </select>
      {/if}
      <span class="muted flex-1 text-[13px]" role="status">{coming ? 'counting' : ''}</span>
      {#if found}<Popover
          label="Export the figure of every date"
          look="press"
          width={280}
          placement="bottom-end"
          onopen={() => (how = keptStyle())}
        >
          {#snippet trigger()}<Download size={15} /> Export{/snippet}
          {#snippet children()}
            <div class="space-y-2 text-[13px]">
              <p>{label} on {counted(found?.at.length ?? 0, 'date')}, with whether each table is complete.</p>
              <FileLinks {how} {address} />
            </div>
          {/snippet}
        </Popover>{/if}
      {#if found}<WatchButton
          queryId={id}
          watch={{
            what: 'figure',
            key: [],
            match: [],
            column: of.column,
            figure: of.figure,
          }}
        />{/if}
      <a class="press" href="#/query/{id}">Back to the query</a>
    </div>
  </header>
  {#if problem}<div class="p-4"><ProblemNote {problem} /></div>{/if}
  {#if found && !problem}
    <div class="min-h-0 flex-1 overflow-auto px-4 py-3">
      {#if rows[0]?.value !== null && rows[0] !== undefined}
        <p class="mb-1">
          <strong class="text-[22px]">{numberText(rows[0].value, digits)}</strong>
          {found.unit} · {label}, {dated(momentText(rows[0].at))}
          {#if change}<span class="muted">· {change}</span>{/if}
        </p>
      {/if}
      <LineOverTime
        at={found.at.map((one) => one * 1000)}
        values={found.values}
        unit={found.unit}
        {label}
        height={260}
        onpick={(index) =>
          void push(`/query/${id}?as-of=${encodeURIComponent(`#${found?.snapshots[index]}`)}`)}
      />
      <table class="listing mt-4">
        <thead>
          <tr
            ><th>Date</th><th class="right">{label}</th><th class="right">Since the date before</th><th
              ><span class="sr-only">State</span></th
            ></tr
          >
        </thead>
        <tbody>
          {#each rows.slice(0, 400) as row (row.snapshot)}
            <tr>
              <td
                ><a class="plain" href="#/query/{id}?as-of={encodeURIComponent(`#${row.snapshot}`)}"
                  >{dated(momentText(row.at))}</a
                ></td
              >
              <td class="right">{row.value === null ? '' : numberText(row.value, digits)}</td>
              <td class="right muted"
                >{row.value !== null && row.before !== null && row.value !== row.before
                  ? signed(row.value - row.before, digits)
                  : ''}</td
              >
              <td class="muted"
                >{row.state === 'complete' ? '' : `${STATE_SIGNS[row.state]} ${row.state}`}
                {row.why}</td
              >
            </tr>
          {/each}
        </tbody>
      </table>
      {#if rows.length > 400}<p class="muted mt-2">
          {counted(rows.length - 400, 'older date')} are in the line.
        </p>{/if}
    </div>
  {/if}
</div>
