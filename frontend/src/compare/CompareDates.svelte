<!-- Two dates of a query. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { push, replace, router } from 'svelte-spa-router';
  import { api, ask, problemOf, type QueryDetail, type Side } from '../api/client';
  import {
    dateIndex,
    dateText,
    dateWords,
    marksOf,
    missesOf,
    type Mark,
    type Miss,
  } from '../domain/timeline';
  import { startFrom } from '../parts/startFrom';
  import TimeLine from '../parts/TimeLine.svelte';
  import CompareHead from './CompareHead.svelte';
  import { CompareStore } from './compareStore.svelte';
  import CompareView from './CompareView.svelte';

  interface Props {
    /** Number of the query. */
    id: number;
  }
  let { id }: Props = $props();
  const store = new CompareStore();

  let detail = $state.raw<QueryDetail | null>(null);
  let marks = $state.raw<Mark[]>([]);
  let misses = $state.raw<Miss[]>([]);
  let then = $state(0);
  let now = $state(0);
  let told = $state<HTMLElement | null>(null);

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
        if (got.brief.start) store.queryId = id;
        if (now === marks.length - 1)
          ask(api.POST('/api/queries/{query_id}/looked', { params })).catch(() => undefined);
        sides();
      },
      (error: unknown) => (store.problem = problemOf(error)),
    );
  });

  /** The two dates that the address names; the last two where it names none. */
  function takeFromAddress(): void {
    const named = new URLSearchParams(router.querystring ?? '');
    const at = (name: string): number => dateIndex(named.get(name) ?? '', marks);
    const last = marks.length - 1;
    now = at('now') > 0 ? at('now') : last;
    then = at('then') >= 0 ? Math.min(at('then'), now - 1) : now - 1;
    store.column = named.get('column') ?? store.column;
  }

  function sides(): void {
    store.then = String(marks[then]?.id ?? '');
    store.now = String(marks[now]?.id ?? '');
  }

  /** Move one of the two dates; they never pass each other. */
  function move(name: string, index: number): void {
    if (name === 'then') then = Math.min(index, now - 1);
    else now = Math.max(index, then + 1);
    sides();
    const text = (at: number): string => {
      const mark = marks[at];
      return mark ? encodeURIComponent(dateText(mark, marks)) : '';
    };
    void replace(`/query/${id}/compare?then=${text(then)}&now=${text(now)}`);
  }

  const called = ({ snapshot }: Side): string =>
    snapshot ? dateWords({ id: snapshot.id, at: Date.parse(snapshot.taken) }, marks) : '';

  /** A new query of the changes of every date. */
  async function changes(): Promise<void> {
    const name = detail?.brief.name ?? '';
    try {
      const every = { days: 30, column: 'as of', rows: 'changes' as const };
      await push(`/query/${await startFrom({ query: name, sheet: null }, `Changes of ${name}`, every)}`);
    } catch (error) {
      store.problem = problemOf(error);
    }
  }

  /** Keep with the query what is tried here. */
  async function keep(close: () => void): Promise<void> {
    if (!detail) return;
    const { match, alike, pairs } = store.how;
    const own = detail.brief.keep;
    const brief = {
      ...detail.brief,
      keep: { ...own, match: match ?? own.match, alike: alike ?? own.alike, renamed: pairs ?? own.renamed },
    };
    try {
      const body = { brief, based_on: detail.brief_id };
      detail = await ask(api.PUT('/api/queries/{query_id}', { params: { path: { query_id: id } }, body }));
      store.asKept();
      close();
    } catch (error) {
      store.problem = problemOf(error);
    }
  }
</script>

<div class="flex h-full flex-col">
  <header class="border-b px-4 pt-3" style="border-color: var(--line)">
    <CompareHead
      {store}
      title="{detail?.brief.name ?? ''}, then and now"
      worked={!!detail?.brief.work_out.length}
      begins={detail?.brief.name ?? ''}
      {told}
      onkeep={keep}
      onquery={() => void changes()}
    >
      {#snippet links()}
        {#if store.found}<a
            class="press"
            href="#/compare?then={store.then}&now={store.now}"
            title="Another query, or a sheet">Compare with…</a
          >{/if}
        <a class="press" href="#/query/{id}">Back to the query</a>
      {/snippet}
    </CompareHead>
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
  {#if detail && marks.length < 2}
    <p class="p-8">
      There {marks.length === 1 ? 'is one snapshot' : 'is no snapshot'} so far. A comparison needs two: refresh
      the query again, or
      <a class="plain" href="#/compare?now={marks[0]?.id ?? ''}">compare it with another table</a>.
    </p>
  {/if}
  <CompareView {store} {called} queryId={detail?.brief.start ? undefined : id} bind:told />
</div>
