import { expect, test } from 'vitest';
import { pastedValues, takeIn, whole } from '../../src/workOut/valueList';

test('a comma ends a value; what stands behind it is still being typed', () => {
  expect(takeIn('one, two, thr')).toEqual({ values: ['one', 'two'], rest: 'thr' });
  expect(takeIn('one')).toEqual({ values: [], rest: 'one' });
  expect(takeIn(' , one,')).toEqual({ values: ['one'], rest: '' });
});

test('a value with a comma stands in quotes, or is one that the column has', () => {
  expect(takeIn('"Hest, north", two,')).toEqual({ values: ['Hest, north', 'two'], rest: '' });
  expect(takeIn('"Hest, nor')).toEqual({ values: [], rest: '"Hest, nor' });
  expect(takeIn('Hest, north, two,', ['Hest', 'Hest, north'])).toEqual({
    values: ['Hest, north', 'two'],
    rest: '',
  });
  expect(takeIn('Hest,', ['Hest, north'])).toEqual({ values: [], rest: 'Hest,' });
  expect(takeIn('Hest, south', ['Hest, north'])).toEqual({ values: ['Hest'], rest: 'south' });
});

test('the last value loses its quotes', () => {
  expect(whole(' "say ""yes""" ')).toBe('say "yes"');
  expect(whole('"open')).toBe('"open');
  expect(whole('  ')).toBe('');
});

test('cells of a sheet are values, one each; a single text is none of them', () => {
  expect(pastedValues('a, b\r\nc\r\n\r\nd\te\n')).toEqual(['a, b', 'c', 'd', 'e']);
  expect(pastedValues('a, b')).toBeNull();
});
