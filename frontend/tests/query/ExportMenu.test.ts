// @vitest-environment jsdom
import { fireEvent, render, screen } from '@testing-library/svelte';
import { afterEach, expect, test, vi } from 'vitest';
import type { Snapshot } from '../../src/api/client';
import type { QueryStore } from '../../src/query/queryStore.svelte';
import { empty, server } from '../server';
import ExportMenu from '../../src/query/ExportMenu.svelte';

const snapshot = {
  id: 7,
  rows: 279,
  taken: '2026-11-25T12:00:00+00:00',
  state: 'complete',
  evidence: 'page 3 is empty',
} as Snapshot;
const work = (more: object = {}) =>
  ({
    id: 1,
    previews: { shown: null },
    look: { plain: true, where: [], sort: [], spec: { sort: [], where: [] } },
    source: { total: 279 },
    workOut: { table: null },
    baseTable: { starts_from: null },
    ...more,
  }) as unknown as QueryStore;
const link = (words: string): string | null => screen.getByText(words).closest('a')!.getAttribute('href');

function answer(cells: number, columns: string[]): void {
  const body = JSON.stringify({ cells, more: false, columns, example: '=1+1' });
  server.handle = async () => new Response(body, { headers: { 'Content-Type': 'application/json' } });
}

afterEach(() => {
  server.handle = empty;
});

test('texts that read as formulas are said, and kept texts unless somebody wants them as they are', async () => {
  answer(3, ['note']);
  render(ExportMenu, { snapshot, work: work() });
  await fireEvent.click(screen.getByRole('button', { name: /Export/ }));
  expect(await screen.findByText('3 cells in note')).toBeTruthy();
  const csv = 'CSV, commas, UTF-8 with mark';
  const how = 'separator=comma&decimal=point&encoding=utf-8-bom';
  expect(link(csv)).toBe(`/api/snapshots/7/table.csv?formulas_as_text=true&${how}`);
  await fireEvent.click(screen.getByRole('checkbox', { name: /apostrophe/ }));
  expect(link(csv)).toBe(`/api/snapshots/7/table.csv?formulas_as_text=false&${how}`);
  expect(link('A workbook, .xlsx')).toBe('/api/snapshots/7/table.xlsx');
});

test('a table without them says nothing of formulas', async () => {
  answer(0, []);
  render(ExportMenu, { snapshot, work: work() });
  await fireEvent.click(screen.getByRole('button', { name: /Export/ }));
  expect(await screen.findByText('complete: page 3 is empty')).toBeTruthy();
  await vi.waitFor(() => expect(screen.queryByRole('note')).toBeNull());
});

test('what is seen is what is exported, or the whole snapshot, and both are said', async () => {
  answer(0, []);
  const where = [{ by: 'text', column: 'class', text: 'car', no: false }];
  const look = { plain: false, where, sort: [], spec: { sort: [], where } };
  render(ExportMenu, { snapshot, work: work({ look, source: { total: 93 } }) });
  await fireEvent.click(screen.getByRole('button', { name: /Export/ }));
  const book = (): URL => new URL(link('A workbook, .xlsx') ?? '', 'http://here');
  expect(screen.getByLabelText(/As seen: 93 rows, filtered/)).toBeTruthy();
  expect(JSON.parse(book().searchParams.get('view') ?? '')).toEqual({ sort: [], where });
  await fireEvent.click(screen.getByLabelText(/The whole snapshot of .*: 279 rows/));
  expect(book().search).toBe('');
});

test('a draft’s reading is exported as it is seen', async () => {
  answer(0, []);
  render(ExportMenu, { snapshot, work: work({ previews: { shown: { id: 40, run_id: 7 } } }) });
  await fireEvent.click(screen.getByRole('button', { name: /Export/ }));
  expect(screen.getByLabelText(/As seen: 279 rows, read anew/)).toBeTruthy();
  expect(link('A workbook, .xlsx')).toBe('/api/previews/40/table.xlsx?query_id=1');
});

test('a decimal comma takes the comma from the fields', async () => {
  answer(0, []);
  render(ExportMenu, { snapshot, work: work() });
  await fireEvent.click(screen.getByRole('button', { name: /Export/ }));
  await fireEvent.change(screen.getByLabelText('Decimal mark'), { target: { value: 'comma' } });
  const csv = screen.getByText(/^CSV, semicolons, decimal comma/).closest('a');
  expect(csv?.getAttribute('href')).toContain('separator=semicolon&decimal=comma');
});

test('every other format that the server has is offered, with the options that it takes', async () => {
  answer(0, []);
  render(ExportMenu, { snapshot, work: work() });
  await fireEvent.click(screen.getByRole('button', { name: /Export/ }));
  expect(await screen.findByText('Parquet, .parquet')).toBeTruthy();
  expect(link('Parquet, .parquet')).toBe('/api/snapshots/7/table.parquet');
  expect(link('JSON Lines, .jsonl')).toBe('/api/snapshots/7/table.jsonl');
  expect(link('Text with tabs, .tsv')).toContain('formulas_as_text=true&decimal=');
  expect(link('Text with tabs, .tsv')).not.toContain('separator=');
});
