/** Editing a parameter: its settings as the fields of a form, and the fields as a parameter again. */
import { wholeOf } from '../api/json';
import type { Given, Parameter } from '../api/client';

export type ParameterKind = Parameter['kind'];
export type Anchor =
  | 'now'
  | 'today'
  | 'start of week'
  | 'start of month'
  | 'start of quarter'
  | 'start of year'
  | 'last refresh';

export const KINDS: [ParameterKind, string][] = [
  ['text', 'text'],
  ['whole number', 'whole number'],
  ['decimal', 'number'],
  ['yes/no', 'yes or no'],
  ['choice', 'choice of codes'],
  ['date', 'date'],
  ['date and time', 'date and time'],
  ['month', 'month'],
];
export const FORMATS: [string, string][] = [
  ['iso', 'as ISO 8601'],
  ['epoch seconds', 'seconds since 1970'],
  ['epoch milliseconds', 'milliseconds since 1970'],
  ['pattern', 'by a pattern'],
];

/** The fields of the form. `text` holds one value a line where it is a list. */
export interface Edit {
  name: string;
  label: string;
  hint: string;
  required: boolean;
  ask: boolean;
  kind: ParameterKind;
  many: boolean;
  send: 'joined' | 'repeated' | 'json';
  separator: string;
  text: string;
  moves: boolean;
  anchor: Anchor;
  amount: number;
  unit: string;
  direction: '-' | '+';
  first: string;
  format: string;
  pattern: string;
  zone: string;
  choices: string;
  fromQuery: string;
  fromCode: string;
  fromLabel: string;
  yes: string;
  no: string;
}

/** A text parameter that has nothing set. */
export function blank(name: string): Parameter {
  return {
    kind: 'text',
    name,
    label: '',
    hint: '',
    required: true,
    ask: false,
    many: false,
    send: 'joined',
    separator: ',',
    default: null,
  };
}

const isDated = (kind: ParameterKind): boolean =>
  kind === 'date' || kind === 'date and time' || kind === 'month';

/** "2026-11-25T07:30:00+01:00" → what an input of that kind takes. */
function forInput(kind: ParameterKind, text: string): string {
  return kind === 'date and time' ? text.slice(0, 16) : text;
}

/** Lines → the values of a list. */
export function lines(text: string): string[] {
  return text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean);
}

export function editOf(parameter: Parameter, given: Given | undefined, today: Given | undefined): Edit {
  const value = parameter.default;
  const moves = !!value && typeof value === 'object' && !Array.isArray(value) && given === undefined;
  const offset = /^([+-]?)P(T?)(\d+)([DWMYH])$/.exec(moves ? value.offset : '');
  const plain = given ?? (Array.isArray(value) || moves ? today : (value ?? ''));
  const text = Array.isArray(plain)
    ? plain.join('\n')
    : plain === null || plain === undefined || typeof plain === 'object'
      ? String(today ?? '')
      : String(plain);
  const dated = parameter as { format?: string; zone?: string };
  const format = dated.format ?? 'iso';
  const known = FORMATS.some(([one]) => one === format);
  const source = parameter.kind === 'choice' ? parameter.choices_from : null;
  return {
    name: parameter.name,
    label: parameter.label,
    hint: parameter.hint,
    required: parameter.required,
    ask: parameter.ask,
    kind: parameter.kind,
    many: parameter.many,
    send: parameter.send,
    separator: parameter.separator,
    text: isDated(parameter.kind) && !parameter.many ? forInput(parameter.kind, text) : text,
    moves,
    anchor: moves ? (value.anchor as Anchor) : parameter.kind === 'date and time' ? 'now' : 'today',
    amount: Number(offset?.[3] ?? 0),
    unit: (offset?.[2] ?? '') + (offset?.[4] ?? 'D'),
    direction: offset && offset[1] !== '-' ? '+' : '-',
    first: (moves && value.first) || '',
    format: known ? format : 'pattern',
    pattern: known ? '%d.%m.%Y' : format,
    zone: dated.zone ?? '',
    choices:
      parameter.kind === 'choice'
        ? parameter.choices.map((one) => (one.label ? `${one.code}\t${one.label}` : one.code)).join('\n')
        : '',
    fromQuery: source?.query ?? '',
    fromCode: source?.code ?? '',
    fromLabel: source?.label ?? '',
    yes: parameter.kind === 'yes/no' ? parameter.yes : 'true',
    no: parameter.kind === 'yes/no' ? parameter.no : 'false',
  };
}

/** The ISO 8601 duration of the form's amount, unit and direction. */
export function offsetOf(edit: Edit): string {
  const time = edit.unit.startsWith('T') ? 'T' : '';
  return `${edit.direction === '-' && edit.amount ? '-' : ''}P${time}${edit.amount || 0}${edit.unit.replace('T', '')}`;
}

/** The value to use for the next call alone. */
export function givenOf(edit: Edit): Given {
  return edit.many ? lines(edit.text) : edit.text;
}

function one(edit: Edit, text: string): unknown {
  if (text.trim() === '' && (edit.kind === 'whole number' || edit.kind === 'decimal')) return null;
  if (edit.kind === 'whole number') return wholeOf(text) ?? Number(text);
  if (edit.kind === 'decimal') return Number(text);
  if (edit.kind === 'yes/no') return text === 'true';
  return text;
}

function defaultOf(edit: Edit): unknown {
  if (isDated(edit.kind) && edit.moves) {
    const first = edit.anchor === 'last refresh' && edit.first ? { first: edit.first } : {};
    return { anchor: edit.anchor, offset: offsetOf(edit), ...first };
  }
  if (edit.many) {
    const values = lines(edit.text).map((text) => one(edit, text));
    return values.length ? values : null;
  }
  return edit.text.trim() === '' ? null : one(edit, edit.text);
}

/** Pasted choices: a code a line, behind a tab or a semicolon its label. */
export function choicesOf(text: string): { code: string; label: string }[] {
  return text
    .split('\n')
    .map((line) => line.split(/\t|;/))
    .filter(([code]) => code?.trim())
    .map(([code, ...words]) => ({ code: (code ?? '').trim(), label: words.join(' ').trim() }));
}

export function builtOf(edit: Edit): Parameter {
  const { name, label, hint, required, ask, kind, many, send, separator } = edit;
  const common = { name, label, hint, required, ask, kind, many, send, separator, default: defaultOf(edit) };
  if (isDated(kind)) {
    const format = edit.format === 'pattern' ? edit.pattern : edit.format;
    return { ...common, format, zone: edit.zone } as Parameter;
  }
  if (kind === 'choice') {
    const from = edit.fromQuery
      ? { query: edit.fromQuery, code: edit.fromCode, label: edit.fromLabel }
      : null;
    const choices = from ? [] : choicesOf(edit.choices);
    if (!from)
      for (const code of many ? lines(edit.text) : [edit.text])
        if (code && !choices.some((choice) => choice.code === code)) choices.push({ code, label: '' });
    return { ...common, choices, choices_from: from } as Parameter;
  }
  if (kind === 'yes/no') return { ...common, yes: edit.yes, no: edit.no } as Parameter;
  return common as Parameter;
}
