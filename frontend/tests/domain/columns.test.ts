import { expect, test } from 'vitest';
import type { Brief, Column } from '../../src/api/client';
import {
  dropColumn,
  editColumn,
  moveBefore,
  moveColumn,
  newColumn,
  toggleField,
  withRecords,
  withRows,
} from '../../src/domain/columns';

const column = (name: string, origin = 'taken'): Column => ({
  name,
  kind: 'text',
  origin,
  place: `$.${name}`,
  unit: '',
  filled: null,
  of: 'record',
  note: '',
  hidden: false,
  list_words: '',
  source: '',
  asked: '',
});
const shown = [column('id'), column('code'), column('port', 'ports')];
const brief = {
  take: { records: '$[*]', rows_for: [], keyed: [], columns: null },
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
  const hull = newColumn("$.vessel['hull id']", 'vessel.hull id');
  const once = toggleField(brief, shown, hull);
  expect(names(once)).toEqual(['id', 'code', 'vessel.hull id']);
  expect(names(toggleField(once, shown, hull))).toEqual(['id', 'code']);
});

test('two ways to take one place are two columns, each left out alone', () => {
  const car = newColumn('$.fares[*].amount', 'amount', {
    reduction: { by: 'where', place: '$.class', equals: 'car' },
  });
  const first = newColumn('$.fares[*].amount', 'amount', { reduction: { by: 'first' } });
  const both = toggleField(toggleField(brief, shown, car), shown, first);
  expect(names(both)).toEqual(['id', 'code', 'amount', 'amount (2)']);
  expect(toggleField(both, shown, car).take.columns?.map((one) => one.reduction?.by)).toEqual([
    undefined,
    undefined,
    'first',
  ]);
});

test('a column keeps how it is read when another one is changed', () => {
  const reads = { comma: true, dates: null, zone: null, yes: [], no: [], empty: [] };
  const once = editColumn(brief, shown, column('id'), {
    kind: 'decimal',
    reads,
    note: 'in crowns',
    hidden: true,
  });
  const twice = editColumn(once, shown, column('code'), { unit: 'kg' });
  expect(twice.take.columns?.[0]).toMatchObject({ kind: 'decimal', reads, note: 'in crowns', hidden: true });
  expect(twice.take.columns?.[0]).not.toHaveProperty('was');
});

test('a column is put in front of another one', () => {
  expect(names(moveBefore(brief, shown, 'code', 'id'))).toEqual(['code', 'id']);
  expect(names(moveBefore(brief, shown, 'id', null))).toEqual(['code', 'id']);
  expect(moveBefore(brief, shown, 'nothing', 'id')).toBe(brief);
});

test('a list becomes rows: what was made of the whole list stays, its items go with the rows', () => {
  const picked = toggleField(
    toggleField(brief, shown, newColumn('$.fares', 'fares')),
    shown,
    newColumn('$.fares[*].amount', 'car', { reduction: { by: 'first' } }),
  );
  const rows = withRows(picked, shown, '$.fares', true);
  expect(rows.take.rows_for).toEqual(['$.fares']);
  expect(names(rows)).toEqual(['id', 'code', 'car']);
  expect(rows.take.columns?.[2]?.reduction).toEqual({ by: 'first' });
  const items = toggleField(rows, shown, newColumn('$.fares[*].class', 'class'));
  expect(names(withRows(items, shown, '$.fares', false))).toEqual(['id', 'code', 'car']);
  const two = withRows(rows, shown, '$.legs', true);
  expect(two.take.together).toBe('product');
  expect(withRows(two, shown, '$.legs', false).take.together).toBeNull();
  const deep = withRows(withRows(brief, shown, '$.legs', true), shown, '$.legs[*].stops', true);
  expect(deep.take.together).toBeNull();
  expect(withRows(deep, shown, '$.legs', false).take.rows_for).toEqual([]);
});

test('a guess at the rows brings its names and lists along, and columns are chosen anew', () => {
  const lists = withRecords(brief, { path: '$.hourly', rows_for: ['$.time', '$.wind'], heads: null });
  expect(lists.take).toMatchObject({ records: '$.hourly', together: 'side by side', columns: null });
  const rows = withRecords(brief, { path: '$[*]', heads: { by: 'first row' } });
  expect(rows.take).toMatchObject({ heads: { by: 'first row' }, rows_for: [], together: null });
});

test('the brief that was given is never changed', () => {
  const before = JSON.stringify(brief);
  editColumn(brief, shown, column('id'), { name: 'x' });
  dropColumn(brief, shown, column('code'));
  toggleField(brief, shown, newColumn('$.id', 'id'));
  withRows(brief, shown, '$.f', true);
  expect(JSON.stringify(brief)).toBe(before);
});
