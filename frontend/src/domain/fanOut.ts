/** “For each”: the ways to give a question its values, what a new one is, and each in words. */
import type { Brief, Each } from '../api/client';
import { relative } from './words/durations';
import { listWords } from './words/labels';

export type Edge = Extract<Each, { by: 'range' }>['start'];

export const WAYS: [Each['by'], string][] = [
  ['list', 'values of a list'],
  ['range', 'days, weeks, months'],
  ['column', 'a column of another table'],
  ['sheet', 'rows of a sheet'],
  ['parameter', 'values of a list parameter'],
];

/** What there is to take values from. */
export interface Offered {
  /** Names of the other queries that have a table. */
  queries: string[];
  sheets: { name: string; headings: string[] }[];
}

/** What a new one begins with. */
export function made(by: Each['by'], parameter: string, brief: Brief, offered: Offered): Each {
  const sheet = offered.sheets[0];
  switch (by) {
    case 'range':
      return {
        by,
        parameter,
        step: brief.parameters.find((one) => one.name === parameter)?.kind === 'month' ? 'month' : 'day',
        start: { anchor: 'today', offset: '-P6D' },
        end: { anchor: 'today', offset: 'P0D' },
      };
    case 'column':
      return { by, parameter, query: offered.queries[0] ?? '', column: '', first: false };
    case 'sheet':
      return { by, sheet: sheet?.name ?? '', with: { [parameter]: sheet?.headings[0] ?? '' } };
    case 'parameter':
      return { by, parameter };
    default:
      return { by: 'list', parameter, values: [] };
  }
}

export const labelOf = (brief: Brief, name: string): string =>
  brief.parameters.find((one) => one.name === name)?.label || name;

const edgeWords = (one: Edge): string =>
  typeof one === 'string' ? one : 'parameter' in one ? one.parameter : relative(one.anchor, one.offset);

/** "day, seven days ago – yesterday". */
export function eachWords(one: Each, brief: Brief): string {
  switch (one.by) {
    case 'list':
      return `${labelOf(brief, one.parameter)} of ${listWords(one.values)}`;
    case 'range':
      return `${one.step}, ${edgeWords(one.start)} – ${edgeWords(one.end)}`;
    case 'column':
      return `${one.column} of “${one.query}”`;
    case 'sheet':
      return `row of the sheet “${one.sheet}”`;
    default:
      return `value of ${labelOf(brief, one.parameter)}`;
  }
}

/** What the question is asked for, one and several: a day, days. */
export function eachNoun(each: Each[]): string {
  if (each.length > 1) return 'combination';
  return each[0]?.by === 'range' ? each[0].step : 'value';
}
