/** How CSV is written, as somebody chose it last in this browser. */
import { readJson, writeJson } from '../api/json';

export interface CsvStyle {
  separator: 'comma' | 'semicolon' | 'tab';
  decimal: 'point' | 'comma';
  encoding: 'utf-8' | 'utf-8-bom' | 'utf-16';
  headings: boolean;
  /** In a workbook, times with an offset are texts. */
  momentsAsText: boolean;
}

const KEPT = 'tin-bucket-csv';
/** What opens right by a double click in most places. */
const USUAL: CsvStyle = {
  separator: 'comma',
  decimal: 'point',
  encoding: 'utf-8-bom',
  headings: true,
  momentsAsText: false,
};

export function keptStyle(): CsvStyle {
  try {
    return { ...USUAL, ...(readJson(localStorage.getItem(KEPT) ?? '{}') as Partial<CsvStyle>) };
  } catch {
    return { ...USUAL };
  }
}

export function keepStyle(style: CsvStyle): void {
  localStorage.setItem(KEPT, writeJson(style));
}

/** The options of its address that are not the server's own. */
export function csvOptions(style: CsvStyle): Record<string, string> {
  const { separator, decimal, encoding } = style;
  return { separator, decimal, encoding };
}

/** “semicolons, decimal comma, UTF-8”. */
export function styleWords(style: CsvStyle): string {
  const separators = { comma: 'commas', semicolon: 'semicolons', tab: 'tabs' };
  const encodings = { 'utf-8': 'UTF-8', 'utf-8-bom': 'UTF-8 with mark', 'utf-16': 'UTF-16' };
  const decimal = style.decimal === 'comma' ? ['decimal comma'] : [];
  return [separators[style.separator], ...decimal, encodings[style.encoding]].join(', ');
}
