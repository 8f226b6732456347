import { describe, expect, test } from 'vitest';
import { amountOf, durationWords, isoOf, minutesOf, relative } from '../../../src/domain/words/durations';

describe('relative dates', () => {
  test.each([
    ['today', '-P7D', 'seven days ago'],
    ['today', 'P1W', 'in one week'],
    ['today', 'P0D', 'today'],
    ['today', '-P1D', 'yesterday'],
    ['now', '-PT6H', 'six hours ago'],
    ['start of month', '-P1M', 'one month before start of month'],
    ['today', '-P30D', '30 days ago'],
    ['today', 'P1Y2M', 'in one year and two months'],
    ['start of year', '-P1M15D', 'one month and 15 days before start of year'],
    ['today', 'soon', 'today soon'],
  ])('%s %s is %s', (anchor, offset, words) => expect(relative(anchor, offset)).toBe(words));
});

test('durations in words', () => {
  expect(['PT10M', 'PT1H', 'P1DT2H', 'P0D', 'soon'].map(durationWords)).toEqual([
    '10 minutes',
    'hour',
    '1 day 2 hours',
    'P0D',
    'soon',
  ]);
});

test('an amount and its unit', () => {
  expect(amountOf('PT10S')).toEqual({ amount: 10, unit: 'TS', negative: false });
  expect(amountOf('-P2W')).toEqual({ amount: 2, unit: 'W', negative: true });
  // Several units are one amount where all of them are always as long.
  expect(amountOf('PT1H30M')).toEqual({ amount: 90, unit: 'TM', negative: false });
  expect([amountOf('P1M15D'), amountOf('soon')]).toEqual([null, null]);
  expect([minutesOf('PT10M'), minutesOf('PT1H'), minutesOf('P1DT2H'), minutesOf('P1M')]).toEqual([
    10,
    60,
    1560,
    null,
  ]);
});

test.each(['P7D', '-P7D', 'P2W', '-P1M', 'P3Y', 'PT6H', '-PT5M', 'PT1S', 'P0D'])(
  '%s is written as it was',
  (iso) => {
    const found = amountOf(iso);
    expect(found && isoOf(found.amount, found.unit, found.negative)).toBe(iso);
  },
);
