import { expect, test } from 'vitest';
import type { Key } from './api/client';
import { durationOf, minutesOf, placeOf, wantsOf, WAYS, wayOf } from './keys';

test.each(WAYS.map((way) => [way.id, way] as const))(
  'the way “%s” is known again by what it sets',
  (id, way) => {
    expect(wayOf({ name: 'k', ...way.make() })).toBe(id);
  },
);

test('fields that a person puts in', () => {
  const key = (...places: Key['places']): Key => ({ name: 'k', source: { by: 'stored' }, places });
  expect(wantsOf(key(placeOf('header')))).toEqual(['key']);
  expect(wantsOf(key(placeOf('user and password')))).toEqual(['user', 'password']);
  expect(wantsOf(key(placeOf('header', 'app'), placeOf('address')))).toEqual(['app', 'key']);
  expect(wayOf(null)).toBe('none');
});

test('how long a token lasts', () => {
  expect([minutesOf('PT10M'), minutesOf('PT1H'), minutesOf('P1DT2H')]).toEqual([10, 60, 1560]);
  expect(durationOf(90)).toBe('PT90M');
});
