import { expect, test } from 'vitest';
import type { Format } from '../../src/api/client';
import type { CsvStyle } from '../../src/domain/csv';
import { fileOptions, fileWords, queryText } from '../../src/domain/files';

const how: CsvStyle = {
  separator: 'semicolon',
  decimal: 'comma',
  encoding: 'utf-8',
  headings: false,
  momentsAsText: true,
};
const csv = { ending: 'csv', label: 'CSV', takes: ['formulas_as_text', 'separator', 'headings'] } as Format;
const workbook = { ending: 'xlsx', label: 'workbook', takes: ['headings', 'moments'] } as Format;

test('a format is called by what is chosen for it', () => {
  expect(fileWords(csv, how)).toBe('CSV, semicolons, decimal comma, UTF-8');
  expect(fileWords(workbook, how)).toBe('Workbook, .xlsx');
});

test('a format is told what it takes, and nothing else', () => {
  expect(fileOptions(csv, how, true)).toEqual({
    formulas_as_text: 'true',
    separator: 'semicolon',
    headings: 'false',
  });
  expect(fileOptions(workbook, how, true)).toEqual({ headings: 'false', moments: 'text' });
});

test('values stand in an address as they are', () => {
  expect(queryText({ column: 'a&b = c', least: 0, query_id: undefined })).toBe(
    '?column=a%26b%20%3D%20c&least=0',
  );
  expect(queryText({})).toBe('');
});
