/** Server-sent events, typed by the server's OpenAPI document. */
import { readJson } from './json';
import type { Progress } from './client';

/** Follow a run live; the returned function stops listening. */
export function follow(run: number, told: (progress: Progress) => void): () => void {
  const source = new EventSource(`/api/runs/${run}/events`);
  source.onmessage = (event: MessageEvent<string>) => {
    const progress = readJson(event.data) as Progress;
    if (progress.state !== 'running') source.close();
    told(progress);
  };
  return () => source.close();
}
