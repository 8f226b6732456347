// @vitest-environment jsdom
import { fireEvent, render, screen } from '@testing-library/svelte';
import { expect, test, vi } from 'vitest';
import type { Brief, Finding, Preview } from '../../../src/api/client';
import type { QueryStore } from '../../../src/query/queryStore.svelte';
import IsThereMore from '../../../src/query/editor/IsThereMore.svelte';
import MoreFound from '../../../src/query/editor/MoreFound.svelte';
import { today } from '../../../src/domain/words/proof';

const brief = { name: 'q', ask: { method: 'POST' }, pages: { by: 'none' } } as unknown as Brief;
const proof = { state: 'unverified', evidence: '10 rows', calls: 6, reads: true, by_itself: false };

function shown(changes: Partial<typeof proof> = {}) {
  const work = { busy: false, run: { running: false }, detail: { service: { name: 'Operations' } } };
  const asks = { findMore: vi.fn(), findOutByItself: vi.fn() };
  const preview = {
    records: 10,
    total_gap: { place: '$.count' },
    proof: { ...proof, ...changes },
  } as unknown as Preview;
  const onchange = vi.fn();
  render(IsThereMore, { work: { ...work, ...asks } as unknown as QueryStore, brief, preview, onchange });
  return { ...asks, onchange };
}

test('asking is offered with its cost, and made when it is clicked', async () => {
  const { findMore } = shown();
  expect(screen.getByText('up to 6 calls')).toBeTruthy();
  await fireEvent.click(screen.getByLabelText('Is there more?'));
  expect(findMore).toHaveBeenCalledWith(false);
});

test('what may change something waits for a word', async () => {
  const { findMore } = shown({ reads: false });
  const button = screen.getByLabelText<HTMLButtonElement>('Is there more?');
  expect(button.disabled).toBe(true);
  await fireEvent.click(screen.getByRole('checkbox'));
  await fireEvent.click(button);
  expect(findMore).toHaveBeenCalledWith(true);
  expect(screen.queryByText(/Find out by itself/)).toBeNull();
});

test('a person says that it is all, and what is no total is left out of account', async () => {
  const { onchange } = shown();
  await fireEvent.click(screen.getByText('One answer is all there is'));
  const said = { on: today(), rows: 10, apart: ['$.count'] };
  expect(onchange).toHaveBeenCalledWith({ ...brief, pages: { by: 'none', total: null, said } });
});

test('what is proved is offered nothing', () => {
  shown({ state: 'complete', evidence: '$.has_more is false' });
  expect(screen.getByText('✓ complete:')).toBeTruthy();
  expect(screen.queryByRole('button')).toBeNull();
});

test('a finding is accepted with a click, and its calls can be looked at', async () => {
  const finding = {
    state: 'incomplete',
    what: 'there is more than these 10 rows',
    words: 'by number',
    saves: '10 rows a page, 12 calls; the API gives up to 50: 3 calls',
    asked: '2026-11-26T09:00:00+00:00',
    pages: { by: 'number', parameter: 'page' },
    calls: [
      { sent: { page: '2' }, rows: 10, showed: '10 other rows: page', method: 'GET', address: 'http://h' },
      { sent: {}, rows: null, showed: 'refused: “no”', method: 'GET', address: 'http://h' },
    ],
  } as unknown as Finding;
  const onaccept = vi.fn();
  render(MoreFound, { finding, brief, rows: null, next: false, onaccept });
  await fireEvent.click(screen.getByText('Turn pages by number'));
  expect(onaccept).toHaveBeenCalledWith({ ...brief, pages: finding.pages });
  await fireEvent.click(screen.getByLabelText('Show the calls'));
  expect(screen.getByText('page = 2')).toBeTruthy();
  expect(screen.getByText('refused: “no”')).toBeTruthy();
  expect(screen.getByText('–')).toBeTruthy();
});
