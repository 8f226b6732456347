/** Which of many things laid side by side are in sight, and where they stand. */
export interface Span {
  first: number;
  /** One behind the last. */
  last: number;
  /** Where the first one begins. */
  before: number;
}

/** Where each of some widths begins; one more than there are, the last is the whole. */
export function offsetsOf(widths: number[]): number[] {
  const out = [0];
  for (const width of widths) out.push((out.at(-1) ?? 0) + width);
  return out;
}

/** The things of which a part lies between two places, with some to spare at both ends. */
export function spanOf(offsets: number[], from: number, to: number, spare = 2): Span {
  const count = offsets.length - 1;
  let first = indexAt(offsets, from) - spare;
  let last = indexAt(offsets, to) + 1 + spare;
  first = Math.max(0, Math.min(first, count));
  last = Math.max(first, Math.min(last, count));
  return { first, last, before: offsets[first] ?? 0 };
}

/** The last thing that begins at a place or before it. */
export function indexAt(offsets: number[], place: number): number {
  let low = 0;
  let high = offsets.length - 2;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if ((offsets[middle] ?? 0) <= place) low = middle;
    else high = middle - 1;
  }
  return Math.max(0, low);
}

/** Browsers draw no element higher than about 33 million pixels; more rows are scrolled in larger steps. */
export const HIGHEST = 30_000_000;

/** How tall a list is drawn, and how many of its pixels one drawn pixel stands for. */
export function heightOf(rows: number, rowHeight: number, view: number): { drawn: number; scale: number } {
  const whole = rows * rowHeight;
  if (whole <= HIGHEST) return { drawn: whole, scale: 1 };
  return { drawn: HIGHEST, scale: (whole - view) / (HIGHEST - view) };
}
