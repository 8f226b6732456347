/** The server's registries: every alternative with its label, its fields and its phrase. Forms are drawn from them. */
import type { Schemas } from '../api/client';
import { count } from './words/format';
import { durationWords } from './words/durations';

export type Choices = Schemas['ChoicesOut'];
export type ChoiceInfo = Pick<Schemas['WayInfo'], 'key' | 'label' | 'fields' | 'defaults' | 'phrase'>;
export type FieldInfo = Schemas['FieldInfo'];
export type Values = Record<string, unknown>;

let known: Choices | null = null;

/** Take the registries, once at start. */
export function setChoices(found: Choices): void {
  known = found;
}

export function choices(): Choices {
  if (!known) throw new Error('The registries are not loaded yet.');
  return known;
}

/** The entry with a key. */
export function entryOf<T extends { key: string }>(entries: T[], key: string): T {
  const found = entries.find((one) => one.key === key);
  if (!found) throw new Error(`There is no entry ${key}.`);
  return found;
}

/** What a form begins with when another entry is chosen: its defaults; of the old values those that both ask for. */
export function switched(choice: ChoiceInfo, old: Values, also: string[] = []): Values {
  const shared = [...choice.fields.map((field) => field.name), ...also];
  // A value that the other one's options do not have is none of its.
  const offered = (name: string): boolean => {
    const options = choice.fields.find((field) => field.name === name)?.options ?? [];
    return !options.length || options.some((one) => one.value === old[name]);
  };
  const kept = shared.filter(
    (name) => name in choice.defaults && old[name] !== undefined && old[name] !== null && offered(name),
  );
  return {
    ...structuredClone(choice.defaults),
    ...Object.fromEntries(kept.map((name) => [name, old[name]])),
  };
}

/** What a form holds as a document has it: texts without space around them, empty ones absent unless they must be there. */
export function cleaned(choice: ChoiceInfo, values: Values): Values {
  const out: Values = { ...values };
  for (const [name, value] of Object.entries(out)) {
    if (typeof value === 'string') out[name] = value.trim();
    const field = choice.fields.find((one) => one.name === name);
    const plain = typeof choice.defaults[name] === 'string';
    if ((out[name] === '' || out[name] === undefined) && !field?.required && !plain) out[name] = null;
  }
  return out;
}

function told(field: FieldInfo | undefined, value: unknown): string {
  const option = field?.options.find((one) => one.value === value);
  if (option) return option.phrase;
  if (typeof value === 'number') return count(value);
  const text = String(value ?? '');
  return field?.kind === 'duration' ? durationWords(text) : text;
}

/** A phrase with the values in it. */
export function filled(template: string, fields: FieldInfo[], values: Values): string {
  return template.replace(/\{(\w+)\}/g, (_, name: string) =>
    told(
      fields.find((field) => field.name === name),
      values[name],
    ),
  );
}

/** Whether a field matters with the other values: what a name ends in, or what another member is. */
export function matters(field: FieldInfo, values: Values): boolean {
  if (!field.with_field) return true;
  const value = String(values[field.with_field] ?? '');
  return field.with_values.some((one) =>
    one.startsWith('.') ? value.toLowerCase().endsWith(one) : value === one,
  );
}
