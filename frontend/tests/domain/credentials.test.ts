import { expect, test } from 'vitest';
import type { Key } from '../../src/api/client';
import { made, placeOf, placeWords, sourceWords, wayOf, ways } from '../../src/domain/credentials';

test.each(ways().map((way) => [way.id]))('the way “%s” is known again by what it sets', (id) => {
  const key = { name: 'k', ...made(id) } as Key;
  expect(wayOf(key)).toBe(id);
  expect(placeWords(key.places[0]!).where).not.toContain('{');
  expect(sourceWords(key)).not.toContain('{');
});

test('a key without a way is none, and a place takes a field of the secret', () => {
  expect(wayOf(null)).toBe('none');
  expect(placeOf('header', 'app')).toMatchObject({ at: 'header', field: 'app' });
  expect(placeOf('user and password')).not.toHaveProperty('field');
});

test('where a key goes is said with its text masked', () => {
  expect(placeWords(placeOf('header'))).toEqual({ where: 'in a header', shown: 'X-Api-Key: ••••' });
  expect(placeWords({ at: 'address', name: 'appid', field: 'key', calls: 'without body' })).toEqual({
    where: 'in the address, calls without a body',
    shown: 'appid=••••',
  });
});
