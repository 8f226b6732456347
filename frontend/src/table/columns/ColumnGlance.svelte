<!-- A column at a glance: what its values are, how many, what they may mean; sorting and filtering by it. -->
<script lang="ts">
  import { writeJson } from '../../api/json';
  import {
    api,
    ask,
    problemOf,
    type Cell,
    type Column,
    type ColumnSpec,
    type TypeGuess,
    type Problem,
    type Profile,
    type TableRef,
    type View,
  } from '../../api/client';
  import { NO_READS, type ColumnEdit } from '../../domain/columns';
  import { cellText, count, counted, digitsOf, percent } from '../../domain/words/format';
  import { isNumeric, isTemporal, kindWords } from '../../domain/kinds';
  import { conditionWords } from '../../domain/words/conditions';
  import { type TableView } from '../tableview.svelte';
  import ColumnValues from './ColumnValues.svelte';

  interface Props {
    column: Column;
    table: TableRef;
    look: TableView;
    /** How the brief takes it, where it does so by name. */
    chosen: Partial<ColumnSpec> | undefined;
    /** Where the column stands among those that are shown, from 0. */
    at: number;
    onchange: (change: ColumnEdit) => void;
  }
  let { column, table, look, chosen, at, onchange }: Props = $props();

  const mine = $derived(look.conditionsOf(column.name));
  const bounds = $derived(mine.find((one) => one.by === 'between'));
  const empty = $derived(mine.find((one) => one.by === 'empty'));
  const some = $derived(mine.find((one) => one.by === 'one of'));
  const sorted = $derived(look.sort.find((one) => one.column === column.name));
  const isDate = $derived(isTemporal(column));

  const words = $derived(
    isDate
      ? ['Earliest', 'Latest']
      : isNumeric(column)
        ? ['Lowest', 'Highest']
        : column.kind === 'yes/no'
          ? ['No', 'Yes']
          : ['A', 'Z'],
  );

  const others = $derived<View>({ sort: [], where: look.where.filter((one) => one.column !== column.name) });
  const filtered = $derived(others.where.length > 0);

  /** Read texts that mean nothing as empty, beside those that are read so already. */
  function declare(texts: string[]): void {
    const own = chosen?.reads ?? null;
    const empty = [...new Set([...(own?.empty ?? []), ...texts])];
    onchange({ kind: chosen?.kind ?? null, reads: { ...NO_READS, ...own, empty } });
  }
  let profile = $state.raw<Profile | null>(null);
  const undeclared = $derived(
    profile?.empties.filter((one) => !chosen?.reads?.empty.includes(String(one.value))) ?? [],
  );
  /** What the values may mean; what was accepted already is offered no more. */
  const offered = $derived(
    profile?.guesses.filter((guess) => !(chosen?.kind === guess.kind && column.kind === guess.kind)) ?? [],
  );
  let problem = $state.raw<Problem | null>(null);
  let all = $state(false);
  let text = $state('');
  let without = $state(false);
  let low = $state('');
  let high = $state('');

  const digits = $derived(
    isNumeric(column) && profile ? digitsOf([profile.lowest as Cell, profile.highest as Cell]) : 0,
  );
  const show = (value: unknown): string => cellText((value ?? null) as Cell, column, digits) || 'empty';
  /** What the empty cells are, where the answers tell it. */
  const empties = $derived.by(() => {
    if (!profile) return [];
    const empty = profile.rows - profile.filled - profile.missed;
    const nulls = profile.nulls;
    if (!empty || nulls === null || nulls === undefined) return [];
    return [
      ...(nulls ? [`${count(nulls)} null`] : []),
      ...(empty > nulls ? [`${count(empty - nulls)} not in the answer`] : []),
    ];
  });

  $effect(() => {
    // Of the rows that are seen; a filter of its own leaves the column's other values to choose from.
    const body = { ...table, column: column.name, view: others };
    let current = true;
    ask(api.POST('/api/table/profile', { body })).then(
      (found) => {
        if (!current) return;
        profile = found;
        problem = null;
      },
      (error: unknown) => {
        if (current) problem = problemOf(error);
      },
    );
    return () => (current = false);
  });

  $effect(() => {
    low = bounds?.low ?? '';
    high = bounds?.high ?? '';
  });

  function between(): void {
    if (low || high)
      look.filterBy({ by: 'between', column: column.name, low: low || null, high: high || null, no: false });
    else if (bounds) look.unfilter(bounds);
  }

  function withText(): void {
    if (!text) return;
    look.filterBy({ by: 'text', column: column.name, text, no: without });
    text = '';
  }

  /** Empty cells alone, or those with a value; a second time takes it off. */
  function emptyOnes(no: boolean): void {
    if (empty?.no === no) look.unfilter(empty);
    else look.filterBy({ by: 'empty', column: column.name, no });
  }

  const chosenValues = $derived(some?.values ?? []);

  function toggleValue(value: string): void {
    const values = chosenValues.includes(value)
      ? chosenValues.filter((one) => one !== value)
      : [...chosenValues, value];
    if (values.length) look.filterBy({ by: 'one of', column: column.name, values, no: false });
    else if (some) look.unfilter(some);
  }

  /** A value as filters know it. */
  const plain = (value: unknown): string =>
    typeof value === 'string' ? value : value === null || value === undefined ? '' : writeJson(value);

  function accept(guess: TypeGuess): void {
    onchange({ kind: guess.kind, reads: guess.reads });
  }

  const looksLikePicture = $derived(
    !!profile?.frequent.some((one) =>
      /^https?:\/\/\S+\.(png|jpe?g|gif|svg|webp)([?#]|$)/i.test(String(one.value)),
    ),
  );
</script>

<div class="space-y-2.5">
  {#if profile}
    {#each offered as guess (writeJson(guess))}
      <div class="seen">
        <strong>{guess.evidence[0]?.toUpperCase()}{guess.evidence.slice(1)}.</strong>
        <code class="wrap-anywhere">{guess.before}</code> →
        {cellText(guess.before === guess.after ? guess.after : (guess.after as Cell), guess)}
        <button class="press small main mt-1" onclick={() => accept(guess)}
          >Read as {kindWords(guess.kind)}</button
        >
      </div>
    {/each}
    {#if undeclared.length && !offered.length && column.origin === 'taken'}
      <div class="seen">
        {#each undeclared as one, at (one.value)}{at ? ', ' : ''}<code>{String(one.value)}</code>
          {count(one.count)} times{/each}: does {undeclared.length === 1 ? 'it' : 'each'} mean that there is no
        value?
        <button class="press small mt-1" onclick={() => declare(undeclared.map((one) => String(one.value)))}
          >Read as empty</button
        >
      </div>
    {/if}
    {#if filtered}
      <p class="muted text-[12.5px]">Of the {counted(profile.rows, 'row')} that are seen.</p>
    {/if}
    <dl>
      <dt>filled</dt>
      <dd>
        {count(profile.filled)} of {count(profile.rows)} ({percent(
          profile.filled,
          profile.rows,
        )}){profile.empty_texts ? `, ${count(profile.empty_texts)} of them an empty text` : ''}{profile.missed
          ? ` · ${count(profile.missed)} not found`
          : ''}{empties.length ? ` · ${empties.join(', ')}` : ''}
      </dd>
      <dt>different</dt>
      <dd>{profile.capped ? 'more than ' : ''}{count(profile.distinct)}</dd>
      {#if profile.lowest !== null && profile.lowest !== undefined && profile.distinct > 1}
        <dt>{isNumeric(column) ? 'lowest' : isDate ? 'first' : 'from'}</dt>
        <dd class="truncate">{show(profile.lowest)}</dd>
        <dt>{isNumeric(column) ? 'highest' : isDate ? 'last' : 'to'}</dt>
        <dd class="truncate">{show(profile.highest)}</dd>
      {/if}
      {#if profile.mean !== null && profile.distinct > 1}
        <dt>mean</dt>
        <dd>{profile.mean.toLocaleString('en-GB', { maximumFractionDigits: 3 })}</dd>
      {/if}
      {#if profile.strays.length}
        <dt>no numbers</dt>
        <dd>
          {#each profile.strays as one, at (one.value)}{at ? ', ' : ''}<code>{String(one.value)}</code>
            {count(one.count)}×{/each}
        </dd>
      {/if}
    </dl>
    {#if profile.frequent.length && !all}
      <div>
        {#each profile.frequent as one (plain(one.value))}
          <label class="often" title="Show these rows alone">
            <input
              type="checkbox"
              checked={chosenValues.includes(plain(one.value))}
              onchange={() => toggleValue(plain(one.value))}
            />
            <span class="truncate">{show(one.value)}</span>
            <span class="fill"><i style="width: {(one.count / Math.max(1, profile.rows)) * 100}%"></i></span>
            <span class="muted">{count(one.count)}</span>
            <span class="muted">{percent(one.count, profile.rows)}</span>
          </label>
        {/each}
      </div>
    {/if}
    {#if all}
      <ColumnValues {column} {table} view={others} chosen={chosenValues} {plain} ontoggle={toggleValue} />
    {:else if profile.distinct > 0}
      <button class="plain text-[13px]" onclick={() => (all = true)}
        >All {profile.capped ? '' : `${count(profile.distinct)} `}values with counts</button
      >
    {/if}
  {:else if problem}
    <p>{problem.what} {problem.do}</p>
  {:else}
    <p class="muted">Looking at all values…</p>
  {/if}
  <div class="flex flex-wrap gap-1.5">
    <button
      class="press small"
      class:main={sorted && !sorted.down}
      onclick={(event) => look.sortBy(column.name, false, event.shiftKey)}
      title="With Shift behind what it is sorted by already">↑ {words[0]} first</button
    >
    <button
      class="press small"
      class:main={sorted?.down}
      onclick={(event) => look.sortBy(column.name, true, event.shiftKey)}
      title="With Shift behind what it is sorted by already">↓ {words[1]} first</button
    >
  </div>
  {#if isNumeric(column) || isDate}
    <form
      class="flex items-center gap-1.5"
      onsubmit={(event) => {
        event.preventDefault();
        between();
      }}
    >
      <input class="field" bind:value={low} placeholder={isDate ? '2026-11-01' : 'from'} aria-label="From" />
      <input class="field" bind:value={high} placeholder={isDate ? '2026-11-30' : 'to'} aria-label="To" />
      <button class="press small">Filter</button>
    </form>
  {/if}
  <form
    class="flex items-center gap-1.5"
    onsubmit={(event) => {
      event.preventDefault();
      withText();
    }}
  >
    <select class="field" style="width: 92px" aria-label="Text is there or not" bind:value={without}>
      <option value={false}>with</option>
      <option value={true}>without</option>
    </select>
    <input class="field" bind:value={text} placeholder="this text in it" aria-label="Text" />
    <button class="press small">Filter</button>
  </form>
  <div class="flex flex-wrap gap-1.5">
    <button class="press small" class:main={empty && !empty.no} onclick={() => emptyOnes(false)}
      >Empty ones</button
    >
    <button class="press small" class:main={empty?.no} onclick={() => emptyOnes(true)}>Filled ones</button>
    <button
      class="press small"
      onclick={() => (look.frozen = look.frozen === at + 1 ? 0 : at + 1)}
      title="Columns up to this one stay at the left"
      >{look.frozen === at + 1 ? 'Let go' : 'Pin at left'}</button
    >
  </div>
  {#if mine.length}
    <ul class="conditions" aria-label="Filters of this column">
      {#each mine as one, number (number)}
        <li>
          <span class="truncate">{number ? 'and ' : ''}{conditionWords(one)}</span>
          <button class="plain" onclick={() => look.unfilter(one)}>take off</button>
        </li>
      {/each}
    </ul>
  {/if}
  {#if looksLikePicture}
    <label class="flex items-start gap-2 text-[13px]">
      <input
        type="checkbox"
        checked={look.pictures.includes(column.name)}
        onchange={(event) =>
          (look.pictures = event.currentTarget.checked
            ? [...look.pictures, column.name]
            : look.pictures.filter((one) => one !== column.name))}
      />
      Show pictures; each is fetched from its own address, which its host sees
    </label>
  {/if}
</div>

<style>
  dl {
    display: grid;
    grid-template-columns: 74px 1fr;
    font-size: 13.5px;
  }
  dt {
    color: var(--muted);
  }
  .often {
    display: grid;
    grid-template-columns: 18px minmax(0, 1fr) 50px 48px 46px;
    align-items: center;
    gap: 4px;
    font-size: 13px;
    line-height: 21px;
  }
  .conditions li {
    display: flex;
    justify-content: space-between;
    gap: 8px;
    font-size: 13px;
  }
  .often .muted {
    text-align: right;
  }
</style>
