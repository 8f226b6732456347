/** Figures of a text while it is written, and what a text calls them. */
import { describe, expect, it } from 'vitest';
import type { FigureNow } from '../../src/api/client';
import { NO_FACTS, pieceOf, type Facts } from '../../src/reports/chips';
import { renamed } from '../../src/reports/reportStore.svelte';

const figure = (more: Partial<FigureNow>): FigureNow => ({
  name: 'late sailings, in %',
  query_id: 1,
  query: 'Sailings',
  words: '29.6 %',
  parts: { change: '3.1 points more', then: '26.5 %' },
  why: '',
  ...more,
});
const facts: Facts = {
  figures: new Map([['late sailings, in %', figure({})]]),
  asOf: '25 November',
  against: '18 November',
};

describe('a figure in a text', () => {
  it('stands as what it is, whatever its case', () => {
    expect(pieceOf('Late sailings, in %', facts)).toEqual({
      words: '29.6 %',
      look: 'fig',
      name: 'late sailings, in %',
    });
    expect(pieceOf('late sailings, in %: change', facts).words).toBe('3.1 points more');
    expect(pieceOf('late sailings, in %: then', facts).look).toBe('then');
    expect(pieceOf('as of', facts).words).toBe('25 November');
    expect(pieceOf('against', facts).words).toBe('18 November');
  });

  it('is marked where there is none, and never stands as an old one', () => {
    expect(pieceOf('nothing', facts)).toEqual({ words: 'nothing', look: 'fig missing', name: 'nothing' });
    expect(pieceOf('late sailings, in %: colour', facts).look).toBe('fig missing');
    const gone: Facts = { ...facts, figures: new Map([['late', figure({ name: 'late', why: 'gone' })]]) };
    expect(pieceOf('late', gone)).toEqual({ words: 'late: missing', look: 'fig missing', name: 'late' });
    expect(pieceOf('late', NO_FACTS).look).toBe('fig missing');
  });

  it('is told apart from what holds a sentence back', () => {
    expect(pieceOf('when late above 3', facts).look).toBe('rule');
    expect(pieceOf('end', facts).look).toBe('rule');
  });
});

describe('a figure that has another name', () => {
  it('is called by it everywhere, and no other one is', () => {
    const text =
      '{late} {Late: change} {late again} {when late above 3}x{end} {when late: change > 1}y{end} \\{late}';
    expect(renamed(text, 'late', 'tardy')).toBe(
      '{tardy} {tardy: change} {late again} {when tardy above 3}x{end} {when tardy: change > 1}y{end} \\{late}',
    );
  });
});
