<!-- One row through all dates: when it came, what changed, when it went and came back. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { router } from 'svelte-spa-router';
  import {
    api,
    ask,
    problemOf,
    type Cell,
    type Column,
    type Problem,
    type QueryDetail,
    type Story,
  } from '../api/client';
  import { readJson } from '../api/json';
  import { isNumeric } from '../domain/kinds';
  import { momentText } from '../domain/timeline';
  import { cellText, count, counted, dated, digitsOf, signed } from '../domain/words/format';
  import TraceCard from '../table/TraceCard.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import LineOverTime from './LineOverTime.svelte';
  import WatchButton from './WatchButton.svelte';

  interface Props {
    /** Number of the query. */
    id: number;
  }
  let { id }: Props = $props();

  let detail = $state.raw<QueryDetail | null>(null);
  let story = $state.raw<Story | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let line = $state('');

  const SIGNS: Record<string, string> = { came: '+', changed: '●', went: '−', back: '+' };
  const WORDS: Record<string, string> = {
    came: 'came',
    changed: 'changed',
    went: 'is gone',
    back: 'came back',
  };

  const named = new URLSearchParams(router.querystring ?? '');
  const key = named.get('key') ?? '[]';
  const match = named.get('match') ?? '';

  onMount(() => {
    Promise.all([
      ask(api.GET('/api/queries/{query_id}', { params: { path: { query_id: id } } })),
      ask(
        api.GET('/api/queries/{query_id}/story', {
          params: { path: { query_id: id }, query: { key, ...(match ? { match } : {}) } },
        }),
      ),
    ]).then(
      ([own, told]) => {
        detail = own;
        story = told;
        line = Object.keys(told.lines)[0] ?? '';
        document.title = `${title} · Tin Bucket`;
      },
      (error: unknown) => (problem = problemOf(error)),
    );
  });

  const title = $derived((readJson(key) as unknown[]).map((one) => String(one ?? '(empty)')).join(', '));
  const newest = $derived([...(story?.events ?? [])].reverse());
  const columnOf = (name: string): Column | undefined => story?.columns.find((one) => one.name === name);
  /** The decimals that a column's numbers need, on all dates. */
  const digits = $derived.by(() => {
    const cells = (name: string, at: number): Cell[] => [
      (story?.values[at] ?? null) as Cell,
      ...(story?.lines[name] ?? []),
    ];
    return Object.fromEntries(
      (story?.columns ?? []).map(({ name }, at) => [name, digitsOf(cells(name, at))]),
    );
  });
  const text = (cell: unknown, name: string): string =>
    cellText((cell ?? null) as Cell, columnOf(name) ?? { kind: 'text' }, digits[name]) || 'empty';

  /** The cell of a date whose origin is told: its call, and the place in the answer. */
  let traced = $state.raw<{
    snapshot: number;
    row: number;
    column: number;
    columns: Column[];
    box: DOMRect;
    byKey: boolean;
  } | null>(null);
  /** Tell where a cell came from, as it was on the date of an event; the first column's where none is named. */
  async function origin(event: MouseEvent, of: Story['events'][number], name?: string): Promise<void> {
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
    const byKey = event.detail === 0;
    try {
      const path = { snapshot_id: of.snapshot };
      const columns = await ask(api.GET('/api/snapshots/{snapshot_id}/columns', { params: { path } }));
      const column = name ? columns.findIndex((one) => one.name === name) : 0;
      if (of.row === null || of.row === undefined || column < 0) return;
      traced = { snapshot: of.snapshot, row: of.row, column, columns, box, byKey };
    } catch (error) {
      problem = problemOf(error);
    }
  }

  function difference(then: unknown, now: unknown): string {
    if (typeof then !== 'number' || typeof now !== 'number') return '';
    return signed(now - then, Number.isInteger(then) && Number.isInteger(now) ? 0 : 2);
  }
</script>

<div class="flex h-full flex-col">
  <header class="border-b px-4 py-3" style="border-color: var(--line)">
    <div class="flex items-center gap-4 max-[700px]:flex-wrap">
      <h1 class="min-w-0 truncate text-[19px] font-bold">{title}</h1>
      <p class="muted min-w-0 flex-1 truncate text-[13.5px]">
        {#if detail && story}a row of {detail.brief.name}, known by {story.match.join(' and ')} · on {count(
            story.there,
          )} of {counted(story.dates, 'date')}{#if story.several}
            · <span style="color: var(--straw-ink)">several rows have this value; the first is followed</span
            >{/if}{/if}
      </p>
      {#if story}<WatchButton
          queryId={id}
          watch={{
            what: 'row',
            key: story.key as string[],
            match: story.match,
            column: line,
            figure: 'rows',
          }}
        />{/if}
      <a class="press" href="#/query/{id}">Back to the query</a>
    </div>
  </header>
  {#if problem}<div class="p-4"><ProblemNote {problem} /></div>{/if}
  {#if story}
    <div class="flex min-h-0 flex-1 max-[700px]:flex-col max-[700px]:overflow-auto">
      <section class="min-w-0 flex-1 overflow-auto px-4 py-3" aria-label="What happened to it">
        {#if line}
          <div class="mb-1 flex flex-wrap gap-2">
            {#each Object.keys(story.lines) as name (name)}
              <button
                class="press small"
                class:main={line === name}
                aria-pressed={line === name}
                onclick={() => (line = name)}>{name}</button
              >
            {/each}
          </div>
          <LineOverTime
            at={story.at.map((one) => one * 1000)}
            values={story.lines[line] ?? []}
            unit={columnOf(line)?.unit ?? ''}
            label="{line} of {title}"
          />
        {/if}
        <ol class="events">
          {#each newest as event (event.snapshot)}
            <li>
              <a
                class="plain date"
                href="#/query/{id}?as-of={encodeURIComponent(`#${event.snapshot}`)}"
                title="The table as of then">{dated(momentText(event.at * 1000))}</a
              >
              <span class="sign" aria-hidden="true">{SIGNS[event.what]}</span>
              <div>
                <strong>{WORDS[event.what]}</strong>
                {#if event.row !== null && !event.changes.length}
                  <button class="plain muted" onclick={(click) => void origin(click, event)}>its call</button>
                {/if}
                {#each event.changes as one (one.name)}
                  <p>
                    <span class="mono">{one.name}</span>
                    <s class="muted">{text(one.then, one.name)}</s> →
                    <button
                      class="now"
                      title="Where it came from: its call, and the place in the answer"
                      onclick={(click) => void origin(click, event, one.name)}
                      >{text(one.now, one.name)}</button
                    >
                    <span class="muted">{difference(one.then, one.now)}</span>
                  </p>
                {/each}
              </div>
            </li>
          {/each}
        </ol>
      </section>
      <aside class="values" aria-label="The row">
        <h2 class="mb-1 text-[13.5px] font-bold">
          {story.events.at(-1)?.what === 'went' ? 'As it was last' : 'As it is'}
        </h2>
        <dl>
          {#each story.columns as column, at (column.name)}
            <dt>{column.name}</dt>
            <dd class:number={isNumeric(column)}>
              {cellText((story.values[at] ?? null) as Cell, column, digits[column.name]) || '(empty)'}
              {#if column.unit}<span class="muted">{column.unit}</span>{/if}
            </dd>
          {/each}
        </dl>
      </aside>
    </div>
  {/if}
</div>

{#if traced}
  <TraceCard
    table={{ snapshot: traced.snapshot, preview: null, lines: [] }}
    row={traced.row}
    column={traced.column}
    columns={traced.columns}
    box={traced.box}
    byKey={traced.byKey}
    onclose={() => (traced = null)}
    onmove={(column) => traced && (traced = { ...traced, column })}
  />
{/if}

<style>
  .now {
    font-weight: 700;
    border-bottom: 1px dotted var(--damson-edge);
    cursor: pointer;
  }
  .now:hover {
    color: var(--damson);
  }
  .events {
    max-width: 760px;
  }
  .events li {
    display: grid;
    grid-template-columns: 150px 18px 1fr;
    gap: 8px;
    padding: 6px 0;
    border-bottom: 1px solid var(--hair);
    font-size: 13.5px;
  }
  .sign {
    font-weight: 700;
    text-align: center;
  }
  .mono {
    font-family: var(--mono);
    font-size: 12.5px;
  }
  .values {
    width: 300px;
    flex-shrink: 0;
    overflow: auto;
    padding: 12px 16px;
    border-left: 1px solid var(--line);
    background: var(--brief);
    font-size: 13.5px;
  }
  dl {
    display: grid;
    grid-template-columns: 110px 1fr;
    gap: 3px 10px;
  }
  dt {
    color: var(--muted);
    overflow-wrap: anywhere;
  }
  dd {
    overflow-wrap: anywhere;
  }
  @media (max-width: 700px) {
    .values {
      width: 100%;
      border-left: 0;
      border-top: 1px solid var(--line);
    }
    .events li {
      grid-template-columns: 110px 18px 1fr;
    }
  }
</style>
