<!-- A feed that is written or changed. Beside its form stands what it would do: what is there, what is written, what is
     replaced. -->
<script lang="ts">
  import { onMount } from 'svelte';
  import { api, ask, problemOf, type Ahead, type Brief, type Feed, type Problem } from '../../api/client';
  import { readJson, writeJson } from '../../api/json';
  import { choices, cleaned, entryOf, matters, switched, type Values } from '../../domain/choices';
  import { cellText } from '../../domain/words/format';
  import ScheduleForm from '../../parts/ScheduleForm.svelte';
  import ChoiceFields from '../../ui/ChoiceFields.svelte';
  import Dialog from '../../ui/Dialog.svelte';
  import ProblemNote from '../../ui/ProblemNote.svelte';

  interface Props {
    queryId: number;
    brief: Brief;
    /** The feed that is changed; none for a new one. */
    feed: Feed | null;
    columns: string[];
    onclose: () => void;
    /** @param now Whether it is saved and handed over at once. */
    ondone: (feed: Feed, now: boolean) => void;
  }
  let { queryId, brief, feed, columns, onclose, ondone }: Props = $props();

  const kinds = choices().feeds;
  const usually = entryOf(kinds, 'sheet');
  const fresh = (): string => crypto.randomUUID().replaceAll('-', '').slice(0, 10);
  // svelte-ignore state_referenced_locally
  let to = $state<string>(feed?.to ?? usually.key);
  // svelte-ignore state_referenced_locally
  let values = $state<Values>(feed ? { ...feed } : { ...structuredClone(usually.defaults), id: fresh() });
  const kind = $derived(entryOf(kinds, to));
  const usual = $derived(
    kind.fields.filter((field) => !field.more && field.kind !== 'times' && matters(field, values)),
  );
  const timed = $derived(kind.fields.some((field) => field.kind === 'times' && matters(field, values)));
  const further = $derived(kind.fields.filter((field) => field.more && matters(field, values)));
  // Open from the beginning where something there was chosen.
  // svelte-ignore state_referenced_locally
  let more = $state(
    further.some((field) => String(values[field.name] ?? '') !== String(kind.defaults[field.name] ?? '')),
  );

  let workbooks = $state.raw<string[]>([]);
  let folder = $state('');
  let inside = $state.raw<{ path: string; sheets: string[]; tables: string[] } | null>(null);
  const lists = $derived({
    path: to === 'sheet' ? workbooks : [],
    sheet: inside && inside.path === values.path ? inside.sheets : [],
    table: inside && inside.path === values.path ? inside.tables : [],
    part_by: columns,
  });

  onMount(() => {
    ask(api.GET('/api/feeds/places')).then(
      (found) => {
        workbooks = found.workbooks;
        folder = found.folder;
      },
      () => {},
    );
  });

  function choose(key: string): void {
    if (key === to) return;
    values = { ...switched(entryOf(kinds, key), values, ['id', 'when']), to: key };
    to = key;
  }

  const asFeed = (): Feed => {
    const made = cleaned(kind, { ...values, to, schedule: timed ? values.schedule : null });
    return { ...made, id: made.id ?? '' } as unknown as Feed;
  };
  /** What says where it goes to. */
  const target = $derived(kind.fields[0]?.name ?? 'path');
  const complete = $derived(
    kind.fields.every((field) => !field.required || !!String(values[field.name] ?? '').trim()),
  );

  // A password is kept as soon as it is typed in full; it is never part of the query.
  let password = $state('');
  let kept = $state(false);
  const asksPassword = $derived('user' in kind.defaults);
  async function keepPassword(): Promise<void> {
    if (!password) return;
    try {
      await ask(
        api.POST('/api/queries/{query_id}/feeds/password', {
          params: { path: { query_id: queryId } },
          body: { feed: asFeed() as never, password },
        }),
      );
      password = '';
      kept = true;
      values = { ...values };
    } catch (error) {
      problem = problemOf(error);
    }
  }

  // What it would do, as soon as the hand rests.
  let ahead = $state.raw<Ahead | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let looking = $state(false);
  let turn = 0;
  $effect(() => {
    const written = writeJson({ ...values, to });
    const mine = ++turn;
    if (!complete) {
      ahead = null;
      problem = null;
      return;
    }
    looking = true;
    const timer = setTimeout(() => void look(mine, written), 350);
    return () => clearTimeout(timer);
  });

  async function look(mine: number, written: string): Promise<void> {
    const path = String((readJson(written) as Values).path ?? '');
    try {
      if (to === 'sheet' && inside?.path !== path && workbooks.includes(path))
        inside = await ask(api.GET('/api/feeds/workbook', { params: { query: { path } } })).catch(() => null);
      const found = await ask(
        api.POST('/api/queries/{query_id}/feeds/ahead', {
          params: { path: { query_id: queryId } },
          body: { brief: brief as never, feed: asFeed() as never },
        }),
      );
      if (mine !== turn) return;
      ahead = found;
      problem = null;
    } catch (error) {
      if (mine !== turn) return;
      ahead = null;
      problem = problemOf(error);
    } finally {
      if (mine === turn) looking = false;
    }
  }
</script>

<Dialog title={feed ? 'Change this feed' : 'Hand the table over'} open {onclose} width={980} holds={!!feed}>
  <div class="kinds" role="radiogroup" aria-label="Where to">
    {#each kinds as one (one.key)}
      <label class:chosen={one.key === to}>
        <input
          type="radio"
          name="feed to"
          value={one.key}
          checked={one.key === to}
          onchange={() => choose(one.key)}
        />
        <strong>{one.label.replace(/^./, (first) => first.toUpperCase())}</strong>
        <small>{one.hint}</small>
      </label>
    {/each}
  </div>
  <form
    class="beside mt-4 grid gap-5"
    onsubmit={(event) => {
      event.preventDefault();
      if (complete) ondone(asFeed(), false);
    }}
  >
    <div>
      <div class="fields">
        <ChoiceFields
          fields={usual}
          {values}
          {lists}
          prefix="feed "
          onchange={(name, value) => (values = { ...values, [name]: value })}
        />
      </div>
      {#if timed}
        <div class="mt-3">
          <ScheduleForm
            schedule={(values.schedule ?? null) as never}
            onchange={(one) => (values = { ...values, schedule: one })}
          />
        </div>
      {/if}
      {#if asksPassword}
        <div class="mt-2 flex items-end gap-2">
          <label class="flex-1">
            <span class="label">Password, kept in the vault</span>
            <input
              class="field"
              type="password"
              name="feed password"
              autocomplete="off"
              placeholder={kept || ahead?.has_password ? 'stored' : 'none'}
              bind:value={password}
              onkeydown={(event) => {
                if (event.key !== 'Enter') return;
                event.preventDefault();
                void keepPassword();
              }}
            />
          </label>
          <button class="press" type="button" disabled={!password} onclick={keepPassword}>Store</button>
        </div>
      {/if}
      {#if folder && target === 'path'}
        <p class="muted mt-2 text-[12.5px] wrap-anywhere">
          A name without a folder is in <code>{folder}</code>.
        </p>
      {/if}
      {#if further.length}
        <button type="button" class="plain mt-3" aria-expanded={more} onclick={() => (more = !more)}
          >{more ? 'Fewer choices' : `${further.length} more choices`}</button
        >
        {#if more}
          <div class="fields mt-2">
            <ChoiceFields
              fields={further}
              {values}
              {lists}
              prefix="feed "
              onchange={(name, value) => (values = { ...values, [name]: value })}
            />
          </div>
        {/if}
      {/if}
    </div>
    <section class="ahead" aria-label="What it would do" aria-busy={looking}>
      <h3>What it would do</h3>
      {#if !complete}
        <p class="muted">
          Say where to. What is there now, and what would be written, is said here before anything is.
        </p>
      {:else if problem}
        <ProblemNote {problem} />
      {:else if ahead}
        {#if ahead.there}<p>{ahead.there}</p>{/if}
        <ul>
          {#each ahead.told as line, at (at)}<li>{line}</li>{/each}
          {#each ahead.warned as line, at (at)}<li class="warned">{line}</li>{/each}
        </ul>
        <p class="muted wrap-anywhere">
          {ahead.places.slice(0, 3).join('; ')}{ahead.places.length > 3 ? ' …' : ''}
        </p>
        <p class="muted">{ahead.as_of}.</p>
        {#if ahead.sample.length}
          <div class="sample">
            <table>
              <thead
                ><tr
                  >{#each ahead.columns as name (name)}<th>{name}</th>{/each}</tr
                ></thead
              >
              <tbody>
                {#each ahead.sample as row, at (at)}
                  <tr
                    >{#each row as cell, column (column)}<td>{cellText(cell as never, { kind: 'text' })}</td
                      >{/each}</tr
                  >
                {/each}
              </tbody>
            </table>
          </div>
        {/if}
      {:else}
        <p class="muted">Looking…</p>
      {/if}
    </section>
    <div class="deeds flex flex-wrap items-center gap-3">
      <button class="press main" type="submit" disabled={!complete}>{feed ? 'Done' : 'Add the feed'}</button>
      <button
        class="press"
        type="button"
        disabled={!complete || !ahead}
        onclick={() => ondone(asFeed(), true)}
        >{to === 'address' ? 'Save the query and switch it on' : 'Save the query and hand over now'}</button
      >
      <button class="press" type="button" onclick={onclose}>Cancel</button>
    </div>
  </form>
</Dialog>

<style>
  .beside {
    grid-template-columns: minmax(0, 400px) minmax(0, 1fr);
  }
  .deeds {
    grid-column: 1 / -1;
  }
  @media (max-width: 760px) {
    .beside {
      grid-template-columns: minmax(0, 1fr);
    }
    .kinds label:not(.chosen) small {
      display: none;
    }
    .beside .ahead {
      border-left: 0;
      border-top: 1px solid var(--hair);
      padding: 12px 0 0;
      min-height: 0;
    }
  }
  .kinds {
    display: grid;
    grid-template-columns: repeat(auto-fit, minmax(165px, 1fr));
    gap: 10px;
  }
  .kinds label {
    border: 1px solid var(--line);
    border-radius: 8px;
    padding: 8px 11px;
    cursor: pointer;
    display: grid;
    grid-template-columns: 18px 1fr;
    align-content: start;
    column-gap: 6px;
  }
  .kinds label.chosen {
    border-color: var(--damson);
    background: var(--damson-wash);
  }
  .kinds small {
    grid-column: 2;
    color: var(--muted);
    font-size: 12.5px;
    line-height: 16px;
  }
  .fields {
    display: grid;
    grid-template-columns: 1fr 1fr;
    gap: 9px 12px;
  }
  .ahead {
    border-left: 1px solid var(--hair);
    padding-left: 18px;
    font-size: 13.5px;
    min-height: 200px;
  }
  .ahead h3 {
    font-weight: 600;
    margin-bottom: 6px;
  }
  .ahead ul {
    margin: 6px 0;
    padding-left: 16px;
    list-style: disc;
  }
  .warned {
    background: var(--straw-wash);
  }
  .sample {
    margin-top: 8px;
    overflow-x: auto;
    border: 1px solid var(--hair);
    border-radius: 6px;
  }
  .sample th,
  .sample td {
    padding: 2px 8px;
    text-align: left;
    white-space: nowrap;
    max-width: 180px;
    overflow: hidden;
    text-overflow: ellipsis;
    font-size: 12.5px;
  }
  .sample th {
    color: var(--muted);
    border-bottom: 1px solid var(--hair);
  }
</style>
