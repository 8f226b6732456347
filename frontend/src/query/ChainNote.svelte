<!-- The tables that a query is made of, small, with what is old or incomplete among them. -->
<script lang="ts">
  import type { Chain } from '../api/client';
  import { counted, when } from '../domain/words/format';
  import Popover from '../ui/Popover.svelte';

  interface Props {
    chain: Chain[];
    /** When the table in sight was taken. */
    taken: string;
  }
  let { chain, taken }: Props = $props();

  const DAY = 86_400_000;
  /** What is to be known of a table; nothing where it is as fresh as the table itself, and complete. */
  function lacks(one: Chain): string {
    if (one.state === 'gone') return 'gone';
    if (one.state === 'none') return 'no table yet';
    if (one.state === 'incomplete' || one.state === 'unverified') return one.state;
    if (one.taken && taken && new Date(taken).getTime() - new Date(one.taken).getTime() > DAY)
      return `of ${when(one.taken)}`;
    return '';
  }
  const every = (list: Chain[]): Chain[] => list.flatMap((one) => [one, ...every(one.of)]);
  /** What is old or incomplete behind the tables that are named. */
  const behind = $derived(every(chain).filter((one) => lacks(one) && !chain.includes(one)));
  const told = (one: Chain): string => `${one.name} (${lacks(one)})`;
</script>

{#if chain.length}
  <span
    >· from <Popover label="What this table is made of" look="plainly" width={360}>
      {#snippet trigger()}{#each chain as one, at (one.name)}{at ? ', ' : ''}{#if lacks(one)}<b class="straw"
              >{told(one)}</b
            >{:else}{one.name}{/if}{/each}{#if behind[0]}, <b class="straw"
            >behind {chain.length > 1 ? 'them' : 'it'}
            {behind.length > 1 ? `${behind.length} that are old or incomplete` : told(behind[0])}</b
          >{/if}{/snippet}
      {#snippet children()}
        {@render tree(chain, 0)}
      {/snippet}
    </Popover></span
  >
{/if}

{#snippet tree(list: Chain[], depth: number)}
  <ul style="padding-left: {depth * 16}px">
    {#each list as one (one.name)}
      <li class="py-0.5">
        {#if one.query_id}<a class="plain" href="#/query/{one.query_id}">{one.name}</a>{:else}{one.name}{/if}
        <span class="muted"
          >{one.starts ? '' : 'brought in, '}{counted(one.rows, 'row')}{one.taken
            ? `, ${when(one.taken)}`
            : ''}</span
        >
        {#if lacks(one)}<b class="straw">{lacks(one)}</b>{/if}
        {#if one.of.length}{@render tree(one.of, depth + 1)}{/if}
      </li>
    {/each}
  </ul>
{/snippet}

<style>
  :global(.plainly) {
    color: var(--link);
    text-decoration: underline;
    text-underline-offset: 2px;
    cursor: pointer;
  }
  .straw {
    color: var(--straw-ink);
    font-weight: 600;
  }
</style>
