/** Rows that come from the server in windows, as they are scrolled into sight. */
const SIZE = 200;
const MOST_WINDOWS = 60;

export type Load<Row> = (start: number, count: number) => Promise<Row[]>;

export class RowSource<Row> {
  /** Changes when a window has come, so that what reads {@link at} is drawn again. */
  version = $state(0);
  failed = $state<unknown>(null);
  // Deliberately not reactive itself: `version` is what readers depend on.
  // eslint-disable-next-line svelte/prefer-svelte-reactivity
  #windows = new Map<number, Row[] | 'coming'>();

  constructor(
    readonly total: number,
    private readonly load: Load<Row>,
  ) {}

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
        (rows) => {
          this.#windows.set(number, rows);
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
