import { expect, test } from 'vitest';
import type { Brief, Preview } from '../../src/api/client';
import { stepOf } from '../../src/query/steps';

const brief = (pages: object = { by: 'none' }, take: object = { records: '$', rows_for: [] }) =>
  ({ pages, take, sheet: null }) as unknown as Brief;
const preview = (more: object) =>
  ({ problem: null, proof: { state: 'unverified' }, records_guesses: [], ...more }) as unknown as Preview;
const guess = { path: '$.data[*]', rows_for: [] };

test('a new query is looked at first, and again after an error', () => {
  expect(stepOf(brief(), null)).toBe('look');
  expect(stepOf(brief(), preview({ problem: { kind: 'key-refused' } }))).toBe('look');
});

test('pages come before rows, rows before the refresh', () => {
  const seen = preview({ records_guesses: [{ path: '$', rows_for: [] }, guess] });
  expect(stepOf(brief(), seen)).toBe('pages');
  expect(stepOf(brief({ by: 'number' }), seen)).toBe('rows');
  expect(stepOf(brief({ by: 'none', said: { on: '2026-11-25' } }), seen)).toBe('rows');
  expect(stepOf(brief({ by: 'number' }, { records: '$.data[*]', rows_for: [] }), seen)).toBe('refresh');
});

test('parallel lists of the whole answer are rows that were found', () => {
  const seen = preview({
    proof: { state: 'complete' },
    records_guesses: [{ path: '$', rows_for: ['$.a', '$.b'] }],
  });
  expect(stepOf(brief(), seen)).toBe('rows');
});

test('a sheet has neither', () => {
  expect(stepOf({ ...brief(), sheet: { sheet: 'Ports' } } as unknown as Brief, null)).toBe('refresh');
});
