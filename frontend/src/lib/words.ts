/** The brief's settings in words. */
import type { Brief, Parameter } from './api/client';

const UNITS: Record<string, [string, string]> = {
  D: ['day', 'days'],
  W: ['week', 'weeks'],
  M: ['month', 'months'],
  Y: ['year', 'years'],
};
const NUMBERS = ['no', 'one', 'two', 'three', 'four', 'five', 'six', 'seven', 'eight', 'nine', 'ten'];

/** "seven days ago", "in two weeks", "today", "start of month". */
export function relative(anchor: string, offset: string): string {
  const match = /^([+-]?)P(\d+)([DWMY])$/.exec(offset);
  const amount = match ? Number(match[2]) : 0;
  if (!match || amount === 0) return match || offset === 'P0D' ? anchor : `${anchor} ${offset}`;
  const [one, many] = UNITS[match[3] ?? 'D'] ?? ['day', 'days'];
  const words = `${NUMBERS[amount] ?? amount} ${amount === 1 ? one : many}`;
  if (anchor !== 'today') return `${words} ${match[1] === '-' ? 'before' : 'after'} ${anchor}`;
  return match[1] === '-' ? `${words} ago` : `in ${words}`;
}

/** What a parameter is when nobody gives a value, in words. */
export function defaultWords(parameter: Parameter): string {
  const value = parameter.default;
  if (value === null || value === undefined) return parameter.required ? 'no value yet' : 'left out';
  if (typeof value === 'object') return relative(value.anchor, value.offset);
  return choiceLabel(parameter, value);
}

/** The label of a choice's code; any other text as it is. */
export function choiceLabel(parameter: Parameter, value: string): string {
  if (parameter.kind !== 'choice') return value;
  return parameter.choices.find((choice) => choice.code === value)?.label || value;
}

const DAYS = ['', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

/** "every day at 07:30", "each weekday at 07:30", "every 6 hours", "only by hand". */
export function scheduleWords(keep: Brief['keep']): string {
  const schedule = keep.schedule;
  if (!schedule) return 'only by hand';
  if (schedule.kind === 'every') return `every ${durationWords(schedule.every)}`;
  const days = [...new Set(schedule.days)].sort();
  if (days.length === 7) return `every day at ${schedule.at}`;
  if (days.join() === '1,2,3,4,5') return `each weekday at ${schedule.at}`;
  return `${days.map((day) => DAYS[day]).join(', ')} at ${schedule.at}`;
}

/** PT10M → "10 minutes". */
export function durationWords(iso: string): string {
  const match = /^P(?:(\d+)D)?(?:T(?:(\d+)H)?(?:(\d+)M)?(?:(\d+)S)?)?$/.exec(iso);
  if (!match) return iso;
  const parts = [
    [match[1], 'day'],
    [match[2], 'hour'],
    [match[3], 'minute'],
    [match[4], 'second'],
  ] as const;
  const words = parts
    .filter(([value]) => value)
    .map(([value, unit]) => `${value === '1' ? '' : `${value} `}${unit}${value === '1' ? '' : 's'}`);
  return words.join(' ') || iso;
}

/** All names that a template's {expressions} use. */
export function templateNames(template: string): string[] {
  return [
    ...template.matchAll(/\{[+#./;?&]?([A-Za-z_][A-Za-z0-9_]*(?:\*|:\d+)?(?:,[A-Za-z0-9_*:]+)*)\}/g),
  ].flatMap((match) => (match[1] ?? '').split(',').map((name) => name.replace(/[*:].*$/, '')));
}

/** The brief with a text parameter for every name in its question that has none yet. */
export function withParameters(brief: Brief): Brief {
  const used = [brief.ask.path, ...brief.ask.query.map((pair) => pair.value)].flatMap(templateNames);
  const known = new Set(brief.parameters.map((parameter) => parameter.name));
  const fresh = [...new Set(used)].filter((name) => !known.has(name));
  const added = fresh.map((name): Parameter => ({
    kind: 'text',
    name,
    label: '',
    hint: '',
    required: true,
    default: null,
  }));
  return { ...brief, parameters: [...brief.parameters, ...added] };
}
