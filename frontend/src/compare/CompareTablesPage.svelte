<!-- Any two tables: of two queries, or of a query and a sheet. -->
<script lang="ts">
  import ArrowLeftRight from '@lucide/svelte/icons/arrow-left-right';
  import { onMount } from 'svelte';
  import { replace, router } from 'svelte-spa-router';
  import { api, ask, problemOf, type Side, type TableName } from '../api/client';
  import { dated } from '../domain/words/format';
  import CompareHead from './CompareHead.svelte';
  import { CompareStore } from './compareStore.svelte';
  import CompareView from './CompareView.svelte';
  import SidePick from './SidePick.svelte';

  const store = new CompareStore();
  let tables = $state.raw<TableName[]>([]);
  let told = $state<HTMLElement | null>(null);

  const named = new URLSearchParams(router.querystring ?? '');
  store.then = named.get('then') ?? '';
  store.now = named.get('now') ?? '';
  store.queryId = Number(named.get('query')) || undefined;

  onMount(() => {
    document.title = 'Two tables · Tin Bucket';
    ask(api.GET('/api/work-out/tables')).then(
      (found) => (tables = found),
      (error: unknown) => (store.problem = problemOf(error)),
    );
  });

  function choose(which: 'then' | 'now', ref: string): void {
    store[which] = ref;
    store.asKept();
    keepAddress();
  }

  function swap(): void {
    [store.then, store.now] = [store.now, store.then];
    store.asKept();
    keepAddress();
  }

  function keepAddress(): void {
    const query = store.queryId ? `&query=${store.queryId}` : '';
    const [then, now] = [store.then, store.now].map(encodeURIComponent);
    void replace(`/compare?then=${then}&now=${now}${query}`);
  }

  function called(side: Side): string {
    if (side.snapshot) return `${side.name}, ${dated(side.snapshot.taken)}`;
    return side.ref.startsWith('preview:') ? `${side.name} as the draft reads it` : `the sheet ${side.name}`;
  }
</script>

<div class="flex h-full flex-col">
  <header class="border-b px-4 pt-3 pb-2.5" style="border-color: var(--line)">
    <CompareHead {store} title="Two tables" worked={false} begins="Two tables" {told} onkeep={undefined}>
      {#snippet links()}
        {#if store.found?.now.query_id}
          <a class="press" href="#/query/{store.found.now.query_id}">To {store.found.now.name}</a>
        {/if}
      {/snippet}
    </CompareHead>
    <div class="mt-2.5 flex items-end gap-3 max-[700px]:flex-col max-[700px]:items-stretch">
      <SidePick
        label="The earlier table"
        {tables}
        value={store.then}
        side={store.found?.then ?? null}
        onchange={(ref) => choose('then', ref)}
      />
      <button class="press" aria-label="Change places" title="Change places" onclick={swap}
        ><ArrowLeftRight size={15} /></button
      >
      <SidePick
        label="The later table"
        {tables}
        value={store.now}
        side={store.found?.now ?? null}
        onchange={(ref) => choose('now', ref)}
      />
    </div>
  </header>
  {#if !store.then || !store.now}
    <p class="muted p-8">Choose the two tables. Rows are matched by the match columns of the later one.</p>
  {/if}
  <CompareView {store} {called} bind:told />
</div>
