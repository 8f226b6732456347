import { expect, test } from 'vitest';
import type { QueryLine } from '../../src/api/client';
import { linesWith } from '../../src/domain/desk';

const line = (id: number, name: string, note: string, service: string) =>
  ({ id, name, note, service }) as QueryLine;
const lines = [
  line(1, 'Fares, week ahead', 'for the board', 'Operations'),
  line(2, 'Ports', '', 'Operations'),
  line(3, 'Tides', '', 'Register'),
];
const found = (text: string) => linesWith(lines, text).map((one) => one.id);

test('a line is found by any words of its name, note or service', () => {
  expect(found('')).toEqual([1, 2, 3]);
  expect(found('  ')).toEqual([1, 2, 3]);
  expect(found('OPER')).toEqual([1, 2]);
  expect(found('week fares')).toEqual([1]);
  expect(found('board operations')).toEqual([1]);
  expect(found('tides operations')).toEqual([]);
});
