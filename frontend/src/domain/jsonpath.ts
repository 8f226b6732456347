/** Places in JSON: plain JSONPath (RFC 9535), JSON Pointers (RFC 6901), and what they mean beside each other. */

/** The wildcard `[*]`. */
export const EACH = Symbol('each');
export type Segment = string | number | typeof EACH;
/** Names and indices that lead to one node. */
export type Steps = (string | number)[];

const STEP =
  // eslint-disable-next-line no-control-regex -- RFC 9535 §2.3.1.1 takes none unescaped
  /\.([A-Za-z_\u0080-\u{10ffff}][A-Za-z0-9_\u0080-\u{10ffff}]*)|\[(0|-?[1-9]\d*)\]|(\[\*\]|\.\*)|\['((?:[^'\\\x00-\x1f]|\\.)*)'\]|\["((?:[^"\\\x00-\x1f]|\\.)*)"\]/uy;
const PLAIN = /^[A-Za-z_\u0080-\u{10ffff}][A-Za-z0-9_\u0080-\u{10ffff}]*$/u;

/** The segments of a plain path such as `$.data[*].name`; nothing for one with filters or descendants. */
export function parsePlace(text: string): Segment[] | null {
  if (!text.startsWith('$')) return null;
  const out: Segment[] = [];
  let at = 1;
  while (at < text.length) {
    STEP.lastIndex = at;
    const found = STEP.exec(text);
    if (!found) return null;
    at = STEP.lastIndex;
    const quoted = found[4] ?? found[5];
    if (found[1] !== undefined) out.push(found[1]);
    else if (found[2] !== undefined) out.push(Number(found[2]));
    else if (found[3] !== undefined) out.push(EACH);
    else out.push(unescaped(quoted ?? ''));
  }
  return out;
}

const ESCAPES: Record<string, string> = { b: '\b', f: '\f', n: '\n', r: '\r', t: '\t' };

function unescaped(raw: string): string {
  return raw.replace(/\\(u[0-9A-Fa-f]{4}|.)/g, (_, code: string) =>
    code.length === 5 ? String.fromCharCode(parseInt(code.slice(1), 16)) : (ESCAPES[code] ?? code),
  );
}

function escaped(name: string): string {
  let out = '';
  for (const char of name) {
    const code = char.codePointAt(0) ?? 0;
    if (char === '\\' || char === "'") out += `\\${char}`;
    else if (code < 0x20 || (code >= 0xd800 && code <= 0xdfff))
      out += `\\u${code.toString(16).padStart(4, '0')}`;
    else out += char;
  }
  return out;
}

/** Segments as a path that {@link parsePlace} reads back. */
export function formatPlace(place: readonly Segment[]): string {
  let out = '$';
  for (const segment of place) {
    if (segment === EACH) out += '[*]';
    else if (typeof segment === 'number') out += `[${segment}]`;
    else out += PLAIN.test(segment) ? `.${segment}` : `['${escaped(segment)}']`;
  }
  return out;
}

/** Steps as a JSON Pointer. */
export const formatPointer = (steps: Steps): string =>
  steps.map((step) => `/${String(step).replaceAll('~', '~0').replaceAll('/', '~1')}`).join('');

/** What a node of an answer is beside the records. */
export type Relation =
  | { what: 'records' }
  | { what: 'record' }
  /** Inside a record: its place there, lists as wildcards, and the places of the lists on the way. */
  | { what: 'field'; place: string; lists: { place: string; item: number; depth: number }[] }
  /** Outside of the records: its place in the whole answer, bound to the record's own way where they go together. */
  | { what: 'outside'; place: string };

/** Tell what a node is. `isItem` says whether a step leads to an item of a list. */
export function relationOf(steps: Steps, records: readonly Segment[] | null): Relation {
  if (!records) return { what: 'outside', place: formatPlace(steps) };
  const fits = (count: number) =>
    records.slice(0, count).every((segment, at) => segment === EACH || segment === steps[at]);
  const outer = records.at(-1) === EACH ? records.length - 1 : records.length;
  if (steps.length === outer && outer < records.length && fits(outer)) return { what: 'records' };
  if (steps.length >= records.length && fits(records.length)) {
    if (steps.length === records.length) return { what: 'record' };
    const inner = steps.slice(records.length);
    const place: Segment[] = [];
    const lists: { place: string; item: number; depth: number }[] = [];
    inner.forEach((step, at) => {
      if (typeof step === 'number') {
        lists.push({ place: formatPlace(place), item: step, depth: records.length + at });
        place.push(EACH);
      } else place.push(step);
    });
    return { what: 'field', place: formatPlace(place), lists };
  }
  let bound = 0;
  while (
    bound < records.length &&
    bound < steps.length &&
    (records[bound] === EACH || records[bound] === steps[bound])
  )
    bound += 1;
  const place = steps.map((step, at): Segment => (at < bound && records[at] === EACH ? EACH : step));
  return { what: 'outside', place: formatPlace(place) };
}

/** A readable name for a place: $.vessel['hull id'] → vessel.hull id. */
export function nameOf(place: string): string {
  const segments = parsePlace(place);
  if (!segments) return place.replace(/^\$\.?/, '') || 'value';
  const names = segments.filter((segment) => segment !== EACH).map(String);
  return names.join('.') || 'value';
}

/** Where records are, in words: what is taken, and the name of the place; a path with conditions stands for itself. */
export function recordsWords(path: string): { lead: string; name: string; plain: boolean } {
  const place = parsePlace(path);
  if (!place) return { lead: 'each item of', name: path, plain: false };
  if (!place.length) return { lead: '', name: 'the whole answer', plain: true };
  const many = place.at(-1) === EACH;
  const name = nameOf(path);
  if (place.every((segment) => segment === EACH))
    return { lead: 'each item of', name: 'the answer', plain: true };
  return { lead: many ? 'each item of' : '', name, plain: true };
}

const IN_TEXT = /\$(?:\.[\p{L}\p{N}_-]+|\[(?:\*|\d+|'[^']*'|"[^"]*")\])+/gu;

/** A sentence with its places said by their names: “$.meta.total is 12” → “meta.total is 12”. */
export const withNames = (sentence: string): string =>
  sentence.replace(IN_TEXT, (path) => {
    // A sentence may go on behind it with a full stop.
    const end = path.endsWith('.') ? '.' : '';
    return nameOf(end ? path.slice(0, -1) : path) + end;
  });
