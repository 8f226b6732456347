/** The call strip: many calls put together so that they can be seen at once. */
import type { Tile } from '../../api/client';
import { count, counted } from './format';

export const STATE_WORDS: Record<Tile['state'], string> = {
  answered: 'answered',
  saved: 'from saved answers',
  unchanged: 'unchanged',
  missing: 'not found',
  again: 'retried',
  failed: 'failed',
};

/** Some calls that stand next to each other, shown as one tile. */
export interface Group {
  first: Tile;
  last: Tile;
  /** The call that a click shows: the worst of them. */
  shown: Tile;
  states: Partial<Record<Tile['state'], number>>;
  size: number;
}

const BADNESS: Record<Tile['state'], number> = {
  answered: 0,
  saved: 0,
  unchanged: 0,
  missing: 1,
  again: 2,
  failed: 3,
};

/** Put tiles together so that there are at most `most` groups, in order, each of the same number of calls. */
export function grouped(tiles: Tile[], most: number): Group[] {
  const each = Math.max(1, Math.ceil(tiles.length / most));
  const groups: Group[] = [];
  for (let at = 0; at < tiles.length; at += each) {
    const some = tiles.slice(at, at + each);
    const states: Group['states'] = {};
    let shown = some[0] as Tile;
    for (const tile of some) {
      states[tile.state] = (states[tile.state] ?? 0) + 1;
      if (BADNESS[tile.state] > BADNESS[shown.state]) shown = tile;
    }
    groups.push({ first: some[0] as Tile, last: some.at(-1) as Tile, shown, states, size: some.length });
  }
  return groups;
}

/** "298 answered, 2 failed". */
export function statesWords(states: Group['states']): string {
  return (Object.keys(STATE_WORDS) as Tile['state'][])
    .filter((state) => states[state])
    .map((state) => `${count(states[state] ?? 0)} ${STATE_WORDS[state]}`)
    .join(', ');
}

/** How many calls ended in each way other than being answered, for the line below the strip. */
export function oddWords(tiles: Tile[]): string {
  const states: Group['states'] = {};
  for (const tile of tiles) if (tile.state !== 'answered') states[tile.state] = (states[tile.state] ?? 0) + 1;
  return statesWords(states);
}

/** "4 s", "2 min 5 s", "3 h 20 min": how long is still to be waited. */
export function remaining(seconds: number): string {
  const whole = Math.max(0, Math.ceil(seconds));
  if (whole < 60) return `${whole} s`;
  if (whole < 3600) return `${Math.floor(whole / 60)} min ${whole % 60} s`;
  return `${Math.floor(whole / 3600)} h ${Math.round((whole % 3600) / 60)} min`;
}

/** "about 1,860 calls, 31 min 0 s, mostly waiting for 300 calls in 5 minutes". */
export function costWords(cost: {
  calls: number | null;
  seconds: number | null;
  waits: number;
  why: string;
}): string {
  if (cost.calls === null) return '';
  if (cost.calls === 0) return 'a refresh makes no call';
  const parts = [`a refresh makes about ${counted(cost.calls, 'call')}`];
  if (cost.seconds !== null && cost.seconds >= 1) parts.push(remaining(cost.seconds));
  if (cost.waits > 1) parts.push(`of it ${remaining(cost.waits)} waiting for ${cost.why}`);
  return parts.join(', ');
}
