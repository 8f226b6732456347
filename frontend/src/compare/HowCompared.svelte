<!-- Which row is which, and what counts as the same. -->
<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import type { AlikeRule } from '../api/client';
  import { choices, cleaned, entryOf, switched, type Values } from '../domain/choices';
  import { alikeWords } from '../domain/words/alike';
  import ChoiceFields from '../ui/ChoiceFields.svelte';
  import Popover from '../ui/Popover.svelte';
  import type { CompareStore } from './compareStore.svelte';

  interface Props {
    store: CompareStore;
    /** Keep it with the query; nothing where it is of no one query. */
    onkeep: ((close: () => void) => void) | undefined;
  }
  let { store, onkeep }: Props = $props();

  const found = $derived(store.found);
  const shared = $derived(
    (found?.headings ?? []).map((one) => one.name).filter((name) => found?.then.columns.includes(name)),
  );
  let by = $state('amount');
  let column = $state('');
  let values = $state.raw<Values>({});
  const entry = $derived(entryOf(choices().alike, by));

  function choose(next: string): void {
    by = next;
    values = switched(entryOf(choices().alike, next), values);
  }

  function add(event: SubmitEvent): void {
    event.preventDefault();
    const rule = { ...cleaned(entry, values), by, columns: column ? [column] : [] };
    store.addRule(rule as unknown as AlikeRule);
    values = {};
  }

  function match(name: string, on: boolean): void {
    const own = found?.match ?? [];
    store.change({ match: on ? [...own, name] : own.filter((one) => one !== name) });
  }

  /** Columns that one of the two tables alone has, which can be paired. */
  const gone = $derived(found?.gone_columns ?? []);
  const fresh = $derived(found?.new_columns ?? []);
  let then = $state('');
  let now = $state('');
  function pair(event: SubmitEvent): void {
    event.preventDefault();
    if (!gone.includes(then) || !fresh.includes(now)) return;
    store.pair(then, now);
    then = now = '';
  }

  const changed = $derived(store.how.match !== null || store.how.alike !== null || store.how.pairs !== null);
</script>

{#if found}
  <Popover label="How they are compared" look="how" width={430} placement="bottom-start">
    {#snippet trigger()}
      {#if found.match.length}rows match by {found.match.join(' and ')}{:else}rows are told apart by all that
        is in them{/if}{#if found.alike.length}&nbsp;· {found.alike.map(alikeWords).join(', ')}{/if}
    {/snippet}
    {#snippet children(close)}
      <div class="space-y-3 text-[13.5px]">
        <section>
          <h3 class="label">Which row is which</h3>
          <p class="muted text-[13px]">Rows with the same values in these columns are the same thing.</p>
          <div class="columns">
            {#each shared as name (name)}
              <label
                ><input
                  type="checkbox"
                  name="match"
                  value={name}
                  checked={found.match.includes(name)}
                  onchange={(event) => match(name, event.currentTarget.checked)}
                />
                {name}</label
              >
            {/each}
          </div>
        </section>
        <section>
          <h3 class="label">What counts as the same</h3>
          {#if found.alike.length}
            <ul class="rules">
              {#each found.alike as rule, at (at)}
                <li>
                  <span>{alikeWords(rule)}</span>
                  <button
                    class="plain"
                    aria-label="Take off: {alikeWords(rule)}"
                    onclick={() => store.dropRule(at)}><X size={13} /></button
                  >
                </li>
              {/each}
            </ul>
          {:else}<p class="muted text-[13px]">Only what is equal.</p>{/if}
          <form class="rule" onsubmit={add}>
            <select
              class="field"
              name="alike-column"
              aria-label="Column"
              bind:value={column}
              required={entry.ignores}
            >
              <option value="" disabled={entry.ignores}>every column</option>
              {#each shared as name (name)}<option>{name}</option>{/each}
            </select>
            <select
              class="field"
              name="alike-by"
              aria-label="Rule"
              value={by}
              onchange={(event) => choose(event.currentTarget.value)}
            >
              {#each choices().alike as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
            </select>
            <ChoiceFields
              fields={entry.fields}
              values={{ ...entry.defaults, ...values }}
              prefix="alike-"
              onchange={(name, value) => (values = { ...entry.defaults, ...values, [name]: value })}
            />
            <button class="press small">Add the rule</button>
          </form>
        </section>
        {#if found.renamed.length || (gone.length && fresh.length)}
          <section>
            <h3 class="label">Which column is which</h3>
            {#if found.renamed.length}
              <ul class="rules">
                {#each found.renamed as one (one.now)}
                  <li>
                    <span
                      >{one.then} is called {one.now} now{#if !one.by_hand}<span class="muted"
                          >: it is of the same place</span
                        >{/if}</span
                    >
                    {#if one.by_hand}<button
                        class="plain"
                        aria-label="Part {one.then} and {one.now}"
                        onclick={() => store.part(one.then)}><X size={13} /></button
                      >{/if}
                  </li>
                {/each}
              </ul>
            {/if}
            {#if gone.length && fresh.length}
              <form class="pair" onsubmit={pair}>
                <select
                  class="field"
                  name="pair-then"
                  aria-label="A column of the earlier table"
                  bind:value={then}
                  required
                >
                  <option value="" disabled>a column that went</option>
                  {#each gone as name (name)}<option>{name}</option>{/each}
                </select>
                <span>is called</span>
                <select
                  class="field"
                  name="pair-now"
                  aria-label="Its name in the later table"
                  bind:value={now}
                  required
                >
                  <option value="" disabled>a new column</option>
                  {#each fresh as name (name)}<option>{name}</option>{/each}
                </select>
                <button class="press small">Pair them</button>
              </form>
            {/if}
          </section>
        {/if}
        {#if changed}
          <div class="flex gap-2">
            {#if onkeep}<button class="press main small" onclick={() => onkeep(close)}
                >Keep this with the query</button
              >{/if}
            <button
              class="press small"
              onclick={() => {
                store.asKept();
                close();
              }}>As the query says</button
            >
          </div>
        {/if}
      </div>
    {/snippet}
  </Popover>
{/if}

<style>
  :global(.how) {
    min-width: 0;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
    color: var(--muted);
    font-size: 13.5px;
    text-align: left;
    text-decoration: underline;
    text-decoration-style: dotted;
    text-underline-offset: 3px;
    cursor: pointer;
  }
  :global(.how:hover) {
    color: var(--damson);
  }
  .columns {
    display: grid;
    grid-template-columns: 1fr 1fr;
    max-height: 150px;
    margin-top: 4px;
    overflow: auto;
  }
  .columns label {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .rules li {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    padding: 2px 6px;
    border-radius: 5px;
    background: var(--band);
    margin-bottom: 3px;
  }
  .pair {
    display: grid;
    grid-template-columns: 1fr auto 1fr auto;
    gap: 6px;
    align-items: center;
    margin-top: 4px;
  }
  .pair .field {
    min-width: 0;
  }
  .rule {
    display: grid;
    grid-template-columns: 1fr 1.4fr;
    gap: 6px;
    align-items: end;
    margin-top: 6px;
  }
</style>
