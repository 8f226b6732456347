/** Changing a JSON document part by part; every change gives a new document. */
export type Json = null | boolean | number | string | Json[] | { [name: string]: Json };
export type JsonKind = 'text' | 'number' | 'yes/no' | 'nothing' | 'list' | 'object';
export type Step = string | number;

export function kindOf(value: Json): JsonKind {
  if (value === null) return 'nothing';
  if (Array.isArray(value)) return 'list';
  if (typeof value === 'object') return 'object';
  if (typeof value === 'boolean') return 'yes/no';
  return typeof value === 'number' ? 'number' : 'text';
}

/** A value as another kind, as much of it as can be kept. */
export function asKind(value: Json, kind: JsonKind): Json {
  const plain = value !== null && typeof value === 'object' ? '' : String(value ?? '');
  switch (kind) {
    case 'text':
      return plain;
    case 'number':
      return Number(plain) || 0;
    case 'yes/no':
      return plain === 'true';
    case 'list':
      return Array.isArray(value) ? value : plain ? [value as Json] : [];
    case 'object':
      return kindOf(value) === 'object' ? value : {};
    default:
      return null;
  }
}

/** The document with the value at a place replaced. */
export function setAt(document: Json, place: Step[], value: Json): Json {
  const [step, ...rest] = place;
  if (step === undefined) return value;
  if (Array.isArray(document))
    return document.map((item, at) => (at === step ? setAt(item, rest, value) : item));
  if (document !== null && typeof document === 'object')
    return Object.fromEntries(
      Object.entries(document).map(([name, item]) => [name, name === step ? setAt(item, rest, value) : item]),
    );
  return document;
}

/** The document without the value at a place. */
export function dropAt(document: Json, place: Step[]): Json {
  const last = place.at(-1);
  return changeAt(document, place.slice(0, -1), (inner) => {
    if (Array.isArray(inner)) return inner.filter((_, at) => at !== last);
    if (inner !== null && typeof inner === 'object')
      return Object.fromEntries(Object.entries(inner).filter(([name]) => name !== last));
    return inner;
  });
}

/** The document with a member named anew, where it stands. A name that is taken changes nothing. */
export function renameAt(document: Json, place: Step[], name: string): Json {
  const last = place.at(-1);
  return changeAt(document, place.slice(0, -1), (inner) => {
    if (inner === null || typeof inner !== 'object' || Array.isArray(inner) || name in inner) return inner;
    return Object.fromEntries(Object.entries(inner).map(([own, item]) => [own === last ? name : own, item]));
  });
}

/** The document with one more member or item in the object or list at a place. */
export function addAt(document: Json, place: Step[]): Json {
  return changeAt(document, place, (inner) => {
    if (Array.isArray(inner)) return [...inner, ''];
    if (inner === null || typeof inner !== 'object') return inner;
    let name = 'name';
    for (let number = 2; name in inner; number += 1) name = `name ${number}`;
    return { ...inner, [name]: '' };
  });
}

function changeAt(document: Json, place: Step[], change: (inner: Json) => Json): Json {
  let inner: Json = document;
  for (const step of place) inner = (inner as Record<Step, Json>)[step] ?? null;
  return setAt(document, place, change(inner));
}

/** Where JSON text stops being JSON, in words; nothing when it is fine. */
export function problemOfField(text: string): string {
  try {
    JSON.parse(text);
    return '';
  } catch (error) {
    const message = error instanceof Error ? error.message : '';
    const at = /position (\d+)/.exec(message);
    if (!at) return 'This is not JSON: it ends too early.';
    const before = text.slice(0, Number(at[1]));
    const line = before.split('\n').length;
    return `This is not JSON: look at line ${line}, character ${before.length - before.lastIndexOf('\n')}.`;
  }
}
