/** Two tables that are laid over each other: what is asked for, what differs, and which rows are seen. */
import { untrack } from 'svelte';
import {
  api,
  ask,
  problemOf,
  type AlikeRule,
  type Comparison,
  type MergedRow,
  type Problem,
  type Proposals,
} from '../api/client';
import { sameJson, writeJson } from '../api/json';
import { isNumeric } from '../domain/kinds';
import { RowSource } from '../table/rows.svelte';
import { EVERY_SIZE, narrows, type SizeChoice } from './sizes';

export type RowsShown = 'differs' | 'new' | 'gone' | 'changed' | 'alike' | 'same' | 'repeated';
/** How the two are compared, where that is not as the query says. */
interface How {
  match: string[] | null;
  alike: AlikeRule[] | null;
  /** Columns that are paired by hand. */
  pairs: { then: string; now: string }[] | null;
}
/** As the query says. */
const AS_KEPT: How = { match: null, alike: null, pairs: null };
/** Milliseconds without a key before a text is looked for. */
const PAUSE = 250;

export class CompareStore {
  /** The two tables, as the server names them; nothing while one of them is not chosen. */
  then = $state('');
  now = $state('');
  /** A query that starts from tables, whose dates these are; or whose draft one of them is. */
  queryId = $state<number | undefined>();
  /** Which work-out lines are done to both: today's, those of each date, or none. */
  reading = $state<'today' | 'then' | 'taken'>('today');
  how = $state.raw<How>(AS_KEPT);
  found = $state.raw<Comparison | null>(null);
  proposals = $state.raw<Proposals | null>(null);
  problem = $state.raw<Problem | null>(null);

  show = $state<RowsShown>('differs');
  column = $state('');
  size = $state.raw<SizeChoice>(EVERY_SIZE);
  /** The column by whose values what differs is counted, and the value whose rows alone are seen, as text. */
  groupedBy = $state('');
  group = $state<string | null>(null);
  /** The column that rows are sorted by. */
  sort = $state.raw<{ column: string; down: boolean } | null>(null);
  /** What is typed to be found, and what is looked for: a moment later. */
  typed = $state('');
  find = $state('');
  /** How many rows a narrowed choice has; unknown until it is counted. */
  narrowed = $state<number | null>(null);

  #sides = $derived({
    then: this.then,
    now: this.now,
    reading: this.reading,
    query_id: this.queryId,
    ...(sameJson(this.how, AS_KEPT) ? {} : { by: writeJson(this.how) }),
  });
  /** The sides of what was found, so that rows are never asked of others. */
  #laid = $state.raw<CompareStore['sides'] | null>(null);

  /** What is compared, as an address asks for it. */
  get sides() {
    return this.#sides;
  }

  asked = $derived({
    ...(this.#laid ?? this.#sides),
    show: this.show,
    column: this.column,
    ...(this.column ? this.size : EVERY_SIZE),
    ...(this.group === null ? {} : { group: this.groupedBy, value: this.group }),
    ...(this.find ? { find: this.find } : {}),
    ...(this.sort ? { sort: this.sort.column, down: this.sort.down } : {}),
  });

  differing = $derived(
    (this.found?.counts.new ?? 0) + (this.found?.counts.gone ?? 0) + (this.found?.counts.changed ?? 0),
  );
  /** How many rows there are before they are narrowed. */
  all = $derived.by(() => {
    const { found } = this;
    if (!found) return 0;
    if (this.column) return found.columns.find((one) => one.name === this.column)?.cells ?? 0;
    if (this.show === 'differs') return this.differing;
    return this.show === 'repeated' ? found.repeated_rows : (found.counts[this.show] ?? 0);
  });
  fewer = $derived(!!this.find || this.group !== null || (!!this.column && narrows(this.size)));
  total = $derived(this.fewer ? this.narrowed : this.all);
  source = $derived.by(() => {
    const query = this.asked;
    return new RowSource<MergedRow>(this.total ?? 0, async (start, count) => {
      const window = await ask(
        api.GET('/api/compare/rows', { params: { query: { ...query, start, count } } }),
      );
      return window.rows;
    });
  });
  /** The columns whose changes are numbers. */
  numeric = $derived(
    // eslint-disable-next-line svelte/prefer-svelte-reactivity -- Made anew with each comparison.
    new Set(
      (this.found?.headings ?? [])
        .filter((one) => isNumeric(one) && this.#movedIn(one.name))
        .map((one) => one.name),
    ),
  );

  #movedIn(name: string): boolean {
    if (this.found?.alike_cells[name]) return true;
    return !!this.found?.columns.some((one) => one.name === name && one.mean !== null);
  }

  /** The column that stands in sight: the one that is looked at, or that in which most rows differ by what counts as
   * the same, where these are looked at. */
  first = $derived.by(() => {
    if (this.column || this.show !== 'alike') return this.column;
    const cells = Object.entries(this.found?.alike_cells ?? {});
    return cells.sort((a, b) => b[1] - a[1])[0]?.[0] ?? '';
  });

  /** Made while a component begins: it goes when that goes. */
  constructor() {
    $effect(() => {
      const text = this.typed.trim();
      const timer = setTimeout(() => (this.find = text), text ? PAUSE : 0);
      return () => clearTimeout(timer);
    });
    $effect(() => {
      const sides = this.#sides;
      if (sides.then && sides.now) untrack(() => void this.#compare(sides));
    });
    $effect(() => {
      const query = this.asked;
      const counts = this.fewer && !!this.#laid;
      untrack(() => void this.#count(query, counts));
    });
  }

  async #compare(query: CompareStore['sides']): Promise<void> {
    try {
      const got = await ask(api.GET('/api/compare', { params: { query } }));
      if (query !== this.#sides) return;
      this.found = got;
      this.#laid = query;
      this.problem = null;
      if (!got.columns.some((one) => one.name === this.column)) this.column = '';
      if (!got.headings.some((one) => one.name === this.sort?.column)) this.sort = null;
      if (!got.headings.some((one) => one.name === this.groupedBy)) this.groupBy('');
      if ((this.show === 'alike' && !got.counts.alike) || (this.show === 'repeated' && !got.repeated_rows))
        this.show = 'differs';
      this.proposals = null;
      const moved = got.counts.new && got.counts.gone;
      if (got.match.length && !moved && !(got.new_columns.length && got.gone_columns.length)) return;
      const proposals = await ask(api.GET('/api/compare/proposals', { params: { query } }));
      if (query === this.#sides) this.proposals = proposals;
    } catch (error) {
      if (query === this.#sides) this.problem = problemOf(error);
    }
  }

  async #count(query: CompareStore['asked'], counts: boolean): Promise<void> {
    this.narrowed = null;
    if (!counts) return;
    try {
      const got = await ask(
        api.GET('/api/compare/rows', { params: { query: { ...query, start: 0, count: 0 } } }),
      );
      if (query === this.asked) this.narrowed = got.total;
    } catch (error) {
      this.problem = problemOf(error);
    }
  }

  /** See rows of a state. */
  see = (show: RowsShown): void => {
    this.show = show;
    this.column = '';
  };

  /** See the rows that changed in a column; a second time all again. */
  seeColumn = (name: string): void => {
    this.column = this.column === name ? '' : name;
    this.size = EVERY_SIZE;
  };

  /** Count what differs by the values of a column; by none when empty. */
  groupBy = (name: string): void => {
    this.groupedBy = name;
    this.group = null;
  };

  /** See the rows of a value alone; a second time those of all values. */
  seeGroup = (value: string): void => {
    this.group = this.group === value ? null : value;
  };

  /** Sort by a column: lowest first, then highest first, then as the tables are. */
  sortBy = (column: string): void => {
    if (this.sort?.column !== column) this.sort = { column, down: false };
    else this.sort = this.sort.down ? null : { column, down: true };
  };

  change = (part: Partial<How>): void => {
    this.how = { ...this.how, ...part };
  };

  /** One more rule of what counts as the same. */
  addRule = (rule: AlikeRule): void => {
    this.change({ alike: [...(this.found?.alike ?? []), rule] });
  };

  /** The columns that are paired by hand, whether here or in the query. */
  get paired(): { then: string; now: string }[] {
    return (this.found?.renamed ?? []).filter((one) => one.by_hand).map(({ then, now }) => ({ then, now }));
  }

  /** Pair a column of the earlier table with one of the later. */
  pair = (then: string, now: string): void => {
    this.change({ pairs: [...this.paired, { then, now }] });
  };

  part = (then: string): void => {
    this.change({ pairs: this.paired.filter((one) => one.then !== then) });
  };

  dropRule = (at: number): void => {
    this.change({ alike: (this.found?.alike ?? []).filter((_, index) => index !== at) });
  };

  /** Tell rows apart by all but the match columns. */
  withoutKey = (): void => {
    const { found } = this;
    if (!found) return;
    this.change({ match: [], alike: [...found.alike, { by: 'ignored', columns: [...found.match] }] });
  };

  asKept = (): void => {
    this.how = AS_KEPT;
  };
}
