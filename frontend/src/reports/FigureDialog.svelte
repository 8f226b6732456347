<!-- A figure: what it is of, and what it is called. -->
<script lang="ts">
  import { untrack } from 'svelte';
  import {
    api,
    ask,
    problemOf,
    type Column,
    type Condition,
    type ReportFigure,
    type Schemas,
  } from '../api/client';
  import { choices, entryOf, switched, type Values } from '../domain/choices';
  import ConditionsField from '../parts/ConditionsField.svelte';
  import TableFields from '../parts/TableFields.svelte';
  import Dialog from '../ui/Dialog.svelte';
  import type { ReportStore } from './reportStore.svelte';
  import { queryColumns } from './queryColumns';

  interface Props {
    store: ReportStore;
    /** The figure that is changed; an empty text for a new one. */
    name: string;
    onclose: () => void;
    /** A new figure is to stand in the text. */
    onadded: (name: string) => void;
  }
  let { store, name, onclose, onadded }: Props = $props();

  const KINDS = choices().report_figures;
  const start = (): Values => ({
    ...structuredClone(entryOf(KINDS, 'amount').defaults),
    name: '',
    decimals: null,
  });
  const was = untrack(() => (name ? store.figure(name) : undefined));
  let values = $state.raw<Values>(was ? ({ ...was } as unknown as Values) : start());
  let query = $state<number | null>(was?.query ?? untrack(() => store.queries[0]) ?? null);
  let queries = $state.raw<Schemas['QueryLine'][]>([]);
  let columns = $state.raw<Column[]>([]);
  let words = $state('');
  let why = $state('');
  let more = $state(false);
  let find = $state('');

  const entry = $derived(entryOf(KINDS, String(values.tells)));
  const typed = $derived(String(values.name ?? '').trim());
  const taken = $derived(
    !!typed && typed.toLowerCase() !== (was?.name ?? '').toLowerCase() && !!store.figure(typed),
  );
  const unfit = $derived(/[{}:\\]/.test(typed));
  const offered = $derived(
    (query === null ? [] : (store.offers[query]?.figures ?? []))
      .filter((one) => !store.figure(one.figure.name))
      .filter((one) => one.figure.name.toLowerCase().includes(find.trim().toLowerCase())),
  );

  $effect(() => {
    void ask(api.GET('/api/desk')).then(
      (desk) => {
        queries = desk.queries;
        query ??= desk.queries[0]?.id ?? null;
      },
      () => undefined,
    );
  });
  $effect(() => {
    const own = query;
    if (own === null) return;
    untrack(() => {
      void store.offersOf(own);
      queryColumns(own).then(
        (found) => (columns = found),
        () => (columns = []),
      );
    });
  });

  const figure = $derived(
    query === null ? null : ({ ...values, name: typed || 'figure', query } as unknown as ReportFigure),
  );
  /** What it is now, as it is filled in. */
  $effect(() => {
    const one = figure;
    if (!one || unfit) return;
    const report = {
      tin_bucket_report: 1 as const,
      title: 'figure',
      figures: [one],
      choices: [],
      blocks: [],
      against: store.report?.against ?? '',
      files: [],
      address: '',
    };
    const body = { report, as_of: store.asOf, against: store.against, chosen: {}, width: 900 };
    const timer = setTimeout(() => {
      ask(api.POST('/api/reports/read', { body })).then(
        (found) => {
          words = found.figures[0]?.words ?? '';
          why = found.figures[0]?.why ?? '';
        },
        (error: unknown) => {
          words = '';
          why = problemOf(error).what;
        },
      );
    }, 200);
    return () => clearTimeout(timer);
  });

  const set = (field: string, value: unknown): void => {
    values = { ...values, [field]: value };
  };
  function choose(key: string): void {
    values = { ...switched(entryOf(KINDS, key), values, ['name', 'where', 'decimals']), tells: key };
  }
  /** A name for what is filled in. */
  const proposed = $derived.by(() => {
    const kind = String(values.tells);
    const column = String(values.column ?? '');
    const of = choices().figures.find((one) => one.key === values.figure);
    if (kind === 'amount') return of ? of.words.replace('{}', column).trim() : '';
    if (kind === 'leading')
      return `${String(values.by ?? '')} with the ${String(values.most)} ${column || 'count'}`;
    if (kind === 'share') return 'share, in %';
    if (kind === 'moves') return `${String(values.what)} ${column || 'rows'}`;
    return `${String(values.which)} ${column}`.trim();
  });

  function done(event: SubmitEvent): void {
    event.preventDefault();
    if (!figure || taken || unfit) return;
    const own = { ...figure, name: typed || store.freeName(proposed || 'figure') };
    if (was) store.setFigure(was.name, own);
    else {
      store.addFigure(own);
      onadded(own.name);
    }
    onclose();
  }
  function take(one: ReportFigure): void {
    store.addFigure(one);
    onadded(one.name);
    onclose();
  }
</script>

<Dialog title={was ? 'A figure of this report' : 'A figure'} open {onclose} width={660}>
  <form class="space-y-3 text-[13.5px]" onsubmit={done}>
    <label class="block"
      ><span class="label">Of the table</span>
      <select
        class="field"
        name="figure-query"
        value={String(query ?? '')}
        onchange={(event) => (query = Number(event.currentTarget.value))}
      >
        {#each queries as one (one.id)}<option value={String(one.id)}>{one.name}</option>{/each}
      </select></label
    >
    {#if !was && query !== null}
      <div>
        <input
          class="field"
          name="find-figure"
          placeholder="find a figure that it offers"
          bind:value={find}
        />
        <ul class="offers" aria-label="Figures that it offers">
          {#each offered.slice(0, 60) as one (one.figure.name)}
            <li>
              <button type="button" onclick={() => take(one.figure)}
                ><span>{one.figure.name}</span> <span class="muted">{one.words}</span></button
              >
            </li>
          {:else}
            <li class="muted px-2">
              {store.offers[query] ? 'None of that name.' : 'Looking at its columns…'}
            </li>
          {/each}
        </ul>
        <button type="button" class="plain" aria-expanded={more} onclick={() => (more = !more)}
          >{more ? 'Choose an offered one' : 'Make one yourself'}</button
        >
      </div>
    {/if}
    {#if was || more}
      <div class="own">
        <label class="block"
          ><span class="label">What it is</span>
          <select
            class="field"
            name="figure-kind"
            value={String(values.tells)}
            onchange={(event) => choose(event.currentTarget.value)}
          >
            {#each KINDS as one (one.key)}<option value={one.key}>{one.label}</option>{/each}
          </select></label
        >
        <div class="flex flex-wrap gap-x-4 gap-y-2">
          <TableFields fields={entry.fields} {values} {columns} prefix="figure" onchange={set} />
        </div>
        {#if values.tells !== 'moves'}
          <div>
            <span class="label">Of the rows where</span>
            <ConditionsField
              conditions={(values.where as Condition[] | undefined) ?? []}
              {columns}
              onchange={(next) => set('where', next)}
            />
          </div>
        {/if}
        <div class="flex flex-wrap gap-3">
          <label class="min-w-0 flex-1"
            ><span class="label">Its name in the text</span>
            <input
              class="field"
              name="figure-name"
              maxlength="200"
              placeholder={proposed}
              value={String(values.name ?? '')}
              oninput={(event) => set('name', event.currentTarget.value)}
            /></label
          >
          <label style="width: 110px"
            ><span class="label">Decimals</span>
            <input
              class="field"
              type="number"
              min="0"
              max="8"
              name="figure-decimals"
              placeholder="suit it"
              value={values.decimals ?? ''}
              onchange={(event) => {
                const typed = event.currentTarget.value;
                set('decimals', typed === '' ? null : Math.max(0, Math.min(8, Math.round(Number(typed)))));
              }}
            /></label
          >
        </div>
        {#if taken}<p role="alert" class="odd">Another figure has this name.</p>{/if}
        {#if unfit}<p role="alert" class="odd">A name has no braces, colons or backslashes.</p>{/if}
        <p>
          {#if words}Now: <b class="fig">{words}</b>{:else if why}<span class="odd">{why}</span
            >{:else}&nbsp;{/if}
        </p>
      </div>
      <div class="flex gap-2">
        <button class="press main" disabled={!figure || taken || unfit}>{was ? 'Change it' : 'Add it'}</button
        >
        <button type="button" class="press" onclick={onclose}>Cancel</button>
      </div>
    {/if}
  </form>
</Dialog>

<style>
  .offers {
    max-height: 210px;
    overflow: auto;
    margin: 6px 0;
    border: 1px solid var(--line);
    border-radius: 7px;
  }
  .offers button {
    display: flex;
    width: 100%;
    justify-content: space-between;
    gap: 14px;
    padding: 3px 9px;
    text-align: left;
    cursor: pointer;
  }
  .offers button:hover,
  .offers button:focus-visible {
    background: var(--damson-wash);
    color: var(--damson);
  }
  .own > :global(* + *) {
    margin-top: 10px;
  }
  .fig {
    padding: 1px 6px;
    border-radius: 5px;
    background: var(--damson-wash);
    color: var(--damson);
  }
  .odd {
    color: var(--straw-ink);
  }
</style>
