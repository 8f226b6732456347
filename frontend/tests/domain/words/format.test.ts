import { describe, expect, test } from 'vitest';
import type { Run, RunReport } from '../../../src/api/client';
import {
  bytes,
  cellText,
  count,
  counted,
  day,
  digitsOf,
  signed,
  span,
  when,
  whyEnded,
} from '../../../src/domain/words/format';

const now = new Date('2026-11-25T12:00:00');

describe('moments', () => {
  test.each([
    ['2026-11-25T07:30:00', '07:30 today'],
    ['2026-11-24T23:59:00', 'yesterday 23:59'],
    ['2026-11-26T00:01:00', 'tomorrow 00:01'],
    ['2026-11-21T07:30:00', 'Sat 07:30'],
    ['2026-11-02T07:30:00', 'Mon 2 Nov'],
    ['2025-11-02T07:30:00', 'Sun 2 Nov 2025'],
  ])('%s is %s', (iso, words) => expect(when(iso, now)).toBe(words));

  test('a date without a time is that date everywhere', () =>
    expect(day('2026-11-02', now)).toBe('Mon 2 Nov'));

  test('lengths of time', () => {
    expect(span(182)).toBe('182 ms');
    expect(span(3_250)).toBe('3.3 s');
    expect(span(125_000)).toBe('2 min 5 s');
  });
});

describe('numbers', () => {
  test('counts', () => {
    expect(count(1284)).toBe('1,284');
    expect(counted(1, 'row')).toBe('1 row');
    expect(counted(2, 'query', 'queries')).toBe('2 queries');
    expect(bytes(48_213)).toBe('48 kB');
  });

  test('differences carry their sign', () => {
    expect(signed(1.75)).toBe('+1.75');
    expect(signed(-2, 0)).toBe('−2');
  });
});

const ended = (gaps: string[], stop: string | null): Pick<Run, 'report' | 'stop'> => ({
  report: { gaps, drift: null } as unknown as RunReport,
  stop,
});

test('a run says what its table lacks before what stopped it', () => {
  expect(whyEnded(ended(['25 of 118 stated rows are here', 'x'], 'one call'))).toBe(
    '25 of 118 stated rows are here; x',
  );
  expect(whyEnded(ended([], 'one call'))).toBe('one call');
  expect(whyEnded(ended([], null))).toBe('');
});

describe('cells', () => {
  const text = { kind: 'text' } as const;
  test('codes and long ids are left as they are', () => {
    expect(cellText('007', text)).toBe('007');
    expect(cellText('4611686018427387905', { kind: 'whole number' })).toBe('4611686018427387905');
  });

  test('decimals get the digits of their column', () => {
    expect(digitsOf([40, 40.25, null, 1e-9])).toBe(2);
    expect(cellText(40, { kind: 'decimal' }, 2)).toBe('40.00');
    expect(cellText(-3, { kind: 'whole number' })).toBe('−3');
  });

  test('dates are read in UTC and what is none stays', () => {
    expect(cellText('2026-11-23T06:10:00Z', { kind: 'date and time' })).toBe('Mon 23 Nov 06:10');
    expect(cellText('soon', { kind: 'date and time' })).toBe('soon');
  });

  test('misses say why, empty cells nothing', () => {
    expect(cellText({ miss: 'none', words: 'not there' }, text)).toBe('not there');
    expect(cellText(null, text)).toBe('');
    expect(cellText(false, { kind: 'yes/no' })).toBe('no');
  });
});
