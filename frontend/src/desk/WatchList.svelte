<!-- The rows and figures that are watched, each with what it is and what it was. -->
<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { api, ask, type Cell, type WatchInfo } from '../api/client';
  import { cellText, count, numberText, signed, when } from '../domain/words/format';
  import CountLine from '../table/CountLine.svelte';
  import { figureWords } from '../history/figures';
  import { figureAddress, storyAddress } from '../history/links';

  interface Props {
    watches: WatchInfo[];
    onchange: () => void;
  }
  let { watches, onchange }: Props = $props();

  const address = ({ query_id, watch }: WatchInfo): string =>
    (watch.what === 'row'
      ? storyAddress(query_id, watch.match, watch.key as Cell[])
      : figureAddress(query_id, watch.figure, watch.column)) ?? `#/query/${query_id}`;
  const title = ({ watch }: WatchInfo): string =>
    watch.what === 'row'
      ? [watch.key.map((one) => String(one ?? '(empty)')).join(', '), watch.column]
          .filter(Boolean)
          .join(' · ')
      : figureWords(watch.figure, watch.column);

  function told(value: unknown): string {
    if (typeof value === 'number') return numberText(value);
    return cellText((value ?? null) as Cell, { kind: 'text' }) || 'empty';
  }

  function change({ value, before }: WatchInfo): string {
    if (typeof value !== 'number' || typeof before !== 'number') return `was ${told(before)}`;
    return signed(value - before, Number.isInteger(value) && Number.isInteger(before) ? 0 : 2);
  }

  async function leave(one: WatchInfo): Promise<void> {
    await ask(api.DELETE('/api/watches/{number}', { params: { path: { number: one.id } } })).catch(
      () => null,
    );
    onchange();
  }
</script>

<section class="watched" aria-label="Watched">
  {#each watches as one (one.id)}
    <article>
      <a href={address(one)} title="{title(one)} of {one.query_name}">
        <span class="muted truncate">{title(one)}</span>
        <small class="muted truncate">{one.query_name}</small>
        {#if one.problem}
          <span class="truncate" style="color: var(--straw-ink)">{one.problem}</span>
        {:else}
          <span class="truncate">
            <strong
              >{one.there
                ? one.watch.what === 'row' && !one.watch.column
                  ? 'there'
                  : told(one.value)
                : 'gone'}</strong
            >
            {#if one.there}<span class="muted">{one.unit}</span>{/if}
            {#if one.before !== null && one.before !== undefined && one.there}
              <span class="change">{change(one)}</span>
            {/if}
            <small class="muted">since {when(one.since)}</small>
          </span>
        {/if}
      </a>
      <CountLine counts={one.points} width={92} />
      <button
        class="leave"
        aria-label="Watch {title(one)} no more"
        title="Watch it no more"
        onclick={() => leave(one)}><X size={13} /></button
      >
    </article>
  {/each}
  <span class="sr-only">{count(watches.length)} watched</span>
</section>

<style>
  .watched {
    display: grid;
    grid-template-columns: repeat(auto-fill, minmax(340px, 1fr));
    gap: 8px;
    margin: 10px 0 4px;
  }
  article {
    position: relative;
    display: flex;
    align-items: center;
    gap: 8px;
    padding: 5px 26px 5px 11px;
    border: 1px solid var(--line);
    border-radius: 8px;
    background: var(--paper);
    font-size: 13.5px;
    line-height: 19px;
  }
  a {
    display: grid;
    grid-template-columns: minmax(0, 1fr);
    min-width: 0;
    flex: 1;
  }
  strong {
    font-size: 16px;
  }
  .change {
    padding: 0 5px;
    border-radius: 4px;
    background: var(--straw-wash);
  }
  .leave {
    position: absolute;
    top: 4px;
    right: 4px;
    padding: 2px;
    border-radius: 4px;
    color: var(--muted);
    cursor: pointer;
  }
  .leave:hover {
    color: var(--damson);
    background: var(--damson-wash);
  }
</style>
