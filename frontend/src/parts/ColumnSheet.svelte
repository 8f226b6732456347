<!-- A column's heading: name, kind and origin; opens what can be seen of the column and done with it. -->
<script lang="ts">
  import {
    api,
    ask,
    problemOf,
    type Cell,
    type Column,
    type Condition,
    type Kind,
    type KindGuess,
    type Problem,
    type Profile,
    type Reads,
    type TableRef,
    type TakenColumn,
  } from '../lib/api/client';
  import type { ColumnEdit } from '../lib/columns';
  import { cellText, count, digitsOf, isNumeric } from '../lib/format';
  import type { TableView } from '../lib/tableview.svelte';
  import Sheet from './Sheet.svelte';

  interface Props {
    column: Column;
    /** How the brief takes it, where it does so by name. */
    chosen: Partial<TakenColumn> | undefined;
    rows: number;
    table: TableRef;
    look: TableView;
    /** What stands below the name. */
    sub: string;
    /** Values that did not fit the kind. */
    unfit: number;
    isKey: boolean;
    /** Where the column stands among those that are shown, from 0. */
    at: number;
    onchange: (change: ColumnEdit) => void;
    ondrop: () => void;
    onmove: (by: number) => void;
    onkey: (on: boolean) => void;
    /** Another column is dropped in front of this one. */
    onplace: (name: string) => void;
  }
  let {
    column,
    chosen,
    rows,
    table,
    look,
    sub,
    unfit,
    isKey,
    at,
    onchange,
    ondrop,
    onmove,
    onkey,
    onplace,
  }: Props = $props();

  const kinds: Kind[] = ['text', 'whole number', 'decimal', 'yes/no', 'date', 'date and time'];
  const share = $derived(
    column.filled === null || column.filled === undefined || !rows ? 1 : column.filled / rows,
  );
  const own = $derived(look.where.find((one) => one.column === column.name));
  const sorted = $derived(look.sort.find((one) => one.column === column.name));
  const isDate = $derived(column.kind === 'date' || column.kind === 'date and time');

  let tab = $state<'look' | 'column'>('look');
  let profile = $state.raw<Profile | null>(null);
  let problem = $state.raw<Problem | null>(null);
  let text = $state('');
  let low = $state('');
  let high = $state('');
  let dates = $state('');
  let zone = $state('');
  let over = $state(false);

  const digits = $derived(
    column.kind === 'decimal' && profile ? digitsOf([profile.lowest as Cell, profile.highest as Cell]) : 0,
  );
  const show = (value: unknown): string => cellText((value ?? null) as Cell, column, digits) || 'empty';

  async function begin(): Promise<void> {
    profile = null;
    problem = null;
    text = own?.by === 'text' ? own.text : '';
    low = own?.by === 'between' ? (own.low ?? '') : '';
    high = own?.by === 'between' ? (own.high ?? '') : '';
    dates = chosen?.reads?.dates ?? '';
    zone = chosen?.reads?.zone ?? '';
    try {
      profile = await ask(api.POST('/api/table/profile', { body: { ...table, column: column.name } }));
    } catch (error) {
      problem = problemOf(error);
    }
  }

  function filter(condition: Condition | null): void {
    look.filterBy(column.name, condition);
  }

  function between(): void {
    filter(
      low || high
        ? { by: 'between', column: column.name, low: low || null, high: high || null, no: false }
        : null,
    );
  }

  const chosenValues = $derived(own?.by === 'one of' ? own.values : []);

  function toggleValue(value: string): void {
    const values = chosenValues.includes(value)
      ? chosenValues.filter((one) => one !== value)
      : [...chosenValues, value];
    filter(values.length ? { by: 'one of', column: column.name, values, no: false } : null);
  }

  /** A value as filters know it. */
  const plain = (value: unknown): string =>
    typeof value === 'string' ? value : value === null || value === undefined ? '' : JSON.stringify(value);

  function accept(guess: KindGuess): void {
    onchange({ kind: guess.kind, reads: guess.reads });
  }

  function readsWith(change: Partial<Reads>): Reads | null {
    const next: Reads = {
      comma: false,
      dates: null,
      zone: null,
      yes: [],
      no: [],
      ...chosen?.reads,
      ...change,
    };
    return next.comma || next.dates || next.zone || next.yes.length || next.no.length ? next : null;
  }

  const looksLikePicture = $derived(
    !!profile?.frequent.some((one) =>
      /^https?:\/\/\S+\.(png|jpe?g|gif|svg|webp)([?#]|$)/i.test(String(one.value)),
    ),
  );
</script>

<!-- svelte-ignore a11y_no_static_element_interactions -->
<div
  class="carry"
  class:over
  draggable={column.origin === 'taken'}
  ondragstart={(event) => event.dataTransfer?.setData('application/x-column', column.name)}
  ondragover={(event) => {
    if (column.origin !== 'taken' || !event.dataTransfer?.types.includes('application/x-column')) return;
    event.preventDefault();
    over = true;
  }}
  ondragleave={() => (over = false)}
  ondrop={(event) => {
    over = false;
    const name = event.dataTransfer?.getData('application/x-column');
    if (name && name !== column.name) onplace(name);
    event.preventDefault();
  }}
>
  <Sheet label={column.name} look="colhead" width={350} onopen={begin}>
    {#snippet trigger()}
      <span class="name">{column.name}</span>
      <span class="sub" class:off={unfit > 0}>{sub}{unfit ? ` · ${count(unfit)} unfit` : ''}</span>
      {#if share < 0.9995}
        <span class="bar" title="{count(column.filled ?? 0)} of {count(rows)} rows have a value">
          <span style="width: {share * 100}%"></span>
        </span>
      {/if}
    {/snippet}
    {#snippet children(close)}
      <div class="tabs" role="tablist">
        <button
          role="tab"
          aria-selected={tab === 'look'}
          class:on={tab === 'look'}
          onclick={() => (tab = 'look')}>At a glance</button
        >
        <button
          role="tab"
          aria-selected={tab === 'column'}
          class:on={tab === 'column'}
          onclick={() => (tab = 'column')}>The column</button
        >
      </div>
      {#if tab === 'look'}
        <div class="space-y-2.5">
          {#if profile}
            {#each profile.guesses as guess (JSON.stringify(guess))}
              <div class="seen">
                <strong>{guess.evidence[0]?.toUpperCase()}{guess.evidence.slice(1)}.</strong>
                <code class="wrap-anywhere">{guess.before}</code> →
                {cellText(guess.before === guess.after ? guess.after : (guess.after as Cell), guess)}
                <button class="press small main mt-1" onclick={() => accept(guess)}
                  >Read as {guess.kind}</button
                >
              </div>
            {/each}
            <dl>
              <dt>filled</dt>
              <dd>
                {count(profile.filled)} of {count(profile.rows)}{profile.empty_texts
                  ? `, ${count(profile.empty_texts)} of them an empty text`
                  : ''}{profile.missed ? ` · ${count(profile.missed)} not found` : ''}
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
            </dl>
            {#if profile.frequent.length}
              <div>
                {#each profile.frequent as one (plain(one.value))}
                  <label class="often" title="Show these rows alone">
                    <input
                      type="checkbox"
                      checked={chosenValues.includes(plain(one.value))}
                      onchange={() => toggleValue(plain(one.value))}
                    />
                    <span class="truncate">{show(one.value)}</span>
                    <span class="fill"
                      ><i style="width: {(one.count / Math.max(1, profile.rows)) * 100}%"></i></span
                    >
                    <span class="muted">{count(one.count)}</span>
                  </label>
                {/each}
              </div>
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
              title="With Shift behind what it is sorted by already"
              >↑ {isDate ? 'Earliest' : 'Lowest'} first</button
            >
            <button
              class="press small"
              class:main={sorted?.down}
              onclick={(event) => look.sortBy(column.name, true, event.shiftKey)}
              title="With Shift behind what it is sorted by already"
              >↓ {isDate ? 'Latest' : 'Highest'} first</button
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
              <input
                class="field"
                bind:value={low}
                placeholder={isDate ? '2026-11-01' : 'from'}
                aria-label="From"
              />
              <input
                class="field"
                bind:value={high}
                placeholder={isDate ? '2026-11-30' : 'to'}
                aria-label="To"
              />
              <button class="press small">Filter</button>
            </form>
          {/if}
          <form
            class="flex items-center gap-1.5"
            onsubmit={(event) => {
              event.preventDefault();
              filter(text ? { by: 'text', column: column.name, text, no: false } : null);
            }}
          >
            <input
              class="field"
              bind:value={text}
              placeholder="has this text in it"
              aria-label="Has this text"
            />
            <button class="press small">Filter</button>
          </form>
          <div class="flex flex-wrap gap-1.5">
            <button
              class="press small"
              class:main={own?.by === 'empty' && !own.no}
              onclick={() => filter({ by: 'empty', column: column.name, no: false })}>Empty ones</button
            >
            <button
              class="press small"
              class:main={own?.by === 'empty' && own.no}
              onclick={() => filter({ by: 'empty', column: column.name, no: true })}>Filled ones</button
            >
            {#if own}<button class="press small" onclick={() => filter(null)}>No filter</button>{/if}
            <button
              class="press small"
              onclick={() => (look.frozen = look.frozen === at + 1 ? 0 : at + 1)}
              title="Columns up to this one stay at the left"
              >{look.frozen === at + 1 ? 'Let go' : 'Hold at left'}</button
            >
          </div>
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
      {:else}
        <div class="space-y-3">
          <p class="muted text-[13px]">
            {column.origin === 'taken' ? 'From' : `Looked up as ${column.origin}, at`}
            <code class="wrap-anywhere">{column.place}</code>{column.list_words
              ? `, ${column.list_words}`
              : ''}
          </p>
          <label class="block">
            <span class="label">Name</span>
            <input
              class="field"
              value={column.name}
              onchange={(event) =>
                event.currentTarget.value.trim() && onchange({ name: event.currentTarget.value.trim() })}
            />
          </label>
          <div class="grid grid-cols-2 gap-3">
            <label>
              <span class="label">Read as</span>
              <select
                class="field"
                value={column.kind}
                onchange={(event) => onchange({ kind: event.currentTarget.value as Kind, reads: null })}
              >
                {#if column.kind === 'json'}<option value="json">list as text</option>{/if}
                {#each kinds as kind (kind)}<option value={kind}>{kind}</option>{/each}
              </select>
            </label>
            <label>
              <span class="label">Unit</span>
              <input
                class="field"
                value={column.unit}
                placeholder="none"
                onchange={(event) => onchange({ unit: event.currentTarget.value.trim() })}
              />
            </label>
          </div>
          {#if isDate}
            <div class="grid grid-cols-2 gap-3">
              <label>
                <span class="label">Written as</span>
                <input
                  class="field mono"
                  list="patterns"
                  bind:value={dates}
                  placeholder="ISO 8601"
                  onchange={() =>
                    onchange({ kind: column.kind, reads: readsWith({ dates: dates.trim() || null }) })}
                />
                <datalist id="patterns">
                  <option value="seconds">seconds since 1970</option>
                  <option value="milliseconds">milliseconds since 1970</option>
                  <option value="%d.%m.%Y">24.11.2025</option>
                  <option value="%d/%m/%Y">24/11/2025</option>
                  <option value="%m/%d/%Y">11/24/2025</option>
                  <option value="%Y%m%d">20251124</option>
                  <option value="%d %b %Y">24 Nov 2025</option>
                  <option value="%d.%m.%Y %H:%M">24.11.2025 07:30</option>
                </datalist>
              </label>
              <label>
                <span class="label">Time zone</span>
                <input
                  class="field"
                  bind:value={zone}
                  placeholder="as written"
                  onchange={() =>
                    onchange({ kind: column.kind, reads: readsWith({ zone: zone.trim() || null }) })}
                />
              </label>
            </div>
          {/if}
          {#if isNumeric(column) && column.origin === 'taken'}
            <label class="flex items-center gap-2">
              <input
                type="checkbox"
                checked={chosen?.reads?.comma ?? false}
                onchange={(event) =>
                  onchange({ kind: column.kind, reads: readsWith({ comma: event.currentTarget.checked }) })}
              />
              Texts have a decimal comma
            </label>
          {/if}
          {#if chosen?.kind}
            <button class="plain text-[13px]" onclick={() => onchange({ kind: null, reads: null })}
              >Leave the values as they come</button
            >
          {/if}
          <label class="block">
            <span class="label">Note</span>
            <input
              class="field"
              value={column.note}
              placeholder="what people should know of it"
              onchange={(event) => onchange({ note: event.currentTarget.value.trim() })}
            />
          </label>
          <label class="flex items-center gap-2">
            <input type="checkbox" checked={isKey} onchange={(event) => onkey(event.currentTarget.checked)} />
            Rows match by this column
          </label>
          <div class="flex flex-wrap gap-2">
            <button class="press small" onclick={() => onmove(-1)}>← Left</button>
            <button class="press small" onclick={() => onmove(1)}>Right →</button>
            <button
              class="press small"
              title="Kept, and neither shown nor handed on"
              onclick={() => {
                close();
                onchange({ hidden: true });
              }}>Hide</button
            >
            <button
              class="press small"
              onclick={() => {
                close();
                ondrop();
              }}>Leave out</button
            >
          </div>
        </div>
      {/if}
    {/snippet}
  </Sheet>
</div>

<style>
  .carry.over {
    box-shadow: inset 3px 0 0 var(--damson);
  }
  :global(.colhead) {
    display: block;
    width: 100%;
    position: relative;
    text-align: inherit;
    cursor: pointer;
    border-radius: 4px;
    padding-bottom: 2px;
  }
  :global(.colhead:hover .name) {
    color: var(--damson);
  }
  .name {
    display: block;
    font-weight: 700;
    font-size: 13.5px;
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  .sub {
    display: block;
    color: var(--muted);
    font-family: var(--mono);
    font-size: 11.5px;
    line-height: 14px;
    white-space: nowrap;
    overflow: hidden;
    text-overflow: ellipsis;
  }
  .sub.off {
    color: var(--straw-ink);
  }
  .bar {
    position: absolute;
    left: 0;
    right: 0;
    bottom: -3px;
    height: 2px;
    background: var(--faint);
  }
  .bar span {
    display: block;
    height: 2px;
    background: var(--link);
  }
  .tabs {
    display: flex;
    gap: 16px;
    margin: -4px 0 10px;
    border-bottom: 1px solid var(--hair);
  }
  .tabs button {
    padding: 3px 0;
    color: var(--muted);
    border-bottom: 2px solid transparent;
    cursor: pointer;
  }
  .tabs button.on {
    color: var(--damson);
    border-bottom-color: var(--damson);
    font-weight: 600;
  }
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
    grid-template-columns: 18px minmax(0, 1fr) 60px 54px;
    align-items: center;
    gap: 4px;
    font-size: 13px;
    line-height: 21px;
  }
  .often .muted {
    text-align: right;
  }
  .fill {
    height: 6px;
    border-radius: 3px;
    background: var(--hair);
    overflow: hidden;
  }
  .fill i {
    display: block;
    height: 6px;
    background: var(--link);
  }
</style>
