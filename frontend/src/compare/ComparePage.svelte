<script lang="ts">
  import Search from '@lucide/svelte/icons/search';
  import { onMount } from 'svelte';
  import { replace, router } from 'svelte-spa-router';
  import {
    api,
    ask,
    problemOf,
    type Comparison,
    type MergedRow,
    type Problem,
    type QueryDetail,
  } from '../api/client';
  import { count, counted, signed } from '../domain/words/format';
  import {
    dateIndex,
    dateText,
    dateWords,
    marksOf,
    missesOf,
    type Mark,
    type Miss,
  } from '../domain/timeline';
  import { careWords } from '../domain/words/proof';
  import { isNumeric } from '../domain/kinds';
  import { RowSource } from '../table/rows.svelte';
  import CopySentence from './CopySentence.svelte';
  import ExportRows from './ExportRows.svelte';
  import MergedGrid from './MergedGrid.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import SizeBar from './SizeBar.svelte';
  import { EVERY_SIZE, narrows, type SizeChoice } from './sizes';
  import TimeLine from '../parts/TimeLine.svelte';

  interface Props {
    params: { id: string };
  }
  let { params }: Props = $props();
  const id = $derived(Number(params.id));

  let detail = $state.raw<QueryDetail | null>(null);
  let marks = $state.raw<Mark[]>([]);
  let misses = $state.raw<Miss[]>([]);
  let then = $state(0);
  let now = $state(0);
  let found = $state.raw<Comparison | null>(null);
  let show = $state<(typeof states)[number][0]>('differs');
  let column = $state('');
  let choice = $state.raw<SizeChoice>(EVERY_SIZE);
  /** What is typed to be found, and what is looked for: a moment later. */
  let typed = $state('');
  let find = $state('');
  $effect(() => {
    const text = typed.trim();
    const timer = setTimeout(() => (find = text), text ? 250 : 0);
    return () => clearTimeout(timer);
  });
  /** How many rows a narrowed choice has; unknown until it is counted. */
  let narrowed = $state<number | null>(null);
  /** Which work-out lines are done to both: today's, those of each date, or none. */
  let reading = $state<'today' | 'then' | 'taken'>('today');
  let sentence = $state<HTMLElement | null>(null);
  const worked = $derived(!!detail?.brief.work_out.length);
  /** A query that starts from tables: the dates are those of others. */
  const started = $derived(detail?.brief.start ? id : undefined);
  let problem = $state<Problem | null>(null);

  onMount(() => {
    const params = { path: { query_id: id } };
    Promise.all([
      ask(api.GET('/api/queries/{query_id}', { params })),
      ask(api.GET('/api/queries/{query_id}/timeline', { params })),
    ]).then(
      ([got, timeline]) => {
        document.title = `${got.brief.name}, then and now · Tin Bucket`;
        marks = marksOf(timeline);
        misses = missesOf(timeline);
        takeFromAddress();
        detail = got;
      },
      (error: unknown) => (problem = problemOf(error)),
    );
  });

  /** The two dates that the address names; the last two where it names none. */
  function takeFromAddress(): void {
    const named = new URLSearchParams(router.querystring ?? '');
    const at = (name: string): number => dateIndex(named.get(name) ?? '', marks);
    const last = marks.length - 1;
    now = at('now') > 0 ? at('now') : last;
    then = at('then') >= 0 ? Math.min(at('then'), now - 1) : now - 1;
  }

  /** Move one of the two dates; they never pass each other. */
  function move(name: string, index: number): void {
    if (name === 'then') then = Math.min(index, now - 1);
    else now = Math.max(index, then + 1);
    const text = (at: number): string => {
      const mark = marks[at];
      return mark ? encodeURIComponent(dateText(mark, marks)) : '';
    };
    void replace(`/query/${id}/compare?then=${text(then)}&now=${text(now)}`);
  }

  const ids = $derived({ then: detail ? marks[then]?.id : undefined, now: marks[now]?.id, reading });

  $effect(() => {
    const query = ids;
    if (query.then === undefined || query.now === undefined) return;
    const asked = { then: query.then, now: query.now, reading: query.reading, query_id: started };
    ask(api.GET('/api/compare', { params: { query: asked } })).then(
      (got) => {
        if (ids.then !== query.then || ids.now !== query.now || ids.reading !== query.reading) return;
        found = got;
        problem = null;
        if (column && !got.columns.some((one) => one.name === column)) column = '';
      },
      (error: unknown) => (problem = problemOf(error)),
    );
  });

  const differing = $derived(
    found ? (found.counts.new ?? 0) + (found.counts.gone ?? 0) + (found.counts.changed ?? 0) : 0,
  );
  /** How many rows there are before they are narrowed. */
  const all = $derived.by(() => {
    if (!found) return 0;
    if (column) return found.columns.find((one) => one.name === column)?.cells ?? 0;
    return show === 'differs' ? differing : (found.counts[show] ?? 0);
  });
  const fewer = $derived(!!find || (!!column && narrows(choice)));
  const total = $derived(fewer ? narrowed : all);
  const asked = $derived({
    then: found?.then.id ?? 0,
    now: found?.now.id ?? 0,
    show,
    column,
    reading: found ? ids.reading : reading,
    query_id: started,
    ...(column ? choice : EVERY_SIZE),
    ...(find ? { find } : {}),
  });
  $effect(() => {
    const query = asked;
    narrowed = null;
    if (!fewer || !query.now) return;
    ask(api.GET('/api/compare/rows', { params: { query: { ...query, start: 0, count: 0 } } })).then(
      (got) => {
        if (query === asked) narrowed = got.total;
      },
      (error: unknown) => (problem = problemOf(error)),
    );
  });
  const source = $derived.by(() => {
    const query = asked;
    return new RowSource<MergedRow>(total ?? 0, async (start, size) => {
      const window = await ask(
        api.GET('/api/compare/rows', { params: { query: { ...query, start, count: size } } }),
      );
      return window.rows;
    });
  });
  const numeric = $derived(
    new Set(
      (found?.headings ?? [])
        .filter(
          (one) =>
            isNumeric(one) &&
            found?.columns.some((change) => change.name === one.name && change.mean !== null),
        )
        .map((one) => one.name),
    ),
  );
  const most = $derived(Math.max(1, ...(found?.columns ?? []).map((one) => one.cells)));
  const moved = $derived(
    (found?.columns ?? [])
      .filter((one) => one.mean !== null && numeric.has(one.name))
      .sort((a, b) => b.rose + b.fell - a.rose - a.fell)
      .slice(0, 1),
  );
  const states = $derived([
    ['differs', '', 'all that differs', differing],
    ['new', '+', 'new', found?.counts.new ?? 0],
    ['gone', '−', 'gone', found?.counts.gone ?? 0],
    ['changed', '●', 'changed', found?.counts.changed ?? 0],
    ['same', '', 'the same', found?.counts.same ?? 0],
  ] as const);

  /** What the sentence says, with the query's name. */
  function said(told: HTMLElement | null): string {
    const text = (told?.textContent ?? '')
      .replace(/\s+/g, ' ')
      .replace(/ ([.,:])/g, '$1')
      .trim();
    return `${detail?.brief.name ?? ''}: ${text}`;
  }

  function called({ id, taken }: Comparison['then']): string {
    return dateWords({ id, at: Date.parse(taken) }, marks);
  }

  function are(number: number): string {
    return number === 1 ? 'is' : 'are';
  }
</script>

<div class="flex h-full flex-col">
  <header class="border-b px-4 pt-3" style="border-color: var(--line)">
    <div class="flex items-baseline gap-4 max-[700px]:flex-wrap max-[700px]:gap-1">
      <h1 class="truncate text-[19px] font-bold">{detail?.brief.name ?? ''}, then and now</h1>
      <span class="muted flex-1 text-[13.5px]">
        {#if found}{found.match.length
            ? `rows match by ${found.match.join(' and ')}`
            : 'no match columns: a changed row counts as gone and new'}{/if}
      </span>
      {#if worked}
        <label class="text-[13px]"
          ><span class="muted">Work-out</span>
          <select class="field" style="width: auto; height: 29px" name="reading" bind:value={reading}>
            <option value="today">today’s lines for both dates</option>
            <option value="then">the lines of each date</option>
            <option value="taken">before any line</option>
          </select></label
        >
      {/if}
      <div class="flex flex-wrap items-center gap-2">
        {#if found}
          <CopySentence text={() => said(sentence)} />
          <ExportRows
            {asked}
            {total}
            words={(column ? `changed in ${column}` : (states.find(([key]) => key === show)?.[2] ?? '')) +
              (find ? `, with “${find}” in it` : '')}
          />
        {/if}
        <a class="press" href="#/query/{id}">Back to the query</a>
      </div>
    </div>
    {#if detail && marks.length > 1}
      <div class="mt-2">
        <TimeLine
          {marks}
          {misses}
          handles={[
            { name: 'then', index: then },
            { name: 'now', index: now },
          ]}
          onmove={move}
        />
      </div>
    {/if}
  </header>
  {#if problem}<div class="p-4"><ProblemNote {problem} /></div>{/if}
  {#if detail && marks.length < 2}
    <p class="p-8">
      There {marks.length === 1 ? 'is one snapshot' : 'is no snapshot'} so far. A comparison needs two: refresh
      the query again.
    </p>
  {:else if found}
    <p
      bind:this={sentence}
      class="sentence border-b px-4 py-2.5"
      style="border-color: var(--line); background: var(--brief)"
    >
      Between <strong>{called(found.then)}</strong> and <strong>{called(found.now)}</strong>:
      {#if differing === 0}
        nothing differs.
      {:else}
        <strong>{count(found.counts.new ?? 0)}</strong>
        {found.counts.new === 1 ? 'row is' : 'rows are'} new,
        <strong>{count(found.counts.gone ?? 0)}</strong>
        {are(found.counts.gone ?? 0)} gone,
        <strong>{count(found.counts.changed ?? 0)}</strong> changed{#if found.columns.length}&nbsp;in <strong
            >{counted(found.columns.length, 'column')}</strong
          >{/if}.
        {#each moved as one (one.name)}
          <em>{one.name}</em> rose in {counted(one.rose, 'row')} and fell in {count(one.fell)}, by
          <strong>{signed(one.mean ?? 0)} {one.unit}</strong> on average.
        {/each}
      {/if}
      <span class="muted">{count(found.counts.same ?? 0)} stayed as they were.</span>
      {#if careWords(found.then, found.now)}
        <span style="color: var(--straw-ink)">
          <strong>Take care:</strong>
          {careWords(found.then, found.now)}
        </span>
      {/if}
      {#if found.asked_otherwise.length}
        <span style="color: var(--straw-ink)">
          <strong>Take care:</strong> another question was asked{#each found.asked_otherwise as one (one.name)};
            {one.name}
            was {[one.then ?? 'left out'].flat().join(', ')} and is {[one.now ?? 'left out']
              .flat()
              .join(', ')}{/each}.
        </span>
      {/if}
      {#if found.new_columns.length}<span class="muted">New columns: {found.new_columns.join(', ')}.</span
        >{/if}
      {#if found.gone_columns.length}<span class="muted"
          >Columns that went: {found.gone_columns.join(', ')}.</span
        >{/if}
      {#if found.repeated_keys}
        <span style="color: var(--straw-ink)"
          >{counted(found.repeated_keys, 'key stands', 'keys stand')} for several rows.</span
        >
      {/if}
    </p>
    <div class="flex min-h-0 flex-1 max-[700px]:flex-col">
      <aside
        class="w-[252px] shrink-0 overflow-auto border-r px-3 py-3 max-[700px]:max-h-40 max-[700px]:w-full max-[700px]:border-r-0 max-[700px]:border-b"
        style="border-color: var(--line); background: var(--brief)"
      >
        <label class="find">
          <Search size={15} aria-hidden="true" />
          <input
            class="field"
            type="search"
            name="find"
            placeholder="Find in these rows"
            aria-label="Find in these rows"
            maxlength="1000"
            bind:value={typed}
          />
        </label>
        {#if find}
          <p class="muted px-2 pb-2 text-[13px]" role="status">
            {total === null ? 'searching' : `${count(total)} of ${counted(all, 'row')}`}
          </p>
        {/if}
        {#each states as [key, sign, words, number] (key)}
          <button
            class="state"
            class:on={!column && show === key}
            aria-pressed={!column && show === key}
            onclick={() => {
              show = key;
              column = '';
            }}
          >
            <strong>{count(number)}</strong><span>{sign} {words}</span>
          </button>
        {/each}
        {#if found.columns.length}
          <h2 class="mt-4 mb-1 px-2 text-[13.5px] font-bold">Changed cells by column</h2>
          {#each found.columns as one (one.name)}
            <button
              class="change"
              class:on={column === one.name}
              aria-pressed={column === one.name}
              onclick={() => {
                column = column === one.name ? '' : one.name;
                choice = EVERY_SIZE;
              }}
            >
              <span class="truncate">{one.name}</span>
              <span class="bar"><span style="width: {(one.cells / most) * 100}%"></span></span>
              <span class="text-right">{count(one.cells)}</span>
            </button>
          {/each}
        {/if}
      </aside>
      <section class="flex min-w-0 flex-1 flex-col">
        {#if column}
          {@const own = found.columns.find((one) => one.name === column)}
          <SizeBar
            {column}
            unit={own?.unit ?? ''}
            numeric={numeric.has(column)}
            {choice}
            shown={total}
            all={own?.cells ?? 0}
            onchange={(next) => (choice = next)}
            onclose={() => (column = '')}
          />
        {/if}
        <div class="min-h-0 flex-1">
          {#if total === null}
            <p class="muted p-8">Searching.</p>
          {:else if total === 0}
            <p class="muted p-8">
              {find
                ? all
                  ? `None of these rows has “${find}” in it, now or then.`
                  : 'No row is in this state.'
                : column
                  ? 'No change is like this.'
                  : 'No row is in this state.'}
            </p>
          {:else}
            <MergedGrid columns={found.headings} {source} differences={numeric} first={column} />
          {/if}
        </div>
      </section>
    </div>
  {/if}
</div>

<style>
  .sentence {
    line-height: 21px;
  }
  .sentence em {
    font-style: normal;
    font-family: var(--mono);
    font-size: 13px;
  }
  .find {
    position: relative;
    display: block;
    margin-bottom: 8px;
    color: var(--muted);
  }
  .find :global(svg) {
    position: absolute;
    left: 9px;
    top: 8px;
  }
  .find input {
    height: 31px;
    padding-left: 30px;
  }
  .state {
    display: grid;
    grid-template-columns: 56px 1fr;
    gap: 10px;
    width: 100%;
    padding: 3px 8px;
    border-left: 3px solid transparent;
    border-radius: 5px;
    text-align: left;
    cursor: pointer;
  }
  .state strong {
    text-align: right;
  }
  .state:hover,
  .change:hover {
    background: var(--band);
  }
  .state.on,
  .change.on {
    background: var(--damson-wash);
    border-left-color: var(--damson);
    color: var(--damson);
  }
  .change {
    display: grid;
    grid-template-columns: 86px 1fr 40px;
    gap: 8px;
    align-items: center;
    width: 100%;
    padding: 2px 8px 2px 6px;
    border-left: 3px solid transparent;
    border-radius: 5px;
    text-align: left;
    font-size: 13px;
    cursor: pointer;
  }
  .bar {
    display: block;
    height: 9px;
  }
  .bar span {
    display: block;
    height: 9px;
    min-width: 2px;
    border-radius: 2px;
    background: var(--straw);
  }
</style>
