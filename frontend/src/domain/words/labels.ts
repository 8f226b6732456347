/** The brief's settings in words. */
import { writeJson } from '../../api/json';
import type { Brief, Choice, Given, Parameter } from '../../api/client';
import { blank } from '../parameters';
import { durationWords, relative } from './durations';

/** What a parameter is when nobody gives a value, in words. */
export function defaultWords(parameter: Parameter, choices?: Choice[]): string {
  const value = parameter.default;
  if (value === null || value === undefined) return parameter.required ? 'no value yet' : 'left out';
  if (Array.isArray(value))
    return listWords(
      value.map((one) =>
        typeof one === 'object' && one !== null
          ? relative(one.anchor, one.offset)
          : choiceLabel(parameter, String(one), choices),
      ),
    );
  if (typeof value === 'object') return relative(value.anchor, value.offset);
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  return choiceLabel(parameter, String(value), choices);
}

/** "foot, car" or "foot, car and 3 more". */
export function listWords(values: string[]): string {
  if (values.length <= 3) return values.join(', ');
  return `${values.slice(0, 2).join(', ')} and ${values.length - 2} more`;
}

/** The label of a choice's code; any other text as it is. */
export function choiceLabel(parameter: Parameter, value: string, choices?: Choice[]): string {
  if (parameter.kind === 'yes/no') return value === 'true' ? 'yes' : value === 'false' ? 'no' : value;
  if (parameter.kind !== 'choice') return value;
  return (choices ?? parameter.choices).find((choice) => choice.code === value)?.label || value;
}

/** What a parameter is for the next call, in words. */
export function givenWords(parameter: Parameter, value: Given, choices?: Choice[]): string {
  if (Array.isArray(value)) return listWords(value.map((one) => choiceLabel(parameter, one, choices)));
  return value === null || value === '' ? '(empty)' : choiceLabel(parameter, value, choices);
}

/** "client_secret" → "client secret". */
export const fieldWords = (field: string): string => field.replaceAll('_', ' ');

const DAYS = ['', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

/** "every day at 07:30", "each weekday at 07:30", "every 6 hours", "only by hand". */
export function scheduleWords(keep: Brief['keep']): string {
  const schedule = keep.schedule;
  if (!schedule) return 'only by hand';
  if (schedule.kind === 'every') {
    const { between } = schedule;
    const hours = between ? `, ${between.start} to ${between.end}${onDays(between.days, ' on ')}` : '';
    return `every ${durationWords(schedule.every)}${hours}`;
  }
  if (schedule.kind === 'monthly') {
    const day = typeof schedule.on === 'number' ? `day ${schedule.on}` : `the ${schedule.on} day`;
    return `monthly on ${day} at ${schedule.at}`;
  }
  const times = [schedule.at, ...(schedule.also ?? [])].sort();
  const at = times.length > 3 ? `${times[0]} and ${times.length - 1} more times` : times.join(', ');
  const days = [...new Set(schedule.days)].sort();
  if (days.length === 7) return `every day at ${at}`;
  if (days.join() === '1,2,3,4,5') return `each weekday at ${at}`;
  return `${days.map((day) => DAYS[day]).join(', ')} at ${at}`;
}

function onDays(days: number[], before: string): string {
  const some = [...new Set(days)].sort();
  if (some.length === 7) return '';
  return some.join() === '1,2,3,4,5' ? `${before}weekdays` : before + some.map((day) => DAYS[day]).join(', ');
}

/** All names that a template's {expressions} use; a part such as day.year counts for its parameter. */
export function templateNames(template: string): string[] {
  return [
    ...template.matchAll(/\{[+#./;?&]?([A-Za-z_][A-Za-z0-9_.]*(?:\*|:\d+)?(?:,[A-Za-z0-9_.*:]+)*)\}/g),
  ].flatMap((match) => (match[1] ?? '').split(',').map((name) => name.replace(/[.*:].*$/, '')));
}

/** The names of the parameters in a text that is no address: {{name}} is the text {name} there. */
export function textNames(text: string): string[] {
  return [...text.replaceAll(/\{\{[\w.]+\}\}/g, '').matchAll(/\{([A-Za-z_]\w*)(?:\.[a-z]+)?\}/g)].map(
    (match) => match[1] ?? '',
  );
}

/** Every name that a question uses, in any of its parts. */
export function askNames(ask: NonNullable<Brief['ask']>): string[] {
  const body = ask.body;
  const texts = [...ask.headers, ...ask.query.map((pair) => ({ name: pair.name, value: '' }))];
  if (body?.kind === 'form' || body?.kind === 'multipart') texts.push(...body.fields);
  const inBody = body?.kind === 'json' ? writeJson(body.value) : body?.kind === 'text' ? body.text : '';
  return [
    ...[ask.path, ...ask.query.map((pair) => pair.value ?? '')].flatMap(templateNames),
    ...texts.flatMap((pair) => [...textNames(pair.name), ...textNames(pair.value ?? '')]),
    ...textNames(inBody),
  ];
}

/** The brief with a text parameter for every name in its question that has none yet. */
export function withParameters(brief: Brief): Brief {
  if (!brief.ask) return brief;
  const known = new Set(brief.parameters.map((parameter) => parameter.name));
  const fresh = [...new Set(askNames(brief.ask))].filter((name) => !known.has(name));
  return { ...brief, parameters: [...brief.parameters, ...fresh.map(blank)] };
}

/** The parameters whose values the iterations of “for each” give. */
export function iterationNames(brief: Brief): string[] {
  return brief.each.flatMap((one) => (one.by === 'sheet' ? Object.keys(one.with) : [one.parameter]));
}

/** The values that a table was asked with and that another call now would not be asked with: what was, and what is. */
export function otherValues(
  parameters: Parameter[],
  made: Record<string, unknown>,
  given: Record<string, unknown>,
  today: Record<string, unknown>,
): { parameter: Parameter; was: string; now: string }[] {
  const text = (value: unknown): string =>
    Array.isArray(value) ? value.map(String).join(', ') : String(value ?? '');
  return parameters.flatMap((parameter) => {
    const moves =
      typeof parameter.default === 'object' && !Array.isArray(parameter.default) && parameter.default;
    // A date that moves was another one at the last refresh by its nature.
    if (!(parameter.name in made) || (moves && !(parameter.name in given))) return [];
    const was = text(made[parameter.name]);
    const now = text(parameter.name in given ? given[parameter.name] : today[parameter.name]);
    return was === now ? [] : [{ parameter, was, now }];
  });
}
