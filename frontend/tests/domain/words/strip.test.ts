import { describe, expect, it } from 'vitest';
import type { Tile } from '../../../src/api/client';
import { windowWords } from '../../../src/domain/limits';
import { costWords, grouped, oddWords, remaining, statesWords } from '../../../src/domain/words/strip';

const tile = (number: number, state: Tile['state'] = 'answered'): Tile => ({
  number,
  stage: 'pages',
  label: `page ${number}`,
  state,
  status: 200,
  ms: 5,
  records: 1,
});

describe('the call strip', () => {
  it('puts very many calls together without losing one', () => {
    const tiles = Array.from({ length: 30_000 }, (_, at) => tile(at + 1, at === 777 ? 'failed' : 'answered'));
    const groups = grouped(tiles, 90);
    expect(groups.length).toBeLessThanOrEqual(90);
    expect(groups.reduce((sum, group) => sum + group.size, 0)).toBe(30_000);
    const alarmed = groups.filter((group) => group.states.failed);
    expect(alarmed).toHaveLength(1);
    expect(alarmed[0]?.shown.number).toBe(778);
  });

  it('leaves a few as they are', () => {
    expect(grouped([tile(1), tile(2, 'again')], 90).map((group) => group.size)).toEqual([1, 1]);
    expect(grouped([], 90)).toEqual([]);
  });

  it('says how calls ended', () => {
    expect(statesWords({ answered: 298, failed: 2 })).toBe('298 answered, 2 failed');
    expect(oddWords([tile(1), tile(2, 'saved'), tile(3, 'again')])).toBe('1 from saved answers, 1 retried');
  });

  it('says how long it still takes, and what a refresh costs', () => {
    expect([remaining(3.2), remaining(125), remaining(12_000), remaining(-1)]).toEqual([
      '4 s',
      '2 min 5 s',
      '3 h 20 min',
      '0 s',
    ]);
    expect(costWords({ calls: 1860, seconds: 1860, waits: 1700, why: '300 calls in 5 minutes' })).toBe(
      'a refresh makes about 1,860 calls, 31 min 0 s, of it 28 min 20 s waiting for 300 calls in 5 minutes',
    );
    expect(costWords({ calls: null, seconds: null, waits: 0, why: '' })).toBe('');
  });
});

describe('limits', () => {
  it('are told in words', () => {
    const window = { calls: 5000, per: 'P1D', starts: 'calendar', zone: 'UTC', of: 'service' } as const;
    expect(windowWords(window)).toBe('5,000 calls a day from midnight, UTC');
    expect(windowWords({ ...window, calls: 90, per: 'PT10S', starts: 'any time' })).toBe(
      '90 calls in 10 seconds',
    );
    expect(windowWords({ ...window, calls: 1, per: 'PT1H', starts: 'any time' })).toBe('1 call an hour');
  });
});
