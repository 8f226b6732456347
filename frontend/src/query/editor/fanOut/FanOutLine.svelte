<!-- For each: the values that the question is asked for. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { api, ask, type Brief, type Each, type FirstCall } from '../../../api/client';
  import { eachNoun, eachWords, made as fanOutOf, type Offered } from '../../../domain/fanOut';
  import { changeableParts } from '../../../domain/parameters';
  import { withNames } from '../../../domain/jsonpath';
  import { count, counted } from '../../../domain/words/format';
  import Popover from '../../../ui/Popover.svelte';
  import { keepTyped, markTyped } from '../../../ui/typed.svelte';
  import EditorRow from '../EditorRow.svelte';

  import FanOutEntry from './FanOutEntry.svelte';

  interface Props {
    brief: Brief;
    firstCall: FirstCall | null;
    /** The iterations of the last run that failed, and why. */
    failed: { label: string; kind: string; what: string; words: string }[];
    /** Number of the query. */
    id: number;
    onchange: (brief: Brief) => void;
  }
  let { brief, firstCall, failed, id, onchange }: Props = $props();

  let draft = $state.raw<Each[]>([]);
  const keep = $derived(`for each of query ${id}`);
  keepTyped(
    () => keep,
    () => draft,
    (held) => (draft = held),
  );
  /** The values as they are set now, not yet used. */
  function set(values: Each[]): void {
    draft = values;
    markTyped(keep);
  }
  let offered = $state.raw<Offered>({ queries: [], sheets: [] });
  let ids = $state.raw<Record<string, number>>({});

  onMount(() => {
    ask(api.GET('/api/desk')).then(
      (desk) => {
        const queries = desk.queries
          .filter((line) => line.latest && line.name !== brief.name)
          .map((line) => line.name);
        ids = Object.fromEntries(desk.queries.map((line) => [line.name, line.id]));
        offered = { ...offered, queries };
      },
      () => {}, // Then there is none to choose.
    );
    void readSheets();
  });

  async function readSheets(): Promise<void> {
    const sheets = await ask(api.GET('/api/sheets')).catch(() => offered.sheets);
    offered = { ...offered, sheets };
  }

  const parts = $derived(changeableParts(brief));
  const names = $derived(brief.parameters.map((parameter) => parameter.name));
  const fresh = (): Each => fanOutOf('list', names[0] ?? '', brief, offered);

  function done(close: () => void): void {
    onchange({ ...brief, each: draft });
    close();
  }
</script>

{#snippet form(close: () => void)}
  <div class="space-y-3">
    <p class="muted text-[13px]">
      The question is asked once for every value, or for every combination; the values become columns, and one
      that fails does not lose the others.
    </p>
    {#each draft as one, at (at)}
      <FanOutEntry
        {one}
        {brief}
        {offered}
        {ids}
        onsheets={readSheets}
        onchange={(changed) => set(draft.map((old, index) => (index === at ? changed : old)))}
        onremove={() => set(draft.filter((_, index) => index !== at))}
      />
    {/each}
    {#if names.length}
      <button type="button" class="plain text-[13px]" onclick={() => set([...draft, fresh()])}
        >{draft.length ? 'combine with more values' : 'add values'}</button
      >
    {:else}
      <div class="seen">
        {#if parts.length}
          <label class="block">
            <span class="label">Which part of the question is another one in each call?</span>
            <select
              class="field"
              name="each-part"
              onchange={(event) => {
                const made = parts[Number(event.currentTarget.value)]?.make(brief);
                if (!made) return;
                onchange(made.brief);
                set([...draft, fanOutOf('list', made.name, made.brief, offered)]);
              }}
            >
              <option value="">choose…</option>
              {#each parts as part, at (at)}<option value={at}>{part.words}</option>{/each}
            </select>
          </label>
        {:else}
          The question has no parameter yet. Put one in braces into the path, an address parameter or the body
          first.
        {/if}
      </div>
    {/if}
    <div class="foot"><button class="press main small" onclick={() => done(close)}>Done</button></div>
  </div>
{/snippet}

{#if brief.each.length}
  <EditorRow
    verb="For each"
    note={firstCall && firstCall.iterations > 1
      ? `${counted(firstCall.iterations, eachNoun(brief.each))}: ${firstCall.iteration_labels.slice(0, 3).join(' · ')}${firstCall.iterations > 3 ? ' …' : ''}`
      : firstCall?.iterations === 1
        ? `one ${eachNoun(brief.each)}`
        : ''}
  >
    {#each brief.each as one, at (at)}
      {at ? ' and each ' : ''}<Popover
        label="For each"
        onopen={() => (draft = brief.each)}
        width={600}
        {keep}
      >
        {#snippet trigger()}{eachWords(one, brief)}{/snippet}
        {#snippet children(close)}{@render form(close)}{/snippet}
      </Popover>{/each}.
    {#each failed.slice(0, 3) as one (one.label)}
      <span class="failed"
        ><strong>{one.label}</strong>{one.kind === 'no-rows-there' ? '' : ' failed'}: {withNames(
          one.words || one.what,
        )}</span
      >
    {/each}
    {#if failed.length > 3}<span class="failed">{count(failed.length - 3)} more; see Calls.</span>{/if}
  </EditorRow>
{:else}
  <EditorRow verb="For each">
    <Popover
      label="For each"
      look="phrase quiet"
      onopen={() => (draft = names.length ? [fresh()] : [])}
      {keep}
      width={600}
    >
      {#snippet trigger()}asked once{/snippet}
      {#snippet children(close)}{@render form(close)}{/snippet}
    </Popover>.
  </EditorRow>
{/if}

<style>
  .failed {
    display: block;
    margin-top: 3px;
    padding: 1px 7px;
    border: 1px solid var(--straw);
    border-radius: 5px;
    background: var(--straw-wash);
    font-size: 12.5px;
    line-height: 17px;
  }
</style>
