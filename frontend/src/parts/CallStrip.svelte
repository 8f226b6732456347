<!-- One tile a call, in the order in which they were made, with a gap between stages. -->
<script lang="ts">
  import type { Progress, Tile } from '../lib/api/client';
  import { count, counted, span } from '../lib/format';

  interface Props {
    tiles: Tile[];
    progress: Progress | null;
    summary: string;
    onstop?: () => void;
    onpick?: (tile: Tile) => void;
  }
  let { tiles, progress, summary, onstop, onpick }: Props = $props();

  const MOST = 90;
  const running = $derived(progress?.state === 'running');
  const shown = $derived(tiles.length > MOST ? tiles.slice(-MOST) : tiles);
  const coming = $derived(
    running && progress?.expected
      ? Math.max(0, Math.min(40, progress.expected - (tiles.length - progress.before_stage)))
      : 0,
  );
  const words = { answered: 'answered', missing: 'not there', failed: 'failed' };

  function line(now: Progress): string {
    if (now.waiting) return `${counted(now.calls, 'call')} made; it waits for a key`;
    if (now.stage === 'reading') return `${counted(now.rows, 'row')} are here, making the table…`;
    if (now.stage === 'keeping') return `${counted(now.rows, 'row')} are here, keeping the snapshot…`;
    const made = now.calls - now.before_stage;
    const of = now.expected ? ` of ${count(now.expected)}` : '';
    const stage = now.stage === 'pages' ? 'pages' : `calls, ${now.stage}`;
    const rounds = now.rounds > 1 ? ` · ${count(now.rounds_done)} of ${counted(now.rounds, 'round')}` : '';
    const total = now.stated_total === null ? '' : ` of ${count(now.stated_total)} stated`;
    return `${count(made)}${of} ${stage} · ${count(now.rows)}${total} rows so far${rounds}`;
  }
</script>

<footer class="strip">
  <div class="tiles" role="list" aria-label="Calls of this run">
    {#if tiles.length > MOST}<span class="muted mr-1 text-xs whitespace-nowrap"
        >{count(tiles.length - MOST)} before</span
      >{/if}
    {#each shown as tile, at (tile.number)}
      {#if at > 0 && shown[at - 1]?.stage !== tile.stage}<span class="gap"></span>{/if}
      <span role="listitem" class="contents">
        <button
          class="tile {tile.state}"
          class:lookup={tile.stage !== 'pages'}
          title="{tile.label || 'the call'}: {words[tile.state]}, {tile.status || 'no answer'}, {span(
            tile.ms,
          )}"
          aria-label="{tile.label || 'the call'}, {words[tile.state]}"
          onclick={() => onpick?.(tile)}
        >
          {#if tile.state === 'failed'}!{/if}
        </button>
      </span>
    {/each}
    {#each Array.from({ length: coming }, (_, at) => at) as at (at)}<span class="tile coming"></span>{/each}
  </div>
  <p class="muted truncate text-[13px]" aria-live="polite">
    {#if running && progress}
      {line(progress)}
      {#if onstop}<button class="plain ml-2" onclick={onstop}>Stop</button>{/if}
    {:else if tiles.length}
      {counted(tiles.length, 'call')} · {summary}
    {:else}
      {summary}
    {/if}
  </p>
</footer>

<style>
  .strip {
    border-top: 1px solid var(--line);
    background: var(--page);
    padding: 7px 16px 6px;
    min-height: 54px;
  }
  .tiles {
    display: flex;
    gap: 3px;
    height: 16px;
    align-items: center;
    overflow: hidden;
  }
  .tile {
    flex: 0 1 26px;
    min-width: 4px;
    height: 13px;
    border-radius: 3px;
    background: var(--link);
    cursor: pointer;
    font-size: 10px;
    line-height: 12px;
    font-weight: 700;
  }
  .tile.lookup {
    background: var(--paper);
    border: 1.5px solid var(--link);
    flex-basis: 20px;
  }
  .tile.missing {
    border: 1.5px dashed var(--muted);
    background: var(--paper);
  }
  .tile.failed {
    background: var(--straw);
    border: 1.5px solid var(--straw-ink);
    color: var(--straw-ink);
    min-width: 14px;
  }
  .tile.coming {
    background: var(--hatch);
    cursor: default;
  }
  .gap {
    flex: 0 0 14px;
  }
</style>
