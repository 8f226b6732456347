/** A run, live: what it has done so far, its calls, and what it waits for. */
import { api, ask, type Call, type Progress, type Tile } from '../api/client';
import { follow } from '../api/events';

/** The calls of a run or a preview as they stand on the call strip. */
export function tilesOf(calls: Call[]): Tile[] {
  return calls.map((call) => ({
    number: call.number,
    stage: call.stage,
    label: call.label,
    state: call.saved ? 'saved' : (call.state as Tile['state']),
    status: call.status,
    ms: call.ms,
    records: call.records,
  }));
}

export class RunFollower {
  progress = $state.raw<Progress | null>(null);
  /** The calls of the run that goes on or was the last one; those of a run that goes on come as tiles alone. */
  calls = $state.raw<Call[]>([]);
  tiles = $state.raw<Tile[]>([]);
  running = $derived(this.progress?.state === 'running');
  /** The key that the run waits for. */
  waiting = $derived(this.running && this.progress?.waiting?.what === 'key' ? this.progress.waiting : null);
  #stopFollowing = (): void => {};

  /** @param ended Called once, when the run that is followed has ended. */
  constructor(private readonly ended: (last: Progress) => void) {}

  /** Listen to a run, and to no other one. */
  follow(run: number): void {
    this.leave();
    this.tiles = [];
    this.#stopFollowing = follow(run, (progress) => {
      this.tiles = [...this.tiles, ...progress.tiles];
      this.progress = progress;
      if (progress.state !== 'running') this.ended(progress);
    });
  }

  /** Stop listening. */
  leave(): void {
    this.#stopFollowing();
    this.#stopFollowing = () => {};
  }

  /** Get the calls of a run that has ended. */
  async load(run: number): Promise<void> {
    this.calls = await ask(api.GET('/api/runs/{run_id}/calls', { params: { path: { run_id: run } } }));
    this.tiles = tilesOf(this.calls);
  }

  /** Cancel the run that goes on. */
  async cancel(): Promise<void> {
    if (!this.progress) return;
    const path = { run_id: this.progress.run_id };
    await ask(api.POST('/api/runs/{run_id}/cancel', { params: { path } }));
  }
}
