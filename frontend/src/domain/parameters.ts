/** Editing a parameter: its settings as the fields of a form, and the fields as a parameter again. */
import { wholeOf } from '../api/json';
import type { Ask, Brief, Given, Parameter, Schemas } from '../api/client';
import { choices, entryOf, type Values } from './choices';
import { kindOf as jsonKindOf, type Json } from './jsontree';

export type ParameterKind = Parameter['kind'];

/** A kind's entry in the server's registry. */
export const kindOf = (kind: ParameterKind): Schemas['ParameterKindInfo'] =>
  entryOf(choices().parameters, kind);

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
  anchor: string;
  offset: string;
  first: string;
  format: string;
  pattern: string;
  choices: string;
  fromQuery: string;
  fromCode: string;
  fromLabel: string;
  /** The fields that the kind has beside those of all kinds. */
  own: Values;
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

/** A parameter that gives a value of a question back as it was, under a name that is free. */
export function parameterFrom(name: string, value: Json, taken: ReadonlySet<string>): Parameter {
  const base = name.replaceAll(/\W+/g, '_').replace(/^(\d)/, 'p_$1') || 'value';
  let free = base;
  for (let number = 2; taken.has(free); number += 1) free = `${base}_${number}`;
  const plain = blank(free);
  const kind = jsonKindOf(value);
  if (kind === 'number' && Number.isInteger(value))
    return { ...plain, kind: 'whole number', default: value } as Parameter;
  if (kind === 'number') return { ...plain, kind: 'decimal', default: value } as Parameter;
  if (kind === 'yes/no')
    return { ...plain, kind: 'yes/no', default: value, yes: 'true', no: 'false' } as Parameter;
  if (kind === 'list')
    return { ...plain, many: true, send: 'json', default: (value as Json[]).map(String) } as Parameter;
  if (/^\d{4}-\d{2}-\d{2}$/.test(String(value)))
    return { ...plain, kind: 'date', default: String(value), format: 'iso', zone: '' } as Parameter;
  return { ...plain, default: String(value ?? '') } as Parameter;
}

/** A part of a question that a parameter may take the place of. */
export interface Changeable {
  words: string;
  /** The brief with a parameter there, and the parameter's name. */
  make: (brief: Brief) => { brief: Brief; name: string };
}

/** The parts of a brief's address that are the same in every call: its parameters' values, and steps of its path. */
export function changeableParts(brief: Brief): Changeable[] {
  const ask = brief.ask;
  if (!ask) return [];
  const made = (own: Brief, name: string, value: string, put: (text: string) => Ask) => {
    const parameter = parameterFrom(name, value, new Set(own.parameters.map((one) => one.name)));
    return {
      brief: { ...own, ask: put(`{${parameter.name}}`), parameters: [...own.parameters, parameter] },
      name: parameter.name,
    };
  };
  const pairs = ask.query.flatMap((pair, at): Changeable[] =>
    pair.value === null || /[{}]/.test(pair.value)
      ? []
      : [
          {
            words: `${pair.name} = ${pair.value}`,
            make: (own) =>
              made(own, pair.name, pair.value ?? '', (value) => ({
                ...ask,
                query: ask.query.map((one, index) => (index === at ? { ...one, value } : one)),
              })),
          },
        ],
  );
  const steps = ask.path.split('/');
  const path = steps.flatMap((step, at): Changeable[] =>
    !step || /[{}?&]/.test(step)
      ? []
      : [
          {
            words: `${step} in ${ask.path}`,
            make: (own) =>
              made(own, steps[at - 1]?.replace(/s$/, '') || 'value', step, (value) => ({
                ...ask,
                path: steps.map((one, index) => (index === at ? value : one)).join('/'),
              })),
          },
        ],
  );
  // What stands last in a path is changed more often than what it lies in.
  return [...pairs, ...path.reverse()];
}

/** Whether a value of a kind can move with the calendar, and is written as a date. */
export const isDated = (kind: ParameterKind): boolean => kindOf(kind).anchors.length > 0;

/** "2026-11-25T07:30:00+01:00" → what an input of that kind takes. */
function forInput(kind: ParameterKind, text: string): string {
  return kindOf(kind).typed_as === 'datetime-local' ? text.slice(0, 16) : text;
}

/** Lines → the values of a list. */
export function lines(text: string): string[] {
  return text
    .split('\n')
    .map((line) => line.trim())
    .filter(Boolean);
}

/** The values of a kind's own fields. */
function ownOf(kind: ParameterKind, values: Values): Values {
  const names = kindOf(kind).fields.map((field) => field.name);
  return Object.fromEntries(names.map((name) => [name, values[name] ?? kindOf(kind).defaults[name]]));
}

/** The own fields of all kinds as they begin, so that none is lost while another kind is looked at. */
const ownDefaults = (): Values =>
  Object.assign({}, ...choices().parameters.map((kind) => ownOf(kind.key as ParameterKind, {}))) as Values;

export function editOf(parameter: Parameter, given: Given | undefined, today: Given | undefined): Edit {
  const value = parameter.default;
  const moves = !!value && typeof value === 'object' && !Array.isArray(value) && given === undefined;
  const offset = moves ? value.offset : 'P0D';
  const plain = given ?? (Array.isArray(value) || moves ? today : (value ?? ''));
  const text = Array.isArray(plain)
    ? plain.join('\n')
    : plain === null || plain === undefined || typeof plain === 'object'
      ? String(today ?? '')
      : String(plain);
  const format = (parameter as { format?: string }).format ?? 'iso';
  const known = choices().date_formats.some((one) => one.value === format);
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
    anchor: moves ? value.anchor : (kindOf(parameter.kind).anchors[0] ?? ''),
    offset,
    first: (moves && value.first) || '',
    format: known ? format : 'pattern',
    pattern: known ? '%d.%m.%Y' : format,
    choices:
      parameter.kind === 'choice'
        ? parameter.choices.map((one) => (one.label ? `${one.code}\t${one.label}` : one.code)).join('\n')
        : '',
    fromQuery: source?.query ?? '',
    fromCode: source?.code ?? '',
    fromLabel: source?.label ?? '',
    own: { ...ownDefaults(), ...ownOf(parameter.kind, parameter as unknown as Values) },
  };
}

/** The value to use for the next call alone. */
export function givenOf(edit: Edit): Given {
  return edit.many ? lines(edit.text) : edit.text;
}

function one(edit: Edit, text: string): unknown {
  const { holds } = kindOf(edit.kind);
  if (text.trim() === '' && (holds === 'whole number' || holds === 'number')) return null;
  if (holds === 'whole number') return wholeOf(text) ?? Number(text);
  if (holds === 'number') return Number(text);
  if (holds === 'yes/no') return text === 'true';
  return text;
}

function defaultOf(edit: Edit): unknown {
  if (isDated(edit.kind) && edit.moves) {
    const first = edit.anchor === 'last refresh' && edit.first ? { first: edit.first } : {};
    return { anchor: edit.anchor, offset: edit.offset, ...first };
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
  const own = ownOf(kind, edit.own);
  if (isDated(kind)) {
    const format = edit.format === 'pattern' ? edit.pattern : edit.format;
    return { ...common, ...own, format } as Parameter;
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
  return { ...common, ...own } as Parameter;
}
