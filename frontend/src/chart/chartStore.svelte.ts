/** The charts of a query: which one is seen, its numbers, and what suits the table. */
import { untrack } from 'svelte';
import { api, ask, problemOf, type Brief, type Chart, type ChartMade, type Problem } from '../api/client';
import { Latest } from '../api/latest';
import { sameJson } from '../api/json';
import type { TableRef, View } from '../api/client';

interface Asked extends TableRef {
  view: View;
  chart: Chart;
  width: number;
  within: [number, number] | null;
}

export class ChartStore {
  /** Charts that suit the table. */
  proposals = $state.raw<Chart[]>([]);
  /** The one that is looked at and not kept. */
  tried = $state.raw<Chart | null>(null);
  /** Which of the kept ones is seen; none of them while one is tried. */
  index = $state(0);
  made = $state.raw<ChartMade | null>(null);
  /** The chart that was drawn: what is seen belongs together. */
  of = $state.raw<Chart | null>(null);
  problem = $state.raw<Problem | null>(null);
  width = $state(0);
  within = $state.raw<[number, number] | null>(null);
  #latest = new Latest((body: Asked) => ask(api.POST('/api/table/chart', { body })));
  #proposed = new Latest((body: TableRef & { view: View; match: string[] }) =>
    ask(api.POST('/api/table/chart/proposals', { body })),
  );

  /**
   * @param brief what the query is, its kept charts among it.
   * @param table the table that is drawn, and how it is seen.
   * @param change changes the brief.
   */
  constructor(
    private readonly brief: () => Brief,
    private readonly table: () => { ref: TableRef; view: View; there: boolean },
    private readonly change: (brief: Brief) => void,
  ) {
    $effect(() => {
      const { ref, there } = this.table();
      const match = this.brief().keep.match;
      if (there) untrack(() => void this.#propose(ref, match));
    });
    $effect(() => {
      const { ref, view, there } = this.table();
      const { chart, width, within } = this;
      if (!there || !chart || !width) return;
      untrack(() => void this.#draw({ ...ref, view, chart, width: Math.round(width), within }));
    });
  }

  get kept(): Chart[] {
    return this.brief().show ?? [];
  }

  /** The chart that is seen. */
  get chart(): Chart | null {
    return this.tried ?? this.kept[this.index] ?? this.kept[0] ?? this.proposals[0] ?? null;
  }

  get isKept(): boolean {
    return !this.tried && this.kept.length > 0;
  }

  async #propose(ref: TableRef, match: string[]): Promise<void> {
    const body = { ...ref, view: { sort: [], where: [] }, match };
    const found = await this.#proposed.ask(body).catch(() => null);
    if (found) this.proposals = found.value.charts;
  }

  async #draw(body: Asked): Promise<void> {
    try {
      const found = await this.#latest.ask(body);
      if (!found) return;
      this.made = found.value;
      this.of = body.chart;
      this.problem = null;
    } catch (error) {
      this.problem = problemOf(error);
      this.made = null;
    }
  }

  see = (index: number): void => {
    this.tried = null;
    this.index = index;
    this.within = null;
  };

  /** Look at another chart; one that is kept stays so, and is that one from now on. */
  take = (chart: Chart): void => {
    this.within = null;
    if (!this.isKept) {
      this.tried = chart;
      return;
    }
    const at = Math.min(this.index, this.kept.length - 1);
    this.change({ ...this.brief(), show: this.kept.map((one, index) => (index === at ? chart : one)) });
  };

  /** Look at a chart without changing one that is kept. */
  look = (chart: Chart): void => {
    this.within = null;
    const at = this.kept.findIndex((one) => sameJson(one, chart));
    if (at >= 0) this.see(at);
    else this.tried = chart;
  };

  /** Begin one more beside those that are kept. */
  another = (): void => {
    const [first] = this.proposals;
    if (!first) return;
    this.within = null;
    this.tried = first;
  };

  keep = (): void => {
    const { chart } = this;
    if (!chart || this.isKept) return;
    const show = [...this.kept, chart];
    this.change({ ...this.brief(), show });
    this.tried = null;
    this.index = show.length - 1;
  };

  drop = (): void => {
    const at = Math.min(this.index, this.kept.length - 1);
    const gone = this.kept[at];
    this.change({ ...this.brief(), show: this.kept.filter((_, index) => index !== at) });
    this.index = Math.max(0, at - 1);
    this.tried = gone ?? null;
  };
}
