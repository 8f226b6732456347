import { expect, test, vi } from 'vitest';
import { actionsOf, columnName, type Rules } from '../../src/answers/nodeActions';
import type { TreeNode } from '../../src/answers/tree.svelte';
import { parsePlace, relationOf, type Steps } from '../../src/domain/jsonpath';

type Info = Partial<TreeNode['info']>;

function node(steps: Steps, info: Info, parent: TreeNode | null = null): TreeNode {
  const made = {
    steps,
    info: { name: steps.at(-1) ?? null, kind: 'text', text: '', size: 0, ...info },
    parent,
    children: new Map(),
    open: false,
  } as unknown as TreeNode;
  parent?.children.set(parent.children.size, made);
  return made;
}

function rulesOf(records: string, more: Partial<Rules> = {}): Rules {
  const path = parsePlace(records);
  const calls = { ontake: vi.fn(), onrecords: vi.fn(), onrows: vi.fn(), onask: vi.fn() };
  return { path, rowsFor: [], taken: new Set(), guesses: [], ...calls, ...more };
}

const actions = (one: TreeNode, rules: Rules) => actionsOf(one, relationOf(one.steps, rules.path), rules);
const click = (one: TreeNode, rules: Rules, at = 0) => actions(one, rules)[at]?.act({} as MouseEvent);

test('a field of a record is taken with its place in the record', () => {
  const rules = rulesOf('$.data[*]');
  const hull = node(['data', 3, 'vessel', 'hull id'], { kind: 'number', text: '7' });
  expect(actions(hull, rules).map((one) => one.words)).toEqual(['make it a column']);
  click(hull, rules);
  expect(rules.ontake).toHaveBeenCalledWith(
    expect.objectContaining({ place: "$.vessel['hull id']", name: 'vessel.hull id', of: 'record' }),
  );
  const taken = rulesOf('$.data[*]', { taken: new Set(["record $.vessel['hull id']"]) });
  expect(actions(hull, taken)[0]).toMatchObject({ words: '✓ a column', on: true });
});

test('a list outside of the records can become the records', () => {
  const rules = rulesOf('$.data[*]');
  click(node(['others'], { kind: 'list', text: 'objects', size: 2 }), rules);
  expect(rules.onrecords).toHaveBeenCalledWith({ path: '$.others[*]' });
});

test('a value in a list is asked about, with the fields that identify its item', () => {
  const rules = rulesOf('$.data[*]');
  const item = node(['data', 0, 'fares', 1], { kind: 'object' });
  node(['data', 0, 'fares', 1, 'class'], { kind: 'text', text: 'car' }, item);
  const amount = node(['data', 0, 'fares', 1, 'amount'], { kind: 'number', text: '12.5' }, item);
  expect(actions(amount, rules)[0]?.words).toBe('make it a column …');
  click(amount, rules);
  expect(vi.mocked(rules.onask).mock.calls[0]?.[0]).toEqual({
    list: '$.fares',
    place: '$.fares[*].amount',
    siblings: [{ place: '$.class', name: 'class', value: 'car' }],
    isNumber: true,
    keyed: false,
    isList: false,
  });
  // Where the list's items are rows, its values are plain columns.
  const rows = rulesOf('$.data[*]', { rowsFor: ['$.fares'] });
  expect(actions(amount, rows).map((one) => one.words)).toEqual([
    'make it a column',
    'one value for each record …',
  ]);
});

test('a list whose items are rows can be taken back', () => {
  const rules = rulesOf('$.data[*]', { rowsFor: ['$.fares'] });
  click(node(['data', 0, 'fares'], { kind: 'list', text: 'objects', size: 3 }), rules);
  expect(rules.onrows).toHaveBeenCalledWith('$.fares', false, false);
});

test('columns of a list are named by what was made of it', () => {
  expect(columnName('$.fares[*].amount', { by: 'where', place: '$.class', equals: 'car' })).toBe(
    'fares.amount, car',
  );
  expect(columnName('$.fares[*].amount', { by: 'sum' })).toBe('fares.amount, sum');
  expect(columnName('$.fares[*].amount', { by: 'joined', separator: ', ' })).toBe('fares.amount');
});
