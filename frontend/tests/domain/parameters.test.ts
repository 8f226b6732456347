import { expect, test } from 'vitest';
import type { Brief, Parameter } from '../../src/api/client';
import {
  blank,
  builtOf,
  changeableParts,
  choicesOf,
  editOf,
  givenOf,
  parameterFrom,
} from '../../src/domain/parameters';

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

test('a value of a question becomes a parameter of its kind, under a free name', () => {
  expect(parameterFrom('page size', 50, new Set())).toMatchObject({
    name: 'page_size',
    kind: 'whole number',
    default: 50,
  });
  expect(parameterFrom('from', '2026-11-01', new Set(['from']))).toMatchObject({
    name: 'from_2',
    kind: 'date',
  });
  expect(parameterFrom('7', ['a', 'b'], new Set())).toMatchObject({
    name: 'p_7',
    many: true,
    default: ['a', 'b'],
  });
});

test('each part of an address that is the same in every call can become a parameter', () => {
  const brief = {
    parameters: [blank('day')],
    ask: {
      path: '/ports/007/berths',
      query: [
        { name: 'day', value: '{day}' },
        { name: 'kind', value: 'car' },
        { name: 'bare', value: null },
      ],
    },
  } as unknown as Brief;
  const parts = changeableParts(brief);
  expect(parts.map((part) => part.words)).toEqual([
    'kind = car',
    'berths in /ports/007/berths',
    '007 in /ports/007/berths',
    'ports in /ports/007/berths',
  ]);
  const made = parts[2]?.make(brief);
  expect(made?.name).toBe('port');
  expect(made?.brief.ask?.path).toBe('/ports/{port}/berths');
  expect(made?.brief.parameters.map((one) => one.default)).toEqual([null, '007']);
  expect(parts[0]?.make(brief).brief.ask?.query[1]).toEqual({ name: 'kind', value: '{kind}' });
});
