import { describe, expect, it } from 'vitest';
import { typedDate } from '../../src/domain/typedDate';

// A Friday.
const NOW = new Date(2026, 10, 27, 10, 30);
const at = (text: string): string => {
  const found = typedDate(text, NOW);
  if ('fault' in found) return found.fault;
  const moment = new Date(found.moment + 1);
  const pad = (value: number): string => String(value).padStart(2, '0');
  return `${moment.getFullYear()}-${pad(moment.getMonth() + 1)}-${pad(moment.getDate())} ${pad(moment.getHours())}:${pad(moment.getMinutes())}`;
};

describe('a date as it is typed', () => {
  it.each([
    ['1 October', '2026-10-02 00:00'],
    ['1 oct', '2026-10-02 00:00'],
    ['Oct 1st', '2026-10-02 00:00'],
    ['Thu 1 Oct 2026', '2026-10-02 00:00'],
    ['1.10.', '2026-10-02 00:00'],
    ['1.10.2025', '2025-10-02 00:00'],
    ['2026-10-01', '2026-10-02 00:00'],
    ['before 1 October', '2026-10-01 00:00'],
    ['the last before 2026-10-01', '2026-10-01 00:00'],
    ['1 Oct 06:00', '2026-10-01 06:01'],
    ['1 Oct at 6:05', '2026-10-01 06:06'],
    ['before 1 Oct 06:00', '2026-10-01 06:00'],
    ['2026-10-01 06:00', '2026-10-01 06:01'],
    ['2026-10-01T06:00:59', '2026-10-01 06:01'],
    ['today', '2026-11-28 00:00'],
    ['yesterday', '2026-11-27 00:00'],
    ['yesterday 07:30', '2026-11-26 07:31'],
    ['3 weeks ago', '2026-11-07 00:00'],
    ['a month ago', '2026-10-28 00:00'],
    ['friday', '2026-11-28 00:00'],
    ['last friday', '2026-11-21 00:00'],
    ['mon', '2026-11-24 00:00'],
    ['October', '2026-11-01 00:00'],
    ['before october', '2026-10-01 00:00'],
    ['2025', '2026-01-01 00:00'],
    ['2026-09', '2026-10-01 00:00'],
    // A day or a month that is still to come this year is that of the last one.
    ['24 December', '2025-12-25 00:00'],
    ['December', '2026-01-01 00:00'],
    ['29 Feb 2024', '2024-03-01 00:00'],
  ])('reads “%s”', (text, wanted) => {
    expect(at(text)).toBe(wanted);
  });

  it('takes the last day of a shorter month', () => {
    const found = typedDate('1 month ago', new Date(2026, 2, 31));
    expect(found).toEqual({ moment: new Date(2026, 2, 1).getTime() - 1 });
  });

  it.each(['', 'before', 'soon', '31 June', '29 Feb 2026', '1 Oct 25:00', 'October 07:00', '2026-13-01'])(
    'says what to write for “%s”',
    (text) => {
      expect(at(text)).toContain('Write 1 October');
    },
  );

  it('does not guess which number is the month', () => {
    expect(at('1/10/2026')).toContain('can be two dates');
  });
});
