import { expect, test } from 'vitest';
import type { Brief, Column } from './api/client';
import { dropColumn, editColumn, moveColumn, nameOf, toggleField } from './columns';

const column = (name: string, origin = 'taken'): Column => ({
  name,
  kind: 'text',
  origin,
  place: `$.${name}`,
  unit: '',
  filled: null,
});
const shown = [column('id'), column('code'), column('port', 'ports')];
const brief = {
  take: { records: '$[*]', rows_for: null, columns: null },
  look_up: [
    {
      name: 'ports',
      path: '/ports/{c}',
      query: [],
      with: { c: 'code' },
      take: [{ place: '$.name', name: 'port', kind: null, unit: '' }],
      missing: [404],
    },
  ],
  keep: { match: ['id', 'port'], paused: false },
} as unknown as Brief;
const names = (of: Brief) => of.take.columns?.map((one) => one.name);

test('a rename reaches the lookup and the match columns', () => {
  const once = editColumn(brief, shown, column('code'), { name: 'harbour' });
  expect(names(once)).toEqual(['id', 'harbour']);
  expect(once.look_up[0]?.with).toEqual({ c: 'harbour' });
  expect(editColumn(brief, shown, column('id'), { name: 'key' }).keep.match).toEqual(['key', 'port']);
  const looked = editColumn(brief, shown, column('port', 'ports'), { name: 'name', kind: 'text' });
  expect(looked.look_up[0]?.take[0]).toMatchObject({ name: 'name', kind: 'text' });
  expect(looked.keep.match).toEqual(['id', 'name']);
});

test('a column that is left out matches no more, and a lookup goes with its last column', () => {
  const once = dropColumn(brief, shown, column('id'));
  expect(names(once)).toEqual(['code']);
  expect(once.keep.match).toEqual(['port']);
  const none = dropColumn(brief, shown, column('port', 'ports'));
  expect(none.look_up).toEqual([]);
  expect(none.keep.match).toEqual(['id']);
});

test('columns change places, and stop at the edge', () => {
  expect(names(moveColumn(brief, shown, column('code'), -1))).toEqual(['code', 'id']);
  expect(moveColumn(brief, shown, column('id'), -1)).toBe(brief);
});

test('a field is taken and left out again', () => {
  const once = toggleField(brief, shown, "$.vessel['hull id']");
  expect(names(once)).toEqual(['id', 'code', 'vessel.hull id']);
  expect(names(toggleField(once, shown, "$.vessel['hull id']"))).toEqual(['id', 'code']);
  expect(nameOf('$.fares[*].amount')).toBe('fares.amount');
});

test('the brief that was given is never changed', () => {
  const before = JSON.stringify(brief);
  editColumn(brief, shown, column('id'), { name: 'x' });
  dropColumn(brief, shown, column('code'));
  toggleField(brief, shown, '$.id');
  expect(JSON.stringify(brief)).toBe(before);
});
