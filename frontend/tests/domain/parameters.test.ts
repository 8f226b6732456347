import { expect, test } from 'vitest';
import type { Parameter } from '../../src/api/client';
import { blank, builtOf, choicesOf, editOf, givenOf } from '../../src/domain/parameters';

const dated = { format: 'iso', zone: '' };
const SAMPLES: Parameter[] = [
  { ...blank('t'), default: 'x' } as Parameter,
  { ...blank('t'), default: null, required: false, ask: true, label: 'L', hint: 'H' },
  { ...blank('n'), kind: 'whole number', default: 7 },
  { ...blank('d'), kind: 'decimal', default: 2.5 },
  { ...blank('y'), kind: 'yes/no', default: false, yes: 'Y', no: 'N' },
  { ...blank('l'), many: true, send: 'repeated', default: ['a', 'b'] } as Parameter,
  { ...blank('w'), kind: 'whole number', many: true, send: 'json', default: [1, 2] } as Parameter,
  { ...blank('c'), kind: 'choice', choices: [{ code: '1', label: 'one' }], default: '1' } as Parameter,
  {
    ...blank('c'),
    kind: 'choice',
    choices: [],
    choices_from: { query: 'Ports', code: 'code', label: 'name' },
    default: '007',
  } as Parameter,
  { ...blank('a'), ...dated, kind: 'date', default: '2026-11-25' },
  {
    ...blank('a'),
    ...dated,
    kind: 'date',
    default: { anchor: 'start of month', offset: '-P7D' },
  } as Parameter,
  {
    ...blank('a'),
    kind: 'date',
    format: '%d.%m.%Y',
    zone: 'UTC',
    default: { anchor: 'today', offset: 'P2W' },
  } as Parameter,
  {
    ...blank('a'),
    ...dated,
    kind: 'date',
    default: { anchor: 'today', offset: '-P1M15D' },
  } as Parameter,
  { ...blank('m'), ...dated, kind: 'month', default: '2026-11' },
  {
    ...blank('s'),
    ...dated,
    kind: 'date and time',
    default: { anchor: 'now', offset: '-PT6H' },
  } as Parameter,
  {
    ...blank('s'),
    ...dated,
    kind: 'date',
    default: { anchor: 'last refresh', offset: 'P0D', first: '2026-01-01' },
  } as Parameter,
];

test.each(SAMPLES.map((one) => [one.kind, one] as const))(
  'a %s edited and built is the same',
  (_, parameter) => {
    const built = builtOf(
      editOf(parameter, undefined, parameter.many ? (parameter.default as string[]) : null),
    );
    const without = (one: Parameter) =>
      Object.fromEntries(Object.entries(one).filter(([, value]) => value !== null));
    expect(without(built)).toEqual(without(parameter));
  },
);

test('a value for now is edited in place of the default', () => {
  const edit = editOf(SAMPLES[10] as Parameter, '2026-12-24', '2026-11-01');
  expect([edit.moves, edit.text]).toEqual([false, '2026-12-24']);
  expect(givenOf(edit)).toBe('2026-12-24');
  expect(givenOf(editOf(SAMPLES[5] as Parameter, ['x', 'y'], null))).toEqual(['x', 'y']);
});

test('choices are pasted with tabs or semicolons', () => {
  expect(choicesOf('007\tOxnith\n010; Little Brae\n\n  \nx')).toEqual([
    { code: '007', label: 'Oxnith' },
    { code: '010', label: 'Little Brae' },
    { code: 'x', label: '' },
  ]);
});
