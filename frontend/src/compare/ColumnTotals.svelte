<!-- What the changes of a column of numbers come to: its sum then and now, what led there, and how large they are. -->
<script lang="ts">
  import { api, ask, problemOf, type DifferenceTotals, type Problem } from '../api/client';
  import { Latest } from '../api/latest';
  import { counted, numberText, signed } from '../domain/words/format';
  import ProblemNote from '../ui/ProblemNote.svelte';
  import type { CompareStore } from './compareStore.svelte';

  interface Props {
    store: CompareStore;
    column: string;
    unit: string;
  }
  let { store, column, unit }: Props = $props();

  let found = $state.raw<DifferenceTotals | null>(null);
  let problem = $state.raw<Problem | null>(null);
  type Query = CompareStore['sides'] & { column: string };
  const latest = new Latest((query: Query) => ask(api.GET('/api/compare/totals', { params: { query } })));
  $effect(() => {
    latest.ask({ ...store.sides, column }).then(
      (got) => {
        if (got) [found, problem] = [got.value, null];
      },
      (error: unknown) => (problem = problemOf(error)),
    );
  });

  const digits = $derived(
    found &&
      [found.then, found.now, found.came, found.went, found.changed].every((one) => Number.isInteger(one))
      ? 0
      : 2,
  );
  const text = (value: number | null): string => (value === null ? 'too large' : numberText(value, digits));
  const by = (value: number | null): string => (value === null ? 'too large' : signed(value, digits));
  const change = $derived(found?.then != null && found.now != null ? found.now - found.then : null);
  const share = $derived(
    change !== null && found?.then ? ` (${signed((change / Math.abs(found.then)) * 100, 1)} %)` : '',
  );

  const WIDTH = 168;
  const HEIGHT = 30;
  const highest = $derived(Math.max(1, ...(found?.counts ?? [])));
  const step = $derived(WIDTH / Math.max(1, found?.counts.length ?? 1));
  const range = (at: number): string =>
    `${signed(found?.edges[at] ?? 0, digits)} to ${signed(found?.edges[at + 1] ?? 0, digits)}`;
  /** Where no difference stands, from the left. */
  const nought = $derived.by(() => {
    const edges = found?.edges ?? [];
    const [low, high] = [edges[1] ?? 0, edges.at(-2) ?? 0];
    if (edges.length < 4 || low >= 0 || high <= 0) return null;
    return step + ((0 - low) / (high - low)) * (WIDTH - 2 * step);
  });
</script>

{#if problem}<ProblemNote {problem} />{/if}
{#if found}
  <div class="totals" role="group" aria-label="What the changes of {column} come to">
    <p>
      The sum was <strong>{text(found.then)}</strong>{unit ? ` ${unit}` : ''}:
      {#if found.went !== 0}<span>{by(found.went === null ? null : -found.went)} of rows that are gone,</span
        >{/if}
      <span>{by(found.changed)} of rows that changed{found.came !== 0 ? ',' : ''}</span>
      {#if found.came !== 0}<span>{by(found.came)} of new rows</span>{/if}
      <span class="whitespace-nowrap">make <strong>{text(found.now)}</strong>, {by(change)}{share}.</span>
      {#if found.others}<span class="muted"
          >{counted(found.others, 'cell')} of both tables {found.others === 1 ? 'has' : 'have'} a value that is
          no number.</span
        >{/if}
    </p>
    {#if found.counts.length}
      <figure>
        <svg
          width={WIDTH}
          height={HEIGHT}
          role="img"
          aria-label="{counted(
            found.counts.reduce((sum, one) => sum + one, 0),
            'number',
          )} changed, from {signed(found.edges[0] ?? 0, digits)} to {signed(found.edges.at(-1) ?? 0, digits)}"
        >
          <line x1="0" x2={WIDTH} y1={HEIGHT - 0.5} y2={HEIGHT - 0.5} stroke="var(--faint)" />
          {#each found.counts as number, at (at)}
            {@const high = number ? Math.max(2, (number / highest) * (HEIGHT - 3)) : 0}
            <rect
              x={at * step + 0.5}
              y={HEIGHT - 1 - high}
              width={Math.max(1, Math.min(step - 1, 12))}
              height={high}
              fill="var(--straw)"
            />
            <rect x={at * step} y="0" width={step} height={HEIGHT} fill="transparent"
              ><title>{range(at)}: {counted(number, 'row')}</title></rect
            >
          {/each}
          {#if nought !== null}
            <line x1={nought} x2={nought} y1="0" y2={HEIGHT} stroke="var(--muted)" stroke-dasharray="2 2" />
          {/if}
        </svg>
        <figcaption>
          <span>{signed(found.edges[0] ?? 0, digits)}</span>
          <span>{signed(found.edges.at(-1) ?? 0, digits)}</span>
        </figcaption>
      </figure>
    {/if}
  </div>
{/if}

<style>
  .totals {
    display: flex;
    align-items: center;
    justify-content: space-between;
    gap: 16px;
    padding: 5px 12px;
    border-bottom: 1px solid var(--line);
    font-size: 13px;
  }
  figure {
    flex-shrink: 0;
    width: 168px;
  }
  figcaption {
    display: flex;
    justify-content: space-between;
    font-size: 11.5px;
    color: var(--muted);
  }
  @media (max-width: 700px) {
    .totals {
      flex-wrap: wrap;
    }
  }
</style>
