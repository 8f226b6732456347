import { expect, test } from 'vitest';
import type { Brief } from '../../../src/api/client';
import { changeWords } from '../../../src/domain/words/changes';

const column = (name: string, more: object = {}) => ({
  place: `$.${name}`,
  name,
  kind: null,
  unit: '',
  of: 'record',
  note: '',
  hidden: false,
  ...more,
});

const brief = {
  name: 'Fares',
  note: '',
  parameters: [{ name: 'day', kind: 'date', default: '2026-03-01' }],
  ask: { service: 's', method: 'GET', path: '/fares', query: [], headers: [] },
  each: [],
  pages: { by: 'none' },
  take: { records: '$.d[*]', rows_for: [], columns: [column('a'), column('b'), column('fee')] },
  look_up: [],
  work_out: [],
  show: [{ draw: 'figure' }],
  keep: { match: [], paused: false, schedule: null, answers: { runs: 3 } },
} as unknown as Brief;

const taking = (...columns: object[]) => ({ ...brief, take: { ...brief.take, columns } }) as unknown as Brief;
const keeping = (more: object) => ({ ...brief, keep: { ...brief.keep, ...more } }) as unknown as Brief;
const [a, b, fee] = [column('a'), column('b'), column('fee')];

test.each([
  ['renamed fee to charge', taking(a, b, column('fee', { name: 'charge' }))],
  ['removed fee', taking(a, b)],
  ['removed 2 columns', taking(a)],
  ['added c', taking(a, b, fee, column('c'))],
  ['added 2 columns', taking(a, b, fee, column('c'), column('d'))],
  ['reordered the columns', taking(fee, a, b)],
  ['hid fee', taking(a, b, column('fee', { hidden: true }))],
  ['read fee as decimal', taking(a, b, column('fee', { kind: 'decimal' }))],
  ['changed 2 columns', taking(column('a', { hidden: true }), column('b', { hidden: true }), fee)],
  ['changed the question', { ...brief, ask: { ...brief.ask, path: '/tariffs' } }],
  ['changed how pages are turned', { ...brief, pages: { by: 'number', parameter: 'page' } }],
  ['changed day', { ...brief, parameters: [{ ...brief.parameters[0], default: '2026-03-02' }] }],
  ['lookups: added port', { ...brief, look_up: [{ name: 'port' }] }],
  ['changed the match columns', keeping({ match: ['a'] })],
  ['changed the schedule', keeping({ schedule: { kind: 'every', every: 'PT1H' } })],
  ['paused the schedule', keeping({ paused: true })],
  ['changed how long answers are kept', keeping({ answers: { runs: 5 } })],
  ['changed how long snapshots stay', keeping({ snapshots: { days: 30 } })],
  ['changed what counts as the same', keeping({ alike: [{ by: 'text' }] })],
  ['changed which column is which', keeping({ renamed: [{ then: 'a', now: 'b' }] })],
  ['kept a chart', { ...brief, show: [{ draw: 'figure' }, { draw: 'spread' }] } as unknown as Brief],
  ['changed a chart', { ...brief, show: [{ draw: 'spread' }] } as unknown as Brief],
  ['kept a chart no more', { ...brief, show: [] } as unknown as Brief],
  ['renamed the query to Tariffs', { ...brief, name: 'Tariffs' }],
  ['changed the note', { ...brief, note: 'n' }],
  ['chose other rows', { ...brief, take: { ...brief.take, records: '$.e[*]' } }],
])('%s', (words, after) => {
  expect(changeWords(brief, after as unknown as Brief)).toBe(words);
});
