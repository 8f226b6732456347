/** Another table that is to be brought in: its columns, and which of them match. */
import { sameJson } from '../api/json';
import { api, ask, problemOf, type OtherTable } from '../api/client';
import { Latest } from '../api/latest';
import type { WorkOutStore } from './workOutStore.svelte';

export interface Named {
  query: string | null;
  sheet: string | null;
}

export class OtherStore {
  found = $state.raw<OtherTable | null>(null);
  #name: Named | null = null;
  readonly #latest = new Latest((name: Named) => {
    const { store, index } = this.place();
    const asked = store.asked;
    const body = {
      snapshot: asked?.table.snapshot ?? null,
      preview: asked?.table.preview ?? null,
      query_id: asked?.table.query_id ?? null,
      starts_from: asked?.table.starts_from ?? null,
      lines: (asked?.lines.slice(0, index) ?? []) as never,
      query: name.query ?? null,
      sheet: name.sheet ?? null,
    };
    return ask(api.POST('/api/work-out/other', { body }));
  });

  /** @param place The lines, and the place of the one that brings the table in. */
  constructor(private readonly place: () => { store: WorkOutStore; index: number }) {}

  /** Look at a table. */
  follow(name: Named | null | undefined): void {
    if (!name || (!name.query && !name.sheet)) {
      this.found = null;
      this.#name = null;
      return;
    }
    if (sameJson(name, this.#name)) return;
    this.#name = name;
    this.#latest.ask(name).then(
      (told) => told && (this.found = told.value),
      (error: unknown) => (this.found = { columns: [], rows: 0, matches: [], problem: problemOf(error) }),
    );
  }
}
