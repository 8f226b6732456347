import { expect, test } from 'vitest';
import {
  addAt,
  asKind,
  dropAt,
  problemOfField,
  kindOf,
  renameAt,
  setAt,
  type Json,
} from '../../src/domain/jsontree';

const DOCUMENT: Json = { a: 1, b: { c: [true, null, 'x'] } };

test('a part is set, dropped, renamed and added, and the rest stays as it was', () => {
  expect(setAt(DOCUMENT, ['b', 'c', 2], 'y')).toEqual({ a: 1, b: { c: [true, null, 'y'] } });
  expect(dropAt(DOCUMENT, ['b', 'c', 0])).toEqual({ a: 1, b: { c: [null, 'x'] } });
  expect(dropAt(DOCUMENT, ['a'])).toEqual({ b: { c: [true, null, 'x'] } });
  expect(Object.keys(renameAt(DOCUMENT, ['a'], 'z') as object)).toEqual(['z', 'b']);
  expect(renameAt(DOCUMENT, ['a'], 'b')).toEqual(DOCUMENT);
  expect(addAt(DOCUMENT, ['b', 'c'])).toEqual({ a: 1, b: { c: [true, null, 'x', ''] } });
  expect(addAt({ name: 1 }, [])).toEqual({ name: 1, 'name 2': '' });
  expect(DOCUMENT).toEqual({ a: 1, b: { c: [true, null, 'x'] } });
});

test('kinds', () => {
  expect([1, 'x', true, null, [], {}].map((value) => kindOf(value as Json))).toEqual([
    'number',
    'text',
    'yes/no',
    'nothing',
    'list',
    'object',
  ]);
  expect(asKind('12', 'number')).toBe(12);
  expect(asKind(12, 'text')).toBe('12');
  expect(asKind('x', 'number')).toBe(0);
  expect(asKind('x', 'list')).toEqual(['x']);
  expect(asKind([1], 'object')).toEqual({});
});

test('text that is no JSON is said with its place', () => {
  expect(problemOfField('{"a": 1}')).toBe('');
  expect(problemOfField('{"a": ')).toContain('not JSON');
  expect(problemOfField('{\n "a": tru }')).toMatch(/line 2|too early/);
});
