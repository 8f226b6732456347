/** The draft of a query on the server: every change is sent as it is made, and steps can be undone and redone. */
import {
  api,
  ask,
  ProblemError,
  problemOf,
  type Brief,
  type Draft,
  type Problem,
  type Values,
} from '../api/client';

/** Milliseconds after which a change that could not be sent is sent again. */
const AGAIN = 3000;

interface Change {
  brief: Brief;
  name: string;
  given: Values;
  basedOn: number;
}

export class DraftStore {
  /** What the server has. */
  kept = $state.raw<Draft | null>(null);
  /** Why the newest change is not on the server, if it is not. */
  problem = $state.raw<Problem | null>(null);
  /** Another window changed the query: what was made here meanwhile is held until somebody decides. */
  other = $state.raw<Change | null>(null);
  /** Another window's newer draft was just taken over. */
  seen = $state(false);
  /** The step that is undone next, and the one that is redone next. */
  undoes = $derived(this.#step(0));
  redoes = $derived(this.#step(1));
  #waiting: Change | null = null;
  #line: Promise<unknown> = Promise.resolve();
  #timer: ReturnType<typeof setTimeout> | undefined;
  #channel: BroadcastChannel | null;

  /**
   * @param query The number of the query.
   * @param changed Another window of this browser changed the draft.
   */
  constructor(
    private readonly query: () => number,
    id: number,
    changed: () => void,
  ) {
    this.#channel =
      typeof BroadcastChannel === 'undefined' ? null : new BroadcastChannel(`tin-bucket-draft-${id}`);
    if (this.#channel) this.#channel.onmessage = changed;
  }

  /** The page is left. What is on its way is still sent; a closed channel takes no message. */
  leave(): void {
    this.#channel?.close();
    this.#channel = null;
  }

  get #path() {
    return { params: { path: { query_id: this.query() } } };
  }

  /** The step that `at` stands behind, or with 1 the one after it. */
  #step(beyond: number): { name: string; to: number } | null {
    const kept = this.kept;
    if (!kept) return null;
    const at = kept.steps.findIndex((step) => step.number === kept.at);
    const named = kept.steps[at + beyond];
    const to = kept.steps[beyond ? at + 1 : at - 1];
    return named && to ? { name: named.name, to: to.number } : null;
  }

  /** Whether all that was changed is on the server. */
  get settled(): boolean {
    return !this.#waiting && !this.problem && !this.other;
  }

  /** Wait until what is on its way has arrived, or could not. */
  async arrived(): Promise<void> {
    await this.#line.catch(() => null);
  }

  /** Send a change; those that follow each other are sent in their order. */
  keep(change: Change): Promise<void> {
    if (this.other) {
      this.other = change;
      return Promise.resolve();
    }
    this.#waiting = change;
    return this.#inLine(() => this.#send(change));
  }

  async #inLine<T>(work: () => Promise<T>): Promise<T> {
    const before = this.#line;
    const own = (async () => {
      await before.catch(() => null);
      return work();
    })();
    this.#line = own;
    return own;
  }

  async #send(change: Change, version = this.kept?.version ?? 0): Promise<void> {
    const { brief, name, given, basedOn } = change;
    const document = brief as unknown as Draft['document'];
    const body = { version, based_on: basedOn, document, name, given };
    clearTimeout(this.#timer);
    try {
      this.#took(await ask(api.PUT('/api/queries/{query_id}/draft', { ...this.#path, body })));
      if (this.#waiting === change) this.#waiting = null;
      this.problem = null;
    } catch (error) {
      const problem = problemOf(error);
      if (problem.kind === 'draft-changed-meanwhile') this.other = this.#waiting ?? change;
      else if (problem.kind === 'query-unknown') this.#waiting = null;
      else {
        this.problem = problem;
        // The newest change holds all that was changed before it.
        const again = (): void => void (this.#waiting && this.keep(this.#waiting));
        this.#timer = setTimeout(again, AGAIN);
      }
    }
  }

  #took(draft: Draft): void {
    this.kept = draft;
    this.#channel?.postMessage(draft.version);
  }

  /** Undo or redo; gives the draft of that step. */
  move(to: number): Promise<Draft | null> {
    return this.#inLine(async () => {
      const body = { version: this.kept?.version ?? 0, at: to };
      const draft = await ask(api.PUT('/api/queries/{query_id}/draft/at', { ...this.#path, body }));
      this.#took(draft);
      return draft;
    }).catch((error: unknown) => {
      if (error instanceof ProblemError && error.problem.kind === 'draft-changed-meanwhile') return null;
      throw error;
    });
  }

  /** What another window made of the draft meanwhile, if it is another one than is known here. */
  async news(): Promise<Draft | null> {
    await this.#line.catch(() => null);
    const found = await ask(api.GET('/api/queries/{query_id}/draft', this.#path)).catch(() => null);
    return found && found.version !== this.kept?.version ? found : null;
  }

  /** Put what was made here on top of what the other window made, which is one step back then. */
  async keepMine(): Promise<void> {
    const mine = this.other;
    const theirs = await this.news();
    if (!mine) return;
    if (theirs) this.kept = theirs;
    this.other = null;
    await this.keep(mine);
  }
}
