/** How pages are turned: the ways of the registry, and a brief's pages in words. */
import type { Brief } from '../api/client';
import { choices, cleaned, entryOf, filled, switched, type Values } from './choices';

export type Pages = Brief['pages'];
export type By = Pages['by'];

/** The entry of a way. */
export const wayOf = (by: By) => entryOf(choices().pagination, by);

/** A way with its usual values; what the old one has in common with it stays. */
export function pagesOf(by: By, old: Pages): Pages {
  return switched(wayOf(by), old as Values, ['total', 'most']) as unknown as Pages;
}

/** What a form holds as the brief has it; the pages of a list of ids too. */
export function cleanedPages(pages: Pages): Pages {
  const made = cleaned(wayOf(pages.by), pages as Values);
  if (made.listing) made.listing = cleanedPages(made.listing as Pages);
  return made as unknown as Pages;
}

/** The sentence in two parts: how pages are turned, and until when. */
export function pagesWords(pages: Pages): { how: string; until: string } {
  const way = wayOf(pages.by);
  const values = pages as Values;
  const until = way.until.find(({ member }) => !member || values[member])?.phrase ?? '';
  return { how: filled(way.phrase, way.fields, values), until: filled(until, way.fields, values) };
}

/** Rows a page that are asked for, if the brief says so. */
export function sizeOf(pages: Pages): number | null {
  return 'size' in pages ? (pages.size ?? null) : null;
}
