/** Rows that come from the server in windows, as they are scrolled into sight. */
const SIZE = 200;
const MOST_WINDOWS = 60;

/** Rows from a number on; `total` where only the server knows how many there are, as of a filtered table. */
export type Load<Row> = (start: number, count: number) => Promise<Row[] | { rows: Row[]; total: number }>;

export class RowSource<Row> {
  /** Changes when a window has come, so that what reads {@link at} is drawn again. */
  version = $state(0);
  failed = $state<unknown>(null);
  total = $state(0);
  // Deliberately not reactive itself: `version` is what readers depend on.
  // eslint-disable-next-line svelte/prefer-svelte-reactivity
  #windows = new Map<number, Row[] | 'coming'>();

  constructor(
    total: number,
    private readonly load: Load<Row>,
  ) {
    this.total = total;
  }

  /** The row at an index, if its window is here. */
  at(index: number): Row | undefined {
    void this.version;
    const window = this.#windows.get(Math.floor(index / SIZE));
    return Array.isArray(window) ? window[index % SIZE] : undefined;
  }

  /** Ask for the windows that cover a range; those that are here or on their way are not asked for again. */
  want(first: number, last: number): void {
    for (let number = Math.floor(first / SIZE); number <= Math.floor(last / SIZE); number++) {
      if (number * SIZE >= this.total || this.#windows.has(number)) continue;
      this.#windows.set(number, 'coming');
      this.load(number * SIZE, SIZE).then(
        (found) => {
          if (!Array.isArray(found)) this.total = found.total;
          this.#windows.set(number, Array.isArray(found) ? found : found.rows);
          this.#forgetFarFrom(number);
          this.failed = null;
          this.version++;
        },
        (error: unknown) => {
          this.#windows.delete(number);
          this.failed = error;
        },
      );
    }
  }

  /** The rows of a range, fetched where they are not here. */
  async fetch(first: number, last: number): Promise<Row[]> {
    const out: Row[] = [];
    for (let start = first; start <= last; start += 2000) {
      const found = await this.load(start, Math.min(2000, last - start + 1));
      out.push(...(Array.isArray(found) ? found : found.rows));
    }
    return out;
  }

  /** Up to `count` rows from the first window, for measuring columns. */
  sample(count: number): Row[] {
    void this.version;
    const window = this.#windows.get(0);
    return Array.isArray(window) ? window.slice(0, count) : [];
  }

  #forgetFarFrom(number: number): void {
    if (this.#windows.size <= MOST_WINDOWS) return;
    const far = [...this.#windows.keys()]
      .filter((key) => key !== 0)
      .sort((a, b) => Math.abs(b - number) - Math.abs(a - number));
    for (const key of far.slice(0, this.#windows.size - MOST_WINDOWS)) this.#windows.delete(key);
  }
}
