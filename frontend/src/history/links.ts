/** Where the story of a row, and a figure through time, are seen. */
import type { Cell } from '../api/client';
import { writeJson } from '../api/json';

/** The address of a row's story; nothing where a match value is no plain one. */
export function storyAddress(queryId: number, match: string[], key: Cell[]): string | null {
  if (!match.length || key.some((one) => one !== null && typeof one === 'object')) return null;
  const [keys, names] = [writeJson(key), writeJson(match)].map(encodeURIComponent);
  return `#/query/${queryId}/row?key=${keys}&match=${names}`;
}

export function figureAddress(queryId: number, figure: string, column = ''): string {
  const name = column ? `&column=${encodeURIComponent(column)}` : '';
  return `#/query/${queryId}/through-time?figure=${figure}${name}`;
}
