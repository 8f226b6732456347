<!-- What becomes of a list in the records, or of a value in it: asked beside the place that was clicked. -->
<script lang="ts">
  import { writeJson } from '../api/json';
  import type { ListReduction } from '../api/client';
  import { choices, entryOf, type Values } from '../domain/choices';
  import { listWords } from '../domain/columns';
  import Card from '../ui/Card.svelte';

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

  const name = $derived(asked.list.replace(/^\$\.?/, '').replaceAll('[*]', '') || 'the list');
  const wheres = $derived<ListReduction[]>(
    asked.siblings.map((one) => ({ by: 'where', place: one.place, equals: one.value })),
  );
  // Those that ask for nothing are one click; the others have a field beside them.
  const reductions = $derived(choices().reductions.filter((one) => asked.isNumber || !one.numeric));
  const plain = $derived(reductions.filter((one) => !one.fields.length));
  const asking = $derived(reductions.filter((one) => one.fields.length === 1));
  let values = $state<Record<string, Values>>({ joined: { separator: ', ' }, number: { number: 2 } });

  function valuesOf(key: string): Values {
    return { ...entryOf(choices().reductions, key).defaults, ...values[key] };
  }

  $effect(() => card?.querySelector<HTMLElement>('button.row')?.focus());

  function take(how: ListReduction | null): void {
    ontake(how);
    onclose();
  }
</script>

<Card box={asked.box} label="What becomes of {name}" width={430} room={330} {onclose} bind:card>
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
    {#each asked.isList ? [] : wheres as how (writeJson(how))}
      <button class="row" onclick={() => take(how)}>One column: <b>{listWords(how)}</b></button>
    {/each}
    {#each plain as one (one.key)}
      <button class="row" onclick={() => take(one.defaults as ListReduction)}>
        One column: <b>{one.phrase}</b>
      </button>
    {/each}
    {#each asking as one (one.key)}
      {@const field = one.fields[0]}
      {@const own = valuesOf(one.key)}
      {#if field}
        <div class="row inline">
          One column: <b>{one.label}</b>
          <input
            class="field"
            type={field.kind === 'number' ? 'number' : 'text'}
            value={own[field.name]}
            oninput={(event) =>
              (values[one.key] = {
                [field.name]:
                  field.kind === 'number' ? event.currentTarget.valueAsNumber : event.currentTarget.value,
              })}
            aria-label={field.label}
            style="width: 64px; height: 24px"
          />
          <button
            class="press small"
            disabled={field.required && !own[field.name]}
            onclick={() => take(own as ListReduction)}>Take</button
          >
        </div>
      {/if}
    {/each}
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
