<!-- A report: read and written on one page. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import type { ReportBlock } from '../api/client';
  import { mode } from '../ui/mode.svelte';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import './report.css';
  import BlockAdder from './BlockAdder.svelte';
  import BlockPiece from './BlockPiece.svelte';
  import ReportHead from './ReportHead.svelte';
  import { ReportStore } from './reportStore.svelte';

  interface Props {
    id: number;
  }
  let { id }: Props = $props();
  // svelte-ignore state_referenced_locally
  const store = new ReportStore(id);
  let room = $state(0);
  /** The block that is written, by its place. */
  let editing = $state<number | null>(null);

  onMount(() => {
    void store.load();
    return () => store.leave();
  });
  $effect(() => {
    document.title = `${store.report?.title ?? 'Report'} · Tin Bucket`;
  });
  $effect(() => {
    // What stands beside a chart: the margin and the paper's own edges.
    if (room) store.width = Math.max(240, Math.min(1240, room - 40) - (room > 700 ? 172 + 58 : 32));
  });

  function add(at: number, block: ReportBlock): void {
    store.insert(at, block);
    editing = at;
  }

  function key(event: KeyboardEvent): void {
    if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return;
    const target = event.target as HTMLElement;
    // A field and the editor undo what is typed in them themselves.
    if (target.closest('input, textarea, select, .cm-editor')) return;
    event.preventDefault();
    if (event.shiftKey) store.redo();
    else store.undo();
  }
  // Paper is white.
  let wasDark = false;
  function beforePrint(): void {
    wasDark = mode.dark;
    mode.dark = false;
  }
  function leaving(event: BeforeUnloadEvent): void {
    if (store.keeping !== 'kept') event.preventDefault();
  }
</script>

<svelte:window
  onkeydown={key}
  onbeforeunload={leaving}
  onbeforeprint={beforePrint}
  onafterprint={() => (mode.dark = wasDark)}
/>
<div class="flex h-full flex-col" style="background: var(--band)">
  {#if store.report}<ReportHead {store} />{/if}
  <div class="min-h-0 flex-1 overflow-auto px-5 pt-1 pb-16 max-[700px]:px-0" bind:clientWidth={room}>
    {#each [store.problem, store.unkept].filter((one) => one !== null) as one (one)}
      <div class="mx-auto mb-3 max-w-3xl"><ProblemNote problem={one} /></div>
    {/each}
    {#if store.report}
      <article class="report" aria-busy={store.reading} aria-label={store.report.title}>
        {#each store.report.blocks as block, at (at)}
          <BlockPiece
            {store}
            {block}
            {at}
            read={store.read?.blocks[at] ?? null}
            editing={editing === at}
            onedit={(on) => (editing = on ? at : editing === at ? null : editing)}
            onadd={add}
          />
        {/each}
        <div class="piece not-printed">
          <div class="margin"></div>
          <div class="body">
            <BlockAdder {store} wide onadd={(block) => add(store.report?.blocks.length ?? 0, block)} />
          </div>
        </div>
      </article>
    {/if}
  </div>
</div>
