<!-- What becomes of a list in the records, or of a value in it: asked beside the place that was clicked. -->
<script lang="ts">
  import type { ListReduction } from '../lib/api/client';
  import { listWords } from '../lib/columns';
  import Card from './Card.svelte';

  export interface Asked {
    /** The list's place in the record, without [*]. */
    list: string;
    /** The value's place in the record, lists as wildcards; that of the items for the list itself. */
    place: string;
    /** Fields beside the value, by which its item can be told. */
    siblings: { place: string; name: string; value: string }[];
    isNumber: boolean;
    /** Whether the list is an object whose members are read like one. */
    keyed: boolean;
    isList: boolean;
    box: DOMRect;
  }
  interface Props {
    asked: Asked;
    onclose: () => void;
    onrows: () => void;
    ontake: (how: ListReduction | null) => void;
    onown: () => void;
  }
  let { asked, onclose, onrows, ontake, onown }: Props = $props();
  let card = $state<HTMLElement>();
  let separator = $state(', ');
  let number = $state(2);

  const name = $derived(asked.list.replace(/^\$\.?/, '').replaceAll('[*]', '') || 'the list');
  const choices = $derived<ListReduction[]>([
    ...asked.siblings.map((one): ListReduction => ({ by: 'where', place: one.place, equals: one.value })),
    { by: 'first' },
    { by: 'last' },
    ...(asked.isNumber
      ? (['sum', 'mean', 'lowest', 'highest'] as const).map((by): ListReduction => ({ by }))
      : []),
  ]);

  $effect(() => card?.querySelector<HTMLElement>('button.row')?.focus());

  function take(how: ListReduction | null): void {
    ontake(how);
    onclose();
  }
</script>

<Card box={asked.box} label="What becomes of {name}" width={360} room={330} {onclose} bind:card>
  <p class="mb-1.5 pr-6">
    {#if asked.isList}A record has a list <strong>{name}</strong>.{:else}
      <code>{asked.place}</code> lies in the list <strong>{name}</strong>.{/if}
  </p>
  <button
    class="row"
    onclick={() => {
      onrows();
      onclose();
    }}
  >
    <b>A row for each of its {asked.keyed ? 'members' : 'items'}</b>
    <span>the record’s other values are repeated</span>
  </button>
  {#if !asked.isList || !asked.keyed}
    {#each choices as how (JSON.stringify(how))}
      {#if !(asked.isList && how.by === 'where')}
        <button class="row" onclick={() => take(how)}>
          One column: <b>{listWords(how)}</b>
        </button>
      {/if}
    {/each}
    <button class="row" onclick={() => take({ by: 'count' })}>One column: <b>how many there are</b></button>
    <div class="row inline">
      One column: <b>joined by</b>
      <input class="field" bind:value={separator} aria-label="Separator" style="width: 56px; height: 24px" />
      <button class="press small" onclick={() => take({ by: 'joined', separator })}>Take</button>
    </div>
    <div class="row inline">
      One column: <b>number</b>
      <input
        class="field"
        type="number"
        bind:value={number}
        aria-label="Number of the item"
        style="width: 64px; height: 24px"
      />
      <button class="press small" disabled={!number} onclick={() => take({ by: 'number', number })}
        >Take</button
      >
    </div>
  {/if}
  {#if asked.isList}
    <button class="row" onclick={() => take(null)}>One column: <b>all of it, as JSON text</b></button>
    <button
      class="row"
      onclick={() => {
        onown();
        onclose();
      }}
    >
      <b>A table of its own</b>
      <span>a query of its own, with the columns that rows match by; read from what is saved</span>
    </button>
  {/if}
</Card>

<style>
  .row {
    display: block;
    width: 100%;
    padding: 4px 7px;
    border-radius: 6px;
    text-align: left;
    overflow-wrap: anywhere;
  }
  button.row {
    cursor: pointer;
  }
  button.row:hover,
  button.row:focus-visible {
    background: var(--damson-wash);
  }
  .row span {
    display: block;
    color: var(--muted);
    font-size: 12.5px;
  }
  .row.inline {
    display: flex;
    align-items: center;
    gap: 7px;
  }
</style>
