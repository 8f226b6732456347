<!-- One of two tables: a query as of a date, or a sheet. -->
<script lang="ts">
  import { api, ask, type Side, type TableName } from '../api/client';
  import { marksOf, momentText, type Mark } from '../domain/timeline';
  import { typedDate } from '../domain/typedDate';
  import { counted, dated } from '../domain/words/format';

  interface Props {
    label: string;
    tables: TableName[];
    /** As the server names it. */
    value: string;
    side: Side | null;
    onchange: (ref: string) => void;
  }
  let { label, tables, value, side, onchange }: Props = $props();

  /** So many of the newest dates are offered. */
  const MOST = 400;
  const own = $props.id();
  let query = $state<number | null>(null);
  let marks = $state.raw<Mark[]>([]);
  const newest = $derived(marks.slice(-MOST).reverse());
  const sheet = $derived(value.startsWith('sheet:') ? value.slice('sheet:'.length) : '');
  const table = $derived(sheet ? `sheet:${sheet}` : query ? `query:${query}` : '');
  const number = $derived(/^\d+/.exec(value)?.[0] ?? '');

  // What was found says whose table it is.
  $effect(() => {
    if (side?.ref === number && side.query_id) query = side.query_id;
  });
  $effect(() => {
    const id = query;
    marks = [];
    if (!id) return;
    ask(api.GET('/api/queries/{query_id}/timeline', { params: { path: { query_id: id } } })).then(
      (told) => {
        if (id === query) marks = marksOf(told);
      },
      () => undefined,
    );
  });

  let typed = $state('');
  let fault = $state('');
  /** See the newest date at or before the one that is typed. */
  function go(event: Event): void {
    event.preventDefault();
    if (!typed.trim()) return;
    const found = typedDate(typed);
    if ('fault' in found) {
      fault = found.fault;
      return;
    }
    const mark = marks.filter((one) => one.at <= found.moment).at(-1);
    const first = marks[0];
    fault = mark || !first ? '' : `The first date is ${dated(momentText(first.at))}.`;
    if (!mark) return;
    typed = '';
    onchange(`${mark.id}@${query}`);
  }

  async function choose(ref: string): Promise<void> {
    if (!ref.startsWith('query:')) {
      query = null;
      return onchange(ref);
    }
    const id = Number(ref.slice('query:'.length));
    query = id;
    const told = await ask(
      api.GET('/api/queries/{query_id}/timeline', { params: { path: { query_id: id } } }),
    ).catch(() => null);
    const last = told?.ids.at(-1);
    if (last !== undefined) onchange(`${last}@${id}`);
  }
</script>

<fieldset class="flex min-w-0 flex-1 items-end gap-2">
  <label class="min-w-0 flex-1"
    ><span class="label">{label}</span>
    <select
      class="field"
      aria-label={label}
      value={value.startsWith('preview:') ? 'draft' : table}
      onchange={(event) => void choose(event.currentTarget.value)}
    >
      {#if !value}<option value="" disabled>choose a query or a sheet</option>{/if}
      {#if value.startsWith('preview:')}<option value="draft">the draft of {side?.name ?? 'a query'}</option
        >{/if}
      {#each tables as one (`${one.query_id ?? ''}/${one.sheet ?? ''}`)}
        <option
          value={one.sheet ? `sheet:${one.sheet}` : `query:${one.query_id}`}
          disabled={!one.sheet && !one.taken}
          >{one.sheet ? `sheet ${one.sheet}` : one.query} · {counted(one.rows, 'row')}</option
        >
      {/each}
    </select></label
  >
  {#if query && marks.length > 1}
    <label style="width: 190px"
      ><span class="label">as of</span>
      <select
        class="field"
        aria-label="{label} as of"
        value={number}
        onchange={(event) => onchange(`${event.currentTarget.value}@${query}`)}
      >
        {#each newest as mark (mark.id)}
          <option value={String(mark.id)}
            >{dated(momentText(mark.at))}{mark.name ? ` · ${mark.name}` : ''}</option
          >
        {/each}
      </select></label
    >
    <form class="typed" onsubmit={go}>
      <input
        class="field"
        name="date"
        aria-label="{label}, a date"
        aria-describedby="{own}-fault"
        placeholder="or before 1 Oct"
        maxlength="60"
        bind:value={typed}
        oninput={() => (fault = '')}
        onblur={go}
      />
      <span id="{own}-fault" class="fault" role="alert">{fault}</span>
    </form>
  {/if}
</fieldset>

<style>
  .typed {
    position: relative;
    width: 136px;
  }
  .fault {
    position: absolute;
    top: 100%;
    right: 0;
    z-index: 5;
    width: max-content;
    max-width: 320px;
    font-size: 12.5px;
    padding: 4px 8px;
    border: 1px solid var(--line);
    border-radius: 6px;
    box-shadow: var(--shadow);
    color: var(--straw-ink);
    background: var(--paper);
  }
</style>
