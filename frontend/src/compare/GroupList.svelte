<!-- What differs by the values of a column: how many rows of each are new, gone and changed. -->
<script lang="ts">
  import { api, ask, problemOf, type DifferenceGroups, type Problem } from '../api/client';
  import { Latest } from '../api/latest';
  import { cellText, count, counted } from '../domain/words/format';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import CountBar from './CountBar.svelte';
  import type { CompareStore } from './compareStore.svelte';

  interface Props {
    store: CompareStore;
  }
  let { store }: Props = $props();

  let found = $state.raw<DifferenceGroups | null>(null);
  let problem = $state.raw<Problem | null>(null);
  type Query = CompareStore['asked'] & { grouped_by: string };
  const latest = new Latest((query: Query) => ask(api.GET('/api/compare/groups', { params: { query } })));

  // The same rows as are seen, whichever value is chosen.
  const query = $derived.by(() => {
    const { asked, groupedBy } = store;
    return { ...asked, group: '', value: '', sort: '', grouped_by: groupedBy };
  });
  $effect(() => {
    if (!query.grouped_by) {
      latest.cancel();
      found = problem = null;
      return;
    }
    latest.ask(query).then(
      (got) => {
        if (got) [found, problem] = [got.value, null];
      },
      (error: unknown) => (problem = problemOf(error)),
    );
  });

  const columns = $derived((store.found?.headings ?? []).filter((one) => !one.hidden));
  const column = $derived(columns.find((one) => one.name === query.grouped_by) ?? { kind: 'text' as const });
  const most = $derived(Math.max(1, ...(found?.groups ?? []).map((one) => one.new + one.gone + one.changed)));
  const words = (one: DifferenceGroups['groups'][number]): string =>
    [
      one.new ? `${count(one.new)} new` : '',
      one.gone ? `${count(one.gone)} gone` : '',
      one.changed ? `${count(one.changed)} changed` : '',
    ]
      .filter(Boolean)
      .join(', ');
</script>

<div class="mt-4 mb-1 flex items-center gap-2 px-2">
  <label class="flex min-w-0 items-center gap-2 text-[13.5px] font-bold"
    ><span class="shrink-0">Rows by</span>
    <select
      class="field min-w-0 font-normal"
      name="grouped-by"
      value={store.groupedBy}
      onchange={(event) => store.groupBy(event.currentTarget.value)}
    >
      <option value="">a column’s values</option>
      {#each columns as one (one.name)}<option>{one.name}</option>{/each}
    </select></label
  >
</div>
{#if problem}<ProblemNote {problem} />{/if}
{#if found}
  {#each found.groups as one (one.value)}
    {@const name = cellText(one.value, column) || 'no value'}
    <CountBar
      kind="group"
      {name}
      muted={!one.value}
      parts={[
        { look: 'new', rows: one.new },
        { look: 'gone', rows: one.gone },
        { look: 'changed', rows: one.changed },
      ]}
      {most}
      on={store.group === one.value}
      title="{name}: {words(one)}"
      label="{name}: {words(one)}"
      onclick={() => store.seeGroup(one.value)}
    />
  {:else}
    <p class="muted px-2 text-[13px]">None of these rows differ.</p>
  {/each}
  {#if found.groups.length}
    <p class="legend" aria-hidden="true">
      <span class="new"></span> new <span class="gone"></span> gone <span class="changed"></span> changed
    </p>
  {/if}
  {#if found.values > found.groups.length}
    <p class="muted px-2 text-[13px]">
      and {counted(found.values - found.groups.length, 'value')} of fewer rows
    </p>
  {/if}
{/if}

<style>
  .field {
    height: 28px;
    padding: 0 6px;
    font-size: 13px;
  }
  .new {
    background: var(--link);
  }
  .gone {
    background: repeating-linear-gradient(135deg, var(--muted) 0 2px, var(--faint) 2px 4px);
  }
  .changed {
    background: var(--straw);
  }
  .legend {
    display: flex;
    align-items: center;
    gap: 4px;
    padding: 4px 8px 0;
    font-size: 12px;
    color: var(--muted);
  }
  .legend span {
    width: 11px;
    height: 9px;
    margin-left: 6px;
  }
</style>
