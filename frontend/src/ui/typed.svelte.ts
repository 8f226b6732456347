/** What was typed into a panel and is not used yet. It is kept until it is used or thrown away on purpose, in memory
 *  alone: a pasted text may hold a key. */
import { onDestroy } from 'svelte';
import { SvelteMap } from 'svelte/reactivity';

interface Entry {
  /** What the panel held when it was left. */
  held: unknown;
}

const entries = new SvelteMap<string, Entry>();

/** Whether a panel holds something that was typed and not used. */
export const isTyped = (key: string): boolean => entries.has(key);

/** Something was typed into a panel. */
export function markTyped(key: string): void {
  if (!entries.has(key)) entries.set(key, { held: undefined });
}

/** It was used, or thrown away on purpose. */
export function dropTyped(key: string): void {
  entries.delete(key);
}

/**
 * Within a component: what it holds survives its end, as long as it is neither used nor thrown away.
 *
 * @param key Says which panel it is, of which query or service.
 * @param take What to keep.
 * @param give Takes back what was kept.
 */
export function keepTyped<T>(key: () => string, take: () => T, give: (held: T) => void): void {
  const own = key();
  const entry = entries.get(own);
  if (entry?.held !== undefined) give(entry.held as T);
  onDestroy(() => {
    if (entries.has(own)) entries.set(own, { held: take() });
  });
}

// The browser asks before a page with such a text is left.
if (typeof window !== 'undefined')
  window.addEventListener('beforeunload', (event) => {
    if (entries.size) event.preventDefault();
  });
