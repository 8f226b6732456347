<!-- The snapshots of a query: what people call them, what they take up, and deleting some. -->
<script lang="ts">
  import Pin from '@lucide/svelte/icons/pin';
  import { onMount, untrack } from 'svelte';
  import {
    api,
    ask,
    problemOf,
    type Going,
    type Problem,
    type Snapshot,
    type SnapshotWeights,
  } from '../../api/client';
  import { bytes, count, counted, dated } from '../../domain/words/format';
  import { STATE_SIGNS } from '../../domain/words/proof';
  import type { QueryStore } from '../queryStore.svelte';
  import Confirm from '../../ui/Confirm.svelte';
  import Dialog from '../../ui/Dialog.svelte';
  import ProblemNote from '../../ui/ProblemNote.svelte';
  import SnapshotsCheck from './SnapshotsCheck.svelte';

  interface Props {
    work: QueryStore;
    name: string;
    onclose: () => void;
  }
  let { work, name, onclose }: Props = $props();

  const STEP = 200;
  /** The newest first, as far as they were asked for. */
  let shown = $state.raw<Snapshot[]>([]);
  let only = $state<'all' | 'named'>('all');
  let chosen = $state<number[]>([]);
  let weights = $state.raw<SnapshotWeights | null>(null);
  let going = $state.raw<Going | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let noted = $state<number | null>(null);

  const all = $derived(work.detail?.dates ?? 0);
  const named = $derived((work.dates.marks ?? []).filter((one) => one.name || one.note || one.pinned).length);
  const wanted = $derived(only === 'named' ? named : all);
  const path = $derived({ path: { query_id: work.id } });

  onMount(() => {
    void work.dates.known();
    void weigh();
  });
  $effect(() => {
    void only;
    untrack(() => void list(0, STEP));
  });

  async function list(start: number, count: number): Promise<void> {
    try {
      const query = { start, count, labelled: only === 'named' };
      const found = await ask(api.GET('/api/queries/{query_id}/snapshots', { params: { ...path, query } }));
      shown = start ? [...shown, ...found] : found;
    } catch (error) {
      problem = problemOf(error);
    }
  }

  /** What is listed may be otherwise now. */
  async function renew(): Promise<void> {
    await Promise.all([list(0, Math.max(STEP, shown.length)), work.load(), work.dates.renew()]);
  }

  async function weigh(): Promise<void> {
    try {
      weights = await ask(api.GET('/api/queries/{query_id}/snapshots/weights', { params: path }));
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function label(
    one: Snapshot,
    change: Partial<Pick<Snapshot, 'name' | 'note' | 'pinned'>>,
  ): Promise<void> {
    problem = null;
    const body = { name: one.name, note: one.note, pinned: one.pinned, ...change };
    try {
      const params = { path: { snapshot_id: one.id } };
      const told = await ask(api.PUT('/api/snapshots/{snapshot_id}/label', { params, body }));
      if (work.dates.at?.id === one.id) work.dates.at = told;
      await renew();
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function look(): Promise<void> {
    problem = null;
    try {
      const body = { ids: [...chosen] };
      going = await ask(api.POST('/api/queries/{query_id}/snapshots/weigh', { params: path, body }));
    } catch (error) {
      problem = problemOf(error);
    }
  }

  async function drop(): Promise<void> {
    const ids = going?.ids ?? [];
    going = null;
    try {
      await ask(api.POST('/api/queries/{query_id}/snapshots/delete', { params: path, body: { ids } }));
      chosen = [];
      if (work.dates.at && ids.includes(work.dates.at.id)) work.dates.seeNewest();
      await renew();
      await weigh();
    } catch (error) {
      problem = problemOf(error);
    }
  }

  function since(one: Snapshot): string {
    if (!('new' in one.since)) return '';
    return `+ ${count(one.since.new ?? 0)} − ${count(one.since.gone ?? 0)} ● ${count(one.since.changed ?? 0)}`;
  }
</script>

<Dialog title="Snapshots of {name}" open {onclose} width={920}>
  <div class="mb-2 flex flex-wrap items-center gap-4 text-[13px]">
    <label><input type="radio" value="all" bind:group={only} /> all {count(all)}</label>
    <label
      ><input type="radio" value="named" bind:group={only} disabled={!named} />
      {count(named)} with a name, a note or a pin</label
    >
    <span class="muted ml-auto" role="status"
      >{weights ? `${bytes(weights.all)} in all` : problem ? '' : 'weighing them…'}</span
    >
  </div>
  <div class="list">
    <table>
      <thead>
        <tr>
          <th><span class="sr-only">Chosen</span></th><th>Taken</th><th class="right">Rows</th><th
            >Since the one before</th
          ><th>Name</th>
          <th class="right" title="Rows that no other snapshot has, and their size">It alone has</th><th
            ><span class="sr-only">Pinned</span></th
          >
        </tr>
      </thead>
      <tbody>
        {#each shown as one (one.id)}
          {@const own = weights?.each[one.id]}
          <tr class:picked={chosen.includes(one.id)}>
            <td
              ><input
                type="checkbox"
                value={one.id}
                bind:group={chosen}
                aria-label="Choose {dated(one.taken)}"
                disabled={all < 2}
              /></td
            >
            <td class="whitespace-nowrap">
              <button
                class="plain"
                title="See the table as of then"
                onclick={() => {
                  void work.dates.see(one.id);
                  onclose();
                }}>{dated(one.taken)}</button
              >
              {#if one.state !== 'complete'}<span title="{one.state}: {one.evidence}"
                  >{STATE_SIGNS[one.state]}<span class="sr-only"> {one.state}</span></span
                >{/if}
            </td>
            <td class="right">{count(one.rows)}</td>
            <td class="whitespace-nowrap muted">{since(one)}</td>
            <td class="name">
              <span class="flex items-center gap-1">
                <input
                  class="field small"
                  aria-label="Name of {dated(one.taken)}"
                  placeholder="no name"
                  maxlength="120"
                  value={one.name}
                  onchange={(event) => void label(one, { name: event.currentTarget.value })}
                />
                <button
                  class="plain shrink-0"
                  aria-expanded={noted === one.id}
                  onclick={() => (noted = noted === one.id ? null : one.id)}
                  >{one.note ? 'note' : 'add a note'}</button
                >
              </span>
              {#if noted === one.id}
                <textarea
                  class="field mt-1"
                  rows="2"
                  maxlength="2000"
                  aria-label="Note to {dated(one.taken)}"
                  value={one.note}
                  onchange={(event) => void label(one, { note: event.currentTarget.value })}></textarea>
              {:else if one.note}<small class="muted">{one.note}</small>{/if}
            </td>
            <td class="right whitespace-nowrap"
              >{own ? `${counted(own.rows, 'row')}, ${bytes(own.size)}` : ''}</td
            >
            <td>
              <button
                class="pin"
                class:on={one.pinned}
                aria-pressed={one.pinned}
                aria-label="Pin {dated(one.taken)}"
                title={one.pinned ? 'Pinned: it stays' : 'Pin it, so that it stays'}
                onclick={() => void label(one, { pinned: !one.pinned })}><Pin size={14} /></button
              >
            </td>
          </tr>
        {/each}
      </tbody>
    </table>
    {#if wanted > shown.length && shown.length}
      <button class="plain m-2" onclick={() => void list(shown.length, STEP)}
        >{count(wanted - shown.length)} older ones</button
      >
    {/if}
  </div>
  {#if problem}<div class="mt-3"><ProblemNote {problem} /></div>{/if}
  <div class="mt-3"><SnapshotsCheck queryId={work.id} onrepaired={() => void renew()} /></div>
  <div class="mt-3 flex items-center gap-2">
    <button class="press" disabled={!chosen.length || chosen.length === all} onclick={look}
      >Delete {chosen.length ? counted(chosen.length, 'snapshot') : 'those that are chosen'}…</button
    >
    {#if chosen.length === all}<span class="muted text-[13px]"
        >One of them has to stay: the query itself can be deleted.</span
      >{/if}
  </div>
</Dialog>
{#if going}
  <Confirm
    title="Delete {counted(going.ids.length, 'snapshot')} of {name}?"
    yes="Delete {going.ids.length === 1 ? 'it' : 'them'}"
    no="Keep {going.ids.length === 1 ? 'it' : 'them'}"
    onyes={drop}
    onno={() => (going = null)}
  >
    With {going.ids.length === 1 ? 'it' : 'them'} go {counted(going.rows, 'row')} that no other snapshot has,
    {bytes(going.size)}. The other snapshots stay as they are. This cannot be undone.
  </Confirm>
{/if}

<style>
  .list {
    max-height: min(56vh, 460px);
    overflow: auto;
    border: 1px solid var(--line);
    border-radius: 6px;
  }
  table {
    width: 100%;
    border-collapse: collapse;
    font-size: 13px;
  }
  th {
    position: sticky;
    top: 0;
    z-index: 1;
    background: var(--band);
    font-weight: 400;
    color: var(--muted);
    text-align: left;
    padding: 4px 8px;
  }
  td {
    padding: 6px 8px;
    border-bottom: 1px solid var(--hair);
    vertical-align: top;
  }
  .right {
    text-align: right;
  }
  .name {
    width: 40%;
    min-width: 200px;
    padding-block: 3px;
  }
  .small {
    height: 24px;
    padding: 0 6px;
  }
  small {
    display: block;
    white-space: pre-wrap;
  }
  .picked td {
    background: var(--damson-wash);
  }
  td:last-child {
    padding-block: 3px;
  }
  .pin {
    color: var(--muted);
    padding: 3px;
    border-radius: 5px;
  }
  .pin.on {
    color: var(--damson);
    background: var(--damson-wash);
  }
</style>
