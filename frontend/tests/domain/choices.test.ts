import { expect, test } from 'vitest';
import { matters, switched, type ChoiceInfo, type FieldInfo } from '../../src/domain/choices';

const field = (name: string, rest: Partial<FieldInfo> = {}): FieldInfo => ({
  name,
  label: name,
  kind: 'text',
  placeholder: '',
  required: false,
  least: null,
  options: [],
  wide: false,
  many: false,
  with_field: '',
  with_values: [],
  more: false,
  ...rest,
});

const offers = (...values: string[]): FieldInfo['options'] =>
  values.map((value) => ({ value, label: value, phrase: '' }));

test('what both kinds ask for is kept where the other one offers it', () => {
  const database: ChoiceInfo = {
    key: 'database',
    label: 'a table of a database',
    phrase: '',
    fields: [
      field('way', { options: offers('replace', 'update') }),
      field('gone', { options: offers('keep', 'remove') }),
      field('most'),
    ],
    defaults: { to: 'database', way: 'replace', gone: 'keep', most: null },
  };
  const old = { to: 'sheet', way: 'update', gone: 'mark', most: 7, path: 'a.xlsx' };
  expect(switched(database, old)).toEqual({ to: 'database', way: 'update', gone: 'keep', most: 7 });
});

test('a field matters by the value of another, or by what a name ends in', () => {
  const gone = field('gone', { with_field: 'way', with_values: ['update'] });
  expect(matters(gone, { way: 'update' })).toBe(true);
  expect(matters(gone, { way: 'replace' })).toBe(false);
  const separator = field('separator', { with_field: 'path', with_values: ['.csv'] });
  expect(matters(separator, { path: 'A.CSV' })).toBe(true);
  expect(matters(separator, { path: 'csv' })).toBe(false);
  expect(matters(field('path'), {})).toBe(true);
});
