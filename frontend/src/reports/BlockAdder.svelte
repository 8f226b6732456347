<!-- What can be put into a report: a text, or an exhibit of a query. -->
<script lang="ts">
  import { api, ask, type Report, type ReportBlock, type Schemas } from '../api/client';
  import { choices } from '../domain/choices';
  import Popover from '../ui/Popover.svelte';
  import type { ReportStore } from './reportStore.svelte';

  interface Props {
    store: ReportStore;
    /** Whether the words of the button stand there, and not a plus alone. */
    wide?: boolean;
    onadd: (block: ReportBlock) => void;
  }
  let { store, wide = false, onadd }: Props = $props();
  let queries = $state.raw<Schemas['QueryLine'][]>([]);
  let chosen = $state<number | null>(null);
  let why = $state('');
  const query = $derived(chosen ?? store.queries[0] ?? queries[0]?.id ?? null);

  function open(): void {
    why = '';
    void ask(api.GET('/api/desk')).then(
      (desk) => (queries = desk.queries),
      () => undefined,
    );
  }

  async function exhibit(kind: string, close: () => void): Promise<void> {
    if (query === null) return;
    const base = { query, title: '', where: [] };
    let block: Report['blocks'][number];
    if (kind === 'chart') {
      const found = await store.offersOf(query);
      const chart = found?.charts[0];
      if (!chart) {
        why = 'This query has no table yet. Refresh it first.';
        return;
      }
      block = { ...base, block: 'chart', chart };
    } else if (kind === 'table')
      block = { ...base, block: 'table', columns: [], sort: [], rows: 8, marks: [], totals: [] };
    else block = { ...base, block: 'changes', rows: 0 };
    onadd(block);
    close();
  }
</script>

<Popover
  label={wide ? 'Add to the report' : 'Add here'}
  look={wide ? 'press small' : 'adder'}
  width={290}
  icon={!wide}
  onopen={open}
>
  {#snippet trigger()}{#if wide}+ Add{:else}<span aria-hidden="true">+</span>{/if}{/snippet}
  {#snippet children(close)}
    <div class="space-y-2 text-[13.5px]">
      <button
        class="press w-full"
        data-first
        onclick={() => {
          onadd({ block: 'text', text: '' });
          close();
        }}>Text</button
      >
      <label class="block"
        ><span class="label">or an exhibit of</span>
        <select
          class="field"
          name="exhibit-query"
          value={String(query ?? '')}
          onchange={(event) => (chosen = Number(event.currentTarget.value))}
        >
          {#each queries as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
        </select></label
      >
      <div class="flex flex-wrap gap-2">
        {#each choices().exhibits as one (one.key)}
          <button class="press small" onclick={() => void exhibit(one.key, close)}>{one.label}</button>
        {/each}
      </div>
      {#if why}<p role="alert" style="color: var(--straw-ink)">{why}</p>{/if}
    </div>
  {/snippet}
</Popover>
