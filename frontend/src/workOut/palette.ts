/** Finding a line by typing what one wants. */
import type { Column, LineKind } from '../api/client';
import { isNumeric, isTemporal } from '../domain/kinds';

const NUMBERS: Record<string, number> = {
  one: 1, two: 2, three: 3, four: 4, five: 5, six: 6, seven: 7, eight: 8, nine: 9, ten: 10, twenty: 20,
}; // prettier-ignore
/** The figure that a word asks for. */
const FIGURES: Record<string, string> = {
  mean: 'mean', average: 'mean', avg: 'mean', median: 'median', highest: 'highest', max: 'highest', maximum: 'highest',
  lowest: 'lowest', min: 'lowest', minimum: 'lowest',
}; // prettier-ignore
const PERIODS = ['day', 'week', 'month', 'quarter', 'year', 'weekday', 'hour'];

export interface Found {
  kind: LineKind;
  /** What its form begins with, beside its defaults. */
  values: Record<string, unknown>;
}

const plain = (text: string): string => text.toLowerCase().replace(/[^\p{L}\p{N}%]+/gu, ' ').trim(); // prettier-ignore

/** The columns that a text names, the longest names first. */
export function columnsIn(text: string, columns: Column[]): Column[] {
  const own = ` ${plain(text)} `;
  return columns
    .filter((column) => plain(column.name) && own.includes(` ${plain(column.name)} `))
    .sort((one, other) => own.indexOf(` ${plain(one.name)} `) - own.indexOf(` ${plain(other.name)} `));
}

/** The number that a text says, in digits or in a word. */
export function numberIn(text: string): number | null {
  for (const word of plain(text).split(' ')) {
    if (/^\d+$/.test(word)) return Number(word);
    if (word in NUMBERS) return NUMBERS[word] ?? null;
  }
  return null;
}

function score(kind: LineKind, words: string[]): number {
  const finds = kind.finds.map(plain);
  const [label, hint] = [plain(kind.label).split(' '), plain(kind.hint)];
  let sum = 0;
  for (const word of words) {
    if (finds.some((one) => one === word || one.split(' ').includes(word))) sum += 3;
    else if (finds.some((one) => one.startsWith(word))) sum += 2;
    else if (label.includes(word)) sum += 2;
    else if (word.length > 2 && (hint.includes(word) || label.join(' ').includes(word))) sum += 1;
  }
  return finds.includes(words.join(' ')) ? sum + 4 : sum;
}

/** What a form begins with when a line is begun from a column. */
export function startingFrom(kind: LineKind, columns: Column[]): Record<string, unknown> {
  const [column] = columns;
  if (!column || !kind.starts) return {};
  const { name } = column;
  const values: Record<string, unknown> = {};
  switch (kind.key) {
    case 'column':
      values.expression = quoted(name);
      break;
    case 'keep':
      values.where = [{ column: name, test: isNumeric(column) ? 'above' : 'is', value: '', values: [] }];
      break;
    case 'text':
      values.text = `{${name}}`;
      break;
    case 'order':
      values.by = columns.map((one) => ({ column: one.name, down: false }));
      break;
    case 'first':
      values.by = [{ column: name, down: isNumeric(column) || isTemporal(column) }];
      values.each = columns.slice(1).map((one) => one.name);
      break;
    case 'repeats':
      values.by = columns.map((one) => one.name);
      break;
    case 'count':
      values.by = columns
        .filter((one) => !isNumeric(one))
        .map((one) => ({ column: one.name, period: isTemporal(one) ? 'month' : null }));
      if (!(values.by as unknown[]).length) values.by = [{ column: name, period: null }];
      values.figures = [
        figure('rows'),
        ...columns
          .filter((one) => isNumeric(one) && columns.length > 1)
          .map((one) => figure('sum', one.name)),
      ];
      break;
    case 'bring':
      values.match = [{ theirs: '', ours: name, value: null }];
      break;
    case 'fold':
      values.columns = columns.map((one) => one.name);
      break;
    default:
      values[kind.starts] = name;
  }
  if (kind.key === 'period') values.name = `month of ${name}`;
  if (kind.key === 'label')
    values.cases = [{ test: isNumeric(column) ? 'above' : 'is', value: '', values: [], label: '' }];
  return values;
}

const figure = (of: string, column = ''): Record<string, unknown> => ({
  of,
  column,
  name: '',
  separator: ', ',
});

/** The lines that a text asks for, the likeliest first; all of them for an empty one. */
export function findLines(kinds: LineKind[], text: string, columns: Column[]): Found[] {
  const named = columnsIn(text, columns);
  let rest = ` ${plain(text)} `;
  for (const column of named) rest = rest.replace(` ${plain(column.name)} `, ' ');
  // What is said per or by something is counted by it.
  const grouped = / (by|per|each) /.test(` ${plain(text)} `);
  const words = rest.trim().split(' ').filter((word) => word && !['by', 'of', 'the', 'per', 'a', 'each'].includes(word)); // prettier-ignore
  const ranked = kinds
    .map((kind, at) => ({
      kind,
      at,
      score:
        score(kind, words) +
        score(kind, [rest.trim()]) +
        (grouped && kind.key === 'count' && score(kind, words) ? 2 : 0),
    }))
    .filter((one) => !words.length || one.score > 0)
    .sort((one, other) => other.score - one.score || one.at - other.at);
  return ranked.map(({ kind }) => {
    const values = startingFrom(kind, named);
    const number = numberIn(text);
    if (kind.key === 'first' && number) values.rows = number;
    const period = PERIODS.find((one) => plain(text).split(' ').includes(one));
    if (period && kind.key === 'period') values.period = period;
    if (/%|percent|share/.test(text) && kind.key === 'count')
      values.figures = [figure('rows'), figure('share of rows')];
    const of = plain(text).split(' ').map((word) => FIGURES[word]).find(Boolean); // prettier-ignore
    if (of && kind.key === 'count')
      values.figures = (values.figures as { of: string }[] | undefined)?.map((one) =>
        one.of === 'sum' ? { ...one, of } : one,
      );
    if (/%|percent/.test(text) && kind.key === 'along') values.what = 'share';
    return { kind, values };
  });
}

/** A column's name as an expression writes it. */
export function quoted(name: string): string {
  return /^[A-Za-z_][A-Za-z0-9_]*$/.test(name) ? name : `"${name.replaceAll('"', '""')}"`;
}
