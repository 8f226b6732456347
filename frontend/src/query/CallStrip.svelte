<!-- One tile a call, in the order in which they were made; very many are put together. -->
<script lang="ts">
  import type { Cost, Progress, Tile } from '../api/client';
  import { count, counted, span } from '../domain/words/format';
  import { costWords, grouped, oddWords, remaining, STATE_WORDS, statesWords } from '../domain/words/strip';

  interface Props {
    tiles: Tile[];
    /** What the question is asked for, such as a day. */
    noun: string;
    progress: Progress | null;
    summary: string;
    cost?: Cost | null;
    onstop?: () => void;
    onpick?: (tile: Tile) => void;
  }
  let { tiles, noun, progress, summary, cost = null, onstop, onpick }: Props = $props();

  const MOST = 90;
  const running = $derived(progress?.state === 'running');
  const waiting = $derived(running ? (progress?.waiting ?? null) : null);
  const many = $derived(tiles.length > MOST);
  const groups = $derived(many ? grouped(tiles, MOST) : []);
  const odd = $derived(oddWords(tiles));
  const coming = $derived(
    running && progress?.expected
      ? Math.max(0, Math.min(40, progress.expected - (tiles.length - progress.before_stage - progress.again)))
      : 0,
  );

  let now = $state(Date.now());
  $effect(() => {
    if (!waiting?.until) return;
    const timer = setInterval(() => (now = Date.now()), 200);
    return () => clearInterval(timer);
  });

  function waits(): string {
    if (!waiting) return '';
    if (waiting.what === 'key') return 'waiting for a key';
    const left = waiting.until ? remaining(waiting.until - now / 1000) : '';
    return `waits ${left}: ${waiting.why}`;
  }

  function line(of: Progress): string {
    if (of.stage === 'reading') return `${counted(of.rows, 'row')} are here, making the table…`;
    if (of.stage === 'keeping') return `${counted(of.rows, 'row')} are here, keeping the snapshot…`;
    // A call that was refused and made again is one page.
    const made = of.calls - of.before_stage - of.again;
    const all = of.expected ? ` of ${count(of.expected)}` : '';
    const one = made === 1 && !of.expected;
    const stage = of.stage === 'pages' ? (one ? 'page' : 'pages') : `${one ? 'call' : 'calls'}, ${of.stage}`;
    const iterations =
      of.iterations > 1 ? ` · ${count(of.iterations_done)} of ${counted(of.iterations, noun)}` : '';
    const total = of.stated_total == null ? '' : ` of ${count(of.stated_total)} stated`;
    const again = of.again ? `, ${count(of.again)} asked again` : '';
    return `${count(made)}${all} ${stage}${again} · ${count(of.rows)}${total} rows so far${iterations}`;
  }

  /** The part of a group, in percent from below, that went well, and the part that is at least no failure. */
  function shares(states: Partial<Record<Tile['state'], number>>, size: number): string {
    const good = (((states.answered ?? 0) + (states.saved ?? 0) + (states.unchanged ?? 0)) / size) * 100;
    const fair = good + ((states.missing ?? 0) / size) * 100;
    return `linear-gradient(to top, var(--link) ${good}%, var(--faint) ${good}% ${fair}%, var(--straw) ${fair}%)`;
  }
</script>

<footer class="strip">
  <div class="tiles" role="list" aria-label="Calls of this run">
    {#if many}
      {#each groups as group (group.first.number)}
        {@const words = `calls ${count(group.first.number)} to ${count(group.last.number)}: ${statesWords(group.states)}`}
        <span role="listitem" class="contents">
          <button
            class="tile group"
            class:alarmed={!!group.states.failed}
            style="background: {shares(group.states, group.size)}"
            title={words}
            aria-label={words}
            onclick={() => onpick?.(group.shown)}>{group.states.failed ? '!' : ''}</button
          >
        </span>
      {/each}
    {:else}
      {#each tiles as tile, at (tile.number)}
        {#if at > 0 && tiles[at - 1]?.stage !== tile.stage}<span class="gap"></span>{/if}
        <span role="listitem" class="contents">
          <button
            class="tile {tile.state}"
            class:lookup={tile.stage.startsWith('look up')}
            title="{tile.label || 'the call'}: {STATE_WORDS[tile.state]}, {tile.status || 'no answer'}, {span(
              tile.ms,
            )}"
            aria-label="{tile.label || 'the call'}, {STATE_WORDS[tile.state]}"
            onclick={() => onpick?.(tile)}
          >
            {#if tile.state === 'failed'}!{:else if tile.state === 'again'}↻{/if}
          </button>
        </span>
      {/each}
    {/if}
    {#if waiting}<span class="tile waits" title={waits()}>…</span>{/if}
    {#each Array.from({ length: many ? 0 : coming }, (_, at) => at) as at (at)}<span class="tile coming"
      ></span>{/each}
  </div>
  <div class="flex items-baseline gap-3">
    <p class="muted min-w-0 flex-1 truncate text-[13px]" aria-live="polite">
      {#if running && progress}
        {line(progress)}
        {#if waiting}<strong class="loud" role="timer"> · {waits()}</strong>{/if}
        {#if onstop}<button class="plain ml-2" onclick={onstop}>Stop</button>{/if}
      {:else if tiles.length}
        {counted(tiles.length, 'call')}{many
          ? `, each tile stands for ${counted(groups[0]?.size ?? 1, 'call')}`
          : ''}
        {#if odd}· {odd}{/if} · {summary}
      {:else}
        {summary}
      {/if}
    </p>
    {#if !running && cost}
      <p class="muted max-w-[62%] shrink-0 truncate text-[13px]" title={cost.warning || cost.basis}>
        {costWords(cost)}
        {#each cost.left as one (one.words)}{#if one.left < one.calls || one.calls >= 500}
            · {count(one.left)} of {one.words} left{/if}{/each}
        {#if cost.warning}<strong class="loud">· {cost.warning}</strong>{/if}
      </p>
    {/if}
  </div>
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
    text-align: center;
  }
  .tile.lookup {
    background: var(--paper);
    border: 1.5px solid var(--link);
    flex-basis: 20px;
  }
  .tile.saved {
    background: linear-gradient(to top, var(--link) 5px, var(--paper) 5px);
    border: 1.5px solid var(--link);
  }
  .tile.unchanged {
    background: linear-gradient(to top, var(--link) 5px, var(--paper) 5px 8px, var(--link) 8px);
  }
  .tile.missing {
    border: 1.5px dashed var(--muted);
    background: var(--paper);
  }
  .tile.again {
    background: var(--straw-wash);
    border: 1.5px dotted var(--straw-ink);
    color: var(--straw-ink);
    border-radius: 7px;
    min-width: 14px;
  }
  .tile.failed {
    background: var(--straw);
    border: 1.5px solid var(--straw-ink);
    color: var(--straw-ink);
    min-width: 14px;
  }
  .tile.group {
    flex: 1 1 8px;
    min-width: 3px;
    border-radius: 1px;
  }
  .tile.group.alarmed {
    outline: 1.5px solid var(--straw-ink);
    color: var(--straw-ink);
  }
  .tile.waits {
    background: var(--straw);
    color: var(--straw-ink);
    cursor: default;
    animation: breathe 1.6s ease-in-out infinite;
  }
  .tile.coming {
    background: var(--hatch);
    cursor: default;
  }
  .gap {
    flex: 0 0 14px;
  }
  .loud {
    color: var(--straw-ink);
  }
  @keyframes breathe {
    50% {
      opacity: 0.45;
    }
  }
  @media (prefers-reduced-motion: reduce) {
    .tile.waits {
      animation: none;
    }
  }
</style>
