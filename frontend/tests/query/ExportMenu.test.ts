// @vitest-environment jsdom
import { fireEvent, render, screen } from '@testing-library/svelte';
import { afterEach, expect, test, vi } from 'vitest';
import type { Snapshot } from '../../src/api/client';
import { empty, server } from '../server';
import ExportMenu from '../../src/query/ExportMenu.svelte';

const snapshot = {
  id: 7,
  taken: '2026-11-25T12:00:00+00:00',
  state: 'complete',
  evidence: 'page 3 is empty',
} as Snapshot;
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
  render(ExportMenu, { snapshot });
  await fireEvent.click(screen.getByRole('button', { name: /Export/ }));
  expect(await screen.findByText('3 cells in note')).toBeTruthy();
  expect(link('CSV, commas, UTF-8')).toBe('/api/snapshots/7/table.csv?formulas_as_text=true');
  await fireEvent.click(screen.getByRole('checkbox'));
  expect(link('CSV, commas, UTF-8')).toBe('/api/snapshots/7/table.csv');
  expect(link('A workbook, .xlsx')).toBe('/api/snapshots/7/table.xlsx');
});

test('a table without them says nothing of formulas', async () => {
  answer(0, []);
  render(ExportMenu, { snapshot });
  await fireEvent.click(screen.getByRole('button', { name: /Export/ }));
  expect(await screen.findByText('complete: page 3 is empty')).toBeTruthy();
  await vi.waitFor(() => expect(screen.queryByRole('note')).toBeNull());
});
