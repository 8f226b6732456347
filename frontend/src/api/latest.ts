/** Questions that follow each other quickly, of which only the newest one counts. */

/**
 * Asks with the newest input: one call in flight, and one more after it when the input changed meanwhile.
 *
 * Whoever asked with an older input gets `null`, so that an old answer never replaces a newer one.
 */
export class Latest<Input, Output> {
  #newest = 0;
  #flight: Promise<unknown> = Promise.resolve();

  /**
   * @param call What asks.
   * @param pause Milliseconds without another question before one is asked.
   */
  constructor(
    private readonly call: (input: Input) => Promise<Output>,
    private readonly pause = 0,
  ) {}

  /** Ask; `null` when a newer question took the place of this one. */
  async ask(input: Input): Promise<{ value: Output } | null> {
    const own = ++this.#newest;
    if (this.pause) await new Promise((done) => setTimeout(done, this.pause));
    // Several may wait for one flight; only the newest of them goes on.
    while (own === this.#newest) {
      const before = this.#flight;
      await before.catch(() => null);
      if (before !== this.#flight) continue;
      if (own !== this.#newest) break;
      const flight = this.call(input);
      this.#flight = flight;
      try {
        const value = await flight;
        return own === this.#newest ? { value } : null;
      } catch (error) {
        if (own === this.#newest) throw error;
      }
    }
    return null;
  }

  /** Let no answer count that is still to come. */
  cancel(): void {
    this.#newest += 1;
  }
}
