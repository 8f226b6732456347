/** How a table is looked at: sorted, filtered, searched, with some columns held at the left. The table stays as it is. */
import { sameJson } from '../api/json';
import { api, ask, type Cell, type Condition, type TableRef, type View } from '../api/client';
import { RowSource } from './rows.svelte';

export class TableView {
  sort = $state.raw<View['sort']>([]);
  where = $state.raw<Condition[]>([]);
  /** Widths that were drawn by hand, by the column's name. */
  widths = $state.raw<Record<string, number>>({});
  /** How many columns stay in sight at the left. */
  frozen = $state(0);
  /** Columns whose addresses are shown as pictures; each is fetched from where it lies. */
  pictures = $state.raw<string[]>([]);
  find = $state('');
  found = $state.raw<{ total: number; cells: number[][]; at: number } | null>(null);
  problem = $state.raw<unknown>(null);

  plain = $derived(!this.sort.length && !this.where.length);
  spec = $derived<View>({ sort: this.sort, where: this.where });
  #asked = 0;

  /** The rows of a table, seen this way. */
  source(table: TableRef, height: number): RowSource<Cell[]> {
    const view = this.spec;
    return new RowSource<Cell[]>(height, async (start, count) => {
      const body = { ...table, view, start, count };
      const window = await ask(api.POST('/api/table/rows', { body }));
      return { rows: window.rows as Cell[][], total: window.total };
    });
  }

  /** Sort by a column; with `more` behind what it is sorted by already. A third time takes it off. */
  sortBy(column: string, down: boolean, more = false): void {
    const has = this.sort.find((one) => one.column === column);
    const others = more ? this.sort.filter((one) => one.column !== column) : [];
    this.sort = has?.down === down ? others : [...others, { column, down }];
  }

  /** One more condition, which rows meet beside all others. A column has one of each kind, and any number of texts. */
  filterBy(condition: Condition): void {
    if (this.where.some((one) => sameJson(one, condition))) return;
    const rests = (one: Condition): boolean =>
      one.column !== condition.column || one.by !== condition.by || one.by === 'text';
    this.where = [...this.where.filter(rests), condition];
  }

  /** Take a condition off. */
  unfilter(condition: Condition): void {
    this.where = this.where.filter((one) => one !== condition);
  }

  /** The conditions of a column. */
  conditionsOf = (column: string): Condition[] => this.where.filter((one) => one.column === column);

  /** A column has another name now, or is gone. */
  renamed(was: string, now: string | null): void {
    const one = <T extends { column: string }>(list: T[]): T[] =>
      list.flatMap((item) => (item.column !== was ? [item] : now === null ? [] : [{ ...item, column: now }]));
    if (this.sort.some((item) => item.column === was)) this.sort = one(this.sort);
    if (this.where.some((item) => item.column === was)) this.where = one(this.where);
  }

  /** Take off what is about columns that are not there. */
  keepOnly(names: string[]): void {
    if (this.sort.some((one) => !names.includes(one.column)))
      this.sort = this.sort.filter((one) => names.includes(one.column));
    if (this.where.some((one) => !names.includes(one.column)))
      this.where = this.where.filter((one) => names.includes(one.column));
  }

  clear(): void {
    this.sort = [];
    this.where = [];
  }

  /** Look for a text in the table as it is seen. */
  async search(table: TableRef, text: string): Promise<void> {
    this.find = text;
    const own = ++this.#asked;
    if (!text.trim()) {
      this.found = null;
      return;
    }
    try {
      const found = await ask(api.POST('/api/table/find', { body: { ...table, view: this.spec, text } }));
      if (own === this.#asked) this.found = { ...found, at: 0 };
    } catch (error) {
      this.problem = error;
    }
  }

  /** The next cell that was found, or the one before. */
  step(by: number): void {
    const found = this.found;
    if (!found?.cells.length) return;
    this.found = { ...found, at: (found.at + by + found.cells.length) % found.cells.length };
  }
}
