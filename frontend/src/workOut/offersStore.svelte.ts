/** What the values of the table in sight suggest. */
import { sameJson } from '../api/json';
import { api, ask, type LineOffer, type TableRef } from '../api/client';
import { Latest } from '../api/latest';
import { choices, entryOf } from '../domain/choices';
import type { Found } from './palette';

export class OffersStore {
  found = $state.raw<LineOffer[]>([]);
  #asked: TableRef | null = null;
  readonly #latest = new Latest((table: TableRef) => {
    const { snapshot, preview, query_id, starts_from, lines } = table;
    const body = { snapshot, preview, query_id, starts_from, lines: lines as never };
    return ask(api.POST('/api/work-out/offers', { body }));
  });

  /** Look at a table. Where nothing can be told of it, nothing is offered. */
  async follow(table: TableRef): Promise<void> {
    const own = { ...table, look: null };
    if (sameJson(own, this.#asked)) return;
    this.#asked = own;
    this.found = [];
    if (!own.starts_from && own.snapshot === null && own.preview === null) return;
    try {
      const told = await this.#latest.ask(own);
      if (told) this.found = told.value;
    } catch {
      this.#asked = null;
    }
  }
}

/** What the form of an offered line begins with. */
export function foundOf(offer: LineOffer): Found {
  const { do: key, ...values } = offer.line as { do: string } & Record<string, unknown>;
  return { kind: entryOf(choices().lines, key), values };
}
