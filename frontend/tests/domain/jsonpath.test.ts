import { expect, test } from 'vitest';
import corpus from '../../../tests/corpus/places.json';
import {
  EACH,
  formatPlace,
  formatPointer,
  nameOf,
  parsePlace,
  recordsWords,
  relationOf,
  withNames,
  type Segment,
} from '../../src/domain/jsonpath';

test.each(corpus)('$text is read as the server reads it', ({ text, place, written }) => {
  const found = parsePlace(text);
  expect(found?.map((step) => (step === EACH ? { each: true } : step)) ?? null).toEqual(place);
  expect(found && formatPlace(found)).toBe(written);
});

test('a place that is written is read back, whatever its names are', () => {
  const odd: Segment[] = [
    'plain',
    'a.b',
    "it's",
    'back\\slash',
    '',
    'two\nlines',
    '$',
    '[0]',
    'größe',
    3,
    EACH,
  ];
  expect(parsePlace(formatPlace(odd))).toEqual(odd);
  expect(formatPlace(['data', EACH, 'hull id'])).toBe("$.data[*]['hull id']");
  expect(parsePlace('$.data[?@.a > 1]')).toBeNull();
  expect(parsePlace('data')).toBeNull();
});

test('pointers escape what stands for itself', () => {
  expect(formatPointer(['a/b', 'c~d', 0])).toBe('/a~1b/c~0d/0');
});

test('a node knows what it is beside the records', () => {
  const records = parsePlace('$.data[*]');
  expect(relationOf(['data'], records)).toEqual({ what: 'records' });
  expect(relationOf(['data', 4], records)).toEqual({ what: 'record' });
  expect(relationOf(['data', 4, 'fares', 1, 'amount'], records)).toEqual({
    what: 'field',
    place: '$.fares[*].amount',
    lists: [{ place: '$.fares', item: 1, depth: 3 }],
  });
  expect(relationOf(['meta', 'as_of'], records)).toEqual({ what: 'outside', place: '$.meta.as_of' });
  const nested = parsePlace('$.routes[*].sailings[*]');
  expect(relationOf(['routes', 2, 'code'], nested)).toEqual({ what: 'outside', place: '$.routes[*].code' });
  const keyed = parsePlace('$.ports[*]');
  expect(relationOf(['ports', '007', 'name'], keyed)).toEqual({ what: 'field', place: '$.name', lists: [] });
  expect(relationOf([], parsePlace('$'))).toEqual({ what: 'record' });
});

test('names are readable', () => {
  expect(nameOf("$.fares[*]['hull id']")).toBe('fares.hull id');
  expect(nameOf('$')).toBe('value');
});

test('where the records are is said by name', () => {
  const words = (path: string) => {
    const { lead, name } = recordsWords(path);
    return `${lead} ${name}`.trim();
  };
  expect(words('$')).toBe('the whole answer');
  expect(words('$[*]')).toBe('each item of the answer');
  expect(words("$.data['port calls'][*]")).toBe('each item of data.port calls');
  expect(words('$.data')).toBe('data');
  expect(words('$.data[?@.x > 1]')).toBe('each item of $.data[?@.x > 1]');
});

test('a sentence says its places by name', () => {
  expect(withNames('$.meta.total_pages is 12, 100 of 1,149 rows are here.')).toBe(
    'meta.total_pages is 12, 100 of 1,149 rows are here.',
  );
  expect(withNames("nothing follows at $['next page'][0].link.")).toBe(
    'nothing follows at next page.0.link.',
  );
  expect(withNames('it costs $5, at $ and $.')).toBe('it costs $5, at $ and $.');
});
