/** How a table becomes a file: what its format is called, and the options that it takes. */
import type { Format } from '../api/client';
import { csvOptions, styleWords, type CsvStyle } from './csv';

/** “CSV, commas, UTF-8” or “Workbook, .xlsx”. */
export function fileWords(one: Format, how: CsvStyle): string {
  return one.ending === 'csv'
    ? `CSV, ${styleWords(how)}`
    : `${one.label[0]?.toUpperCase()}${one.label.slice(1)}, .${one.ending}`;
}

/** How a file is written, as far as its format can be told. */
export function fileOptions(one: Format, how: CsvStyle, formulasAsText: boolean): Record<string, string> {
  const all = {
    formulas_as_text: String(formulasAsText),
    ...csvOptions(how),
    ...(how.headings ? {} : { headings: 'false' }),
    ...(how.momentsAsText ? { moments: 'text' } : {}),
  };
  return Object.fromEntries(Object.entries(all).filter(([name]) => one.takes.includes(name)));
}

/** The query part of an address; empty without any values. */
export function queryText(values: Record<string, string | number | boolean | undefined>): string {
  const text = Object.entries(values)
    .filter(([, value]) => value !== undefined)
    .map(([name, value]) => `${name}=${encodeURIComponent(String(value))}`)
    .join('&');
  return text && `?${text}`;
}
