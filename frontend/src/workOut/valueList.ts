/** Values that are typed one after the other, with commas between them. A value with a comma stands in double quotes,
 * or is one that the column has. */

export interface Typed {
  /** The values that are complete. */
  values: string[];
  /** What is still being typed. */
  rest: string;
}

/** What of a typed text is complete.
 * @param known values that the column has: a comma within one of them ends nothing. */
export function takeIn(text: string, known: string[] = []): Typed {
  const values: string[] = [];
  let rest = text.trimStart();
  for (;;) {
    const found = first(rest, known);
    if (found === null) return { values, rest };
    if (found.value) values.push(found.value);
    rest = rest.slice(found.length).trimStart();
  }
}

/** The last value, where nothing follows it: without its quotes. */
export function whole(rest: string): string {
  const text = rest.trim();
  return /^"([^"]|"")*"$/.test(text) ? text.slice(1, -1).replaceAll('""', '"') : text;
}

/** The cells of a sheet that were pasted: each is a value; null where it is a single text. */
export function pastedValues(text: string): string[] | null {
  const cells = text.split(/[\r\n\t]+/).map((one) => one.trim()).filter(Boolean); // prettier-ignore
  return /[\n\t]/.test(text.trim()) ? cells : null;
}

function first(text: string, known: string[]): { value: string; length: number } | null {
  const quoted = /^"((?:[^"]|"")*)"\s*,/.exec(text);
  if (quoted) return { value: (quoted[1] ?? '').replaceAll('""', '"'), length: quoted[0].length };
  if (text.startsWith('"')) return null;
  const own = known.filter((one) => text.startsWith(`${one},`)).sort((a, b) => b.length - a.length)[0];
  if (own !== undefined) return { value: own, length: own.length + 1 };
  const comma = text.indexOf(',');
  if (comma < 0 || known.some((one) => one.includes(',') && one.startsWith(text))) return null;
  return { value: text.slice(0, comma).trim(), length: comma + 1 };
}
