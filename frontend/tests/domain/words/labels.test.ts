import { expect, test } from 'vitest';
import type { Brief, Parameter } from '../../../src/api/client';
import { blank } from '../../../src/domain/parameters';
import {
  askNames,
  choiceLabel,
  defaultWords,
  givenWords,
  listWords,
  scheduleWords,
  templateNames,
  withParameters,
} from '../../../src/domain/words/labels';

test('schedules', () => {
  const missed = 'catch up';
  const keep = (schedule: Brief['keep']['schedule']): Brief['keep'] => ({
    answers: { runs: 3 },
    match: [],
    alike: [],
    renamed: [],
    paused: false,
    schedule,
  });
  expect(scheduleWords(keep(null))).toBe('only by hand');
  expect(scheduleWords(keep({ kind: 'every', every: 'PT1H', missed }))).toBe('every hour');
  expect(
    scheduleWords(keep({ kind: 'at', at: '07:30', also: [], days: [5, 4, 3, 2, 1], zone: 'UTC', missed })),
  ).toBe('each weekday at 07:30');
  expect(scheduleWords(keep({ kind: 'at', at: '07:30', also: [], days: [7, 6], zone: 'UTC', missed }))).toBe(
    'Sat, Sun at 07:30',
  );
  const weekdays = [1, 2, 3, 4, 5];
  expect(
    scheduleWords(keep({ kind: 'at', at: '13:00', also: ['07:30'], days: weekdays, zone: 'UTC', missed })),
  ).toBe('each weekday at 07:30, 13:00');
  const between = { start: '08:00', end: '18:00', days: weekdays, zone: 'UTC' };
  expect(scheduleWords(keep({ kind: 'every', every: 'PT10M', between, missed }))).toBe(
    'every 10 minutes, 08:00 to 18:00 on weekdays',
  );
  expect(scheduleWords(keep({ kind: 'monthly', at: '06:00', on: 'last working', zone: 'UTC', missed }))).toBe(
    'monthly on the last working day at 06:00',
  );
});

test('parameters', () => {
  const common = blank('p');
  const route: Parameter = {
    ...common,
    kind: 'choice',
    default: '007',
    choices: [{ code: '007', label: 'Oxnith' }],
  } as Parameter;
  expect(defaultWords(route)).toBe('Oxnith');
  expect(choiceLabel(route, '010')).toBe('010');
  expect(defaultWords(common)).toBe('no value yet');
  expect(defaultWords({ ...common, required: false })).toBe('left out');
});

test('names of a template', () => {
  expect(templateNames('/a/{b}/{+c}{?d,e*}')).toEqual(['b', 'c', 'd', 'e']);
  expect(templateNames('/a/b')).toEqual([]);
  expect(templateNames('/d/{day.year}/{day.month}')).toEqual(['day', 'day']);
});

test('a new name in the question becomes a parameter, once', () => {
  const brief = {
    ask: {
      service: 's',
      method: 'GET',
      path: '/p/{code}',
      query: [{ name: 'a', value: '{code} {from}' }],
      headers: [],
    },
    parameters: [{ kind: 'text', name: 'from', label: '', hint: '', required: true, default: 'x' }],
  } as unknown as Brief;
  expect(withParameters(brief).parameters.map((one) => one.name)).toEqual(['from', 'code']);
});

test('names in headers and bodies count, doubled braces do not', () => {
  const ask = {
    service: 's',
    method: 'POST',
    path: '/',
    query: [],
    headers: [{ name: 'X-{a}', value: 'for {b}' }],
    body: { kind: 'json', value: { c: '{c}', d: ['{{no}}', '{ query }', '{day.year}'] } },
  } as unknown as NonNullable<Brief['ask']>;
  expect(askNames(ask)).toEqual(['a', 'b', 'c', 'day']);
});

test('lists and dates in words', () => {
  expect(listWords(['a', 'b', 'c'])).toBe('a, b, c');
  expect(listWords(['a', 'b', 'c', 'd'])).toBe('a, b and 2 more');
  expect(defaultWords({ ...blank('p'), many: true, default: ['x', 'y'] } as Parameter)).toBe('x, y');
  const yes = { ...blank('p'), kind: 'yes/no', default: true } as Parameter;
  expect(defaultWords(yes)).toBe('yes');
  expect(givenWords(yes, 'false')).toBe('no');
});
