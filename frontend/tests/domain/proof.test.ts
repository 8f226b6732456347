import { describe, expect, it } from 'vitest';
import type { Brief, Finding, Snapshot } from '../../src/api/client';
import {
  acceptedFinding,
  asOneAnswer,
  callsWords,
  careWords,
  sentWords,
  stateWords,
  today,
} from '../../src/domain/words/proof';

const brief = { name: 'q', pages: { by: 'none', total: '$.total' } } as Brief;
const snapshot = (state: string): Snapshot => ({ state }) as Snapshot;

describe('whether a table is whole', () => {
  it('is said with its evidence', () => {
    expect(stateWords('complete', 'page 4 is empty')).toBe('complete: page 4 is empty');
    expect(stateWords('incomplete', '')).toBe('incomplete');
  });

  it('is warned of in a comparison, of whichever table it is doubtful', () => {
    expect(careWords(snapshot('complete'), snapshot('complete'))).toBe('');
    expect(careWords(snapshot('unverified'), snapshot('complete'))).toBe(
      'the earlier table is unverified, so rows may only seem new or gone.',
    );
    expect(careWords(snapshot('unverified'), snapshot('incomplete'))).toBe(
      'the earlier table is unverified, and the later table is incomplete, so rows may only seem new or gone.',
    );
  });

  it('costs calls to find out', () => {
    expect(callsWords(1)).toBe('up to 1 call');
    expect(callsWords(6)).toBe('up to 6 calls');
  });

  it('shows the first few names of what was tried', () => {
    expect(sentWords({ page: '2', limit: '1' })).toBe('page = 2, limit = 1');
    expect(sentWords({ a: '1', b: '2', c: '3', d: '4' })).toBe('a = 1, b = 2, c = 3 and 1 more');
    expect(sentWords({ 'page 2': '' })).toBe('page 2');
    expect(sentWords({})).toBe('the same call again');
  });

  it('may be said by a person, with the date', () => {
    expect(today(new Date(2026, 10, 2))).toBe('2026-11-02');
    const said = asOneAnswer(brief, 7, '2026-11-02', ['$.count']);
    expect(said.pages).toEqual({
      by: 'none',
      total: null,
      said: { on: '2026-11-02', rows: 7, apart: ['$.count'] },
    });
    expect(brief.pages.total).toBe('$.total');
  });

  it('takes over the way that was found, where one was', () => {
    expect(acceptedFinding(brief, { pages: null } as Finding)).toBeNull();
    const found = { pages: { by: 'number', parameter: 'page' } } as unknown as Finding;
    expect(acceptedFinding(brief, found)!.pages.by).toBe('number');
  });
});
