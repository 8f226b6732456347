import { expect, test, vi } from 'vitest';
import type { AnswerNode, Nodes } from '../../src/api/client';
import { parsePlace } from '../../src/domain/jsonpath';
import { AnswerTree } from '../../src/answers/tree.svelte';

type Value = unknown;
const kindOf = (value: Value): string =>
  value === null ? 'null' : Array.isArray(value) ? 'list' : typeof value === 'object' ? 'object' : 'text';
const sizeOf = (value: Value): number => (value && typeof value === 'object' ? Object.keys(value).length : 0);
const info = (name: string | number | null, value: Value): AnswerNode => ({
  name,
  kind: kindOf(value),
  size: sizeOf(value),
  text: String(value),
});

function serve(document: Value) {
  return vi.fn(async (pointer: string, start: number, count: number): Promise<Nodes> => {
    let value = document;
    for (const step of pointer.split('/').slice(1)) value = (value as Record<string, Value>)[step];
    const entries = Object.entries(value as object).map(([name, item]) =>
      info(Array.isArray(value) ? Number(name) : name, item),
    );
    return { node: info(null, value), start, children: entries.slice(start, start + count) };
  });
}

const items = Array.from({ length: 1000 }, (_, at) => ({ id: `SK-${at}`, port: { code: '007' } }));
const settled = () => new Promise((resolve) => setTimeout(resolve));

test('the way to the records is open, and what is out of sight is not fetched', async () => {
  const load = serve({ meta: { page: 1 }, data: items });
  const tree = new AnswerTree(load, vi.fn());
  await tree.begin(parsePlace('$.data[*]'));
  // The answer, meta, data, its 1,000 items, the two members of the first and the one of its port.
  expect(tree.rows).toBe(1 + 2 + 1000 + 2 + 1);
  expect(tree.at(3)?.steps).toEqual(['data', 0]);
  expect(tree.at(4)?.steps).toEqual(['data', 0, 'id']);
  expect(tree.at(6)?.steps).toEqual(['data', 0, 'port', 'code']);
  expect(tree.at(7)?.steps).toEqual(['data', 1]);
  expect(load).toHaveBeenCalledTimes(4);
  expect(tree.at(900)).toBeNull();
  await settled();
  expect(tree.at(900)?.steps).toEqual(['data', 894]);
  expect(load).toHaveBeenCalledTimes(5);
});

test('closing and opening moves what stands below', async () => {
  const tree = new AnswerTree(serve({ a: { b: 1, c: 2 }, d: 3 }), vi.fn());
  await tree.begin(null);
  const a = tree.at(1);
  if (!a) throw new Error('no row');
  if (a.open) await tree.toggle(a);
  expect(tree.at(2)?.steps).toEqual(['d']);
  await tree.toggle(a);
  expect([tree.at(2)?.steps, tree.at(4)?.steps]).toEqual([['a', 'b'], ['d']]);
  expect(tree.rowOf(tree.at(4) as never)).toBe(4);
});

test('a find is opened and brought to its row; the next one follows, and the first after the last', async () => {
  const look = vi.fn(async () => ({
    total: 2,
    found: [
      { steps: ['data', 730, 'port', 'code'], what: 'value', text: '007' },
      { steps: ['data', 0, 'id'], what: 'value', text: 'SK-0' },
    ],
  }));
  const tree = new AnswerTree(serve({ data: items }), look);
  await tree.begin(null);
  const row = await tree.search('007');
  expect(tree.at(row ?? -1)?.steps).toEqual(['data', 730, 'port', 'code']);
  const next = await tree.step(1);
  expect(tree.at(next ?? -1)?.steps).toEqual(['data', 0, 'id']);
  expect(await tree.step(1)).toBe(tree.rowOfDrawn(['data', 730, 'port', 'code']));
  expect(await tree.search(' ')).toBeNull();
  expect(tree.found).toBeNull();
});

test('what goes wrong is kept, to be said', async () => {
  const tree = new AnswerTree(vi.fn().mockRejectedValue(new Error('gone')), vi.fn());
  await tree.begin(null);
  expect(tree.problem).toBeInstanceOf(Error);
  expect(tree.rows).toBe(0);
});
