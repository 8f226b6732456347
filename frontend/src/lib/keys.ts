/** The ways in which a service takes its key, as one choice each, and what each way sets. */
import type { Key } from './api/client';

type Place = Key['places'][number];
type Source = Key['source'];

export interface Way {
  id: string;
  words: string;
  make: () => { source: Source; places: Place[] };
}

const stored: Source = { by: 'stored' };
const bearer: Place = { at: 'bearer', field: 'key', calls: 'all' };

export const PLACES: [Place['at'], string][] = [
  ['header', 'a header'],
  ['bearer', 'a bearer token'],
  ['address', 'an address parameter'],
  ['body', 'a field of the body'],
  ['user and password', 'user and password'],
];

/** A place of a kind, with what is usual for it. */
export function placeOf(at: Place['at'], field = 'key'): Place {
  switch (at) {
    case 'header':
      return { at, name: 'X-Api-Key', prefix: '', field, calls: 'all' };
    case 'bearer':
      return { at, field, calls: 'all' };
    case 'address':
      return { at, name: 'key', field, calls: 'all' };
    case 'body':
      return { at, place: '$.key', field, calls: 'with body' };
    default:
      return { at, calls: 'all' };
  }
}

export const WAYS: Way[] = [
  { id: 'header', words: 'a key in a header', make: () => ({ source: stored, places: [placeOf('header')] }) },
  { id: 'bearer', words: 'a bearer token', make: () => ({ source: stored, places: [bearer] }) },
  {
    id: 'address',
    words: 'a key in the address',
    make: () => ({ source: stored, places: [placeOf('address')] }),
  },
  { id: 'body', words: 'a key in the body', make: () => ({ source: stored, places: [placeOf('body')] }) },
  {
    id: 'user and password',
    words: 'user and password',
    make: () => ({ source: stored, places: [placeOf('user and password')] }),
  },
  {
    id: 'client credentials',
    words: 'OAuth 2, client id and secret',
    make: () => ({
      source: { by: 'client credentials', address: '/oauth/token', send: 'header', scope: '', fields: [] },
      places: [bearer],
    }),
  },
  {
    id: 'sign-in',
    words: 'a sign-in call that gives a token',
    make: () => ({
      source: {
        by: 'sign-in',
        wants: ['user', 'password'],
        method: 'POST',
        address: '/login',
        headers: [],
        body: { kind: 'json', value: { user: '{user}', password: '{password}' } },
        token: '$.token',
        life: null,
        lasts: 'PT10M',
      },
      places: [bearer],
    }),
  },
  {
    id: 'asked',
    words: 'a token that is pasted when asked',
    make: () => ({ source: { by: 'asked', lasts: 'PT1H' }, places: [bearer] }),
  },
];

/** Which of the ways a key is, by what it is made of. */
export function wayOf(key: Key | null | undefined): string {
  if (!key) return 'none';
  return key.source.by === 'stored' ? (key.places[0]?.at ?? 'header') : key.source.by;
}

/** The fields that a person puts in; the same as the server's rule. */
export function wantsOf(key: Key): string[] {
  if (key.source.by === 'client credentials') return ['client_id', 'client_secret'];
  if (key.source.by === 'sign-in') return key.source.wants;
  if (key.source.by === 'asked') return ['token'];
  const fields = key.places.flatMap((place) =>
    place.at === 'user and password' ? ['user', 'password'] : [place.field],
  );
  return [...new Set(fields)];
}

/** Minutes ↔ ISO 8601, for how long a token lasts. */
export const minutesOf = (duration: string): number => {
  const match = /^P(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?)?$/.exec(duration);
  return match ? Number(match[1] ?? 0) * 1440 + Number(match[2] ?? 0) * 60 + Number(match[3] ?? 0) : 60;
};
export const durationOf = (minutes: number): string => `PT${Math.max(1, Math.round(minutes))}M`;
