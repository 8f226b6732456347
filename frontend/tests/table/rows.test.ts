import { expect, test, vi } from 'vitest';
import { RowSource } from '../../src/table/rows.svelte';

const settled = () => new Promise((resolve) => setTimeout(resolve));
const numbers = (start: number, count: number) => Array.from({ length: count }, (_, at) => start + at);

test('windows are asked for once, and only those that are wanted', async () => {
  const load = vi.fn(async (start: number, count: number) => numbers(start, count));
  const source = new RowSource<number>(100_000, load);
  source.want(150, 420);
  source.want(150, 420);
  expect(load.mock.calls).toEqual([
    [0, 200],
    [200, 200],
    [400, 200],
  ]);
  expect(source.at(205)).toBeUndefined();
  await settled();
  expect([source.at(0), source.at(205), source.at(599)]).toEqual([0, 205, 599]);
  expect(source.at(600)).toBeUndefined();
  expect(source.sample(3)).toEqual([0, 1, 2]);
});

test('nothing is asked for beyond the end', () => {
  const load = vi.fn(async () => []);
  new RowSource(150, load).want(0, 900);
  expect(load).toHaveBeenCalledTimes(1);
});

test('a window that failed is asked for again', async () => {
  let works = false;
  const load = vi.fn(async (start: number, count: number) => {
    if (!works) throw new Error('away');
    return numbers(start, count);
  });
  const source = new RowSource<number>(10, load);
  source.want(0, 9);
  await settled();
  expect(source.failed).toBeInstanceOf(Error);
  works = true;
  source.want(0, 9);
  await settled();
  expect(source.at(9)).toBe(9);
  expect(source.failed).toBeNull();
});

test('what is far away is forgotten, the first window never', async () => {
  const source = new RowSource<number>(1_000_000, async (start, count) => numbers(start, count));
  source.want(0, 1);
  for (let at = 0; at < 100; at++) {
    source.want(at * 5_000, at * 5_000 + 1);
    await settled();
  }
  expect(source.at(0)).toBe(0);
  expect(source.at(495_000)).toBe(495_000);
  expect(source.at(5_000)).toBeUndefined();
});
