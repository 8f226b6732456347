// @vitest-environment jsdom
import { fireEvent, render, screen } from '@testing-library/svelte';
import { createRawSnippet } from 'svelte';
import { expect, test, vi } from 'vitest';
import Confirm from '../../src/ui/Confirm.svelte';

const children = createRawSnippet(() => ({ render: () => '<span>30 snapshots go with it.</span>' }));

test('nothing is done before it is confirmed, and both ways out are told apart', async () => {
  const [onyes, onno] = [vi.fn(), vi.fn()];
  render(Confirm, { title: 'Delete the query', yes: 'Delete it', onyes, onno, children });
  expect(await screen.findByText('30 snapshots go with it.')).toBeTruthy();
  expect([onyes.mock.calls.length, onno.mock.calls.length]).toEqual([0, 0]);
  await fireEvent.click(screen.getByText('Keep it'));
  expect([onyes.mock.calls.length, onno.mock.calls.length]).toEqual([0, 1]);
  await fireEvent.click(screen.getByText('Delete it'));
  expect(onyes).toHaveBeenCalledOnce();
});

test('what is not allowed cannot be confirmed', async () => {
  const onyes = vi.fn();
  render(Confirm, { title: 'Delete', yes: 'Delete it', allowed: false, onyes, onno: () => {}, children });
  const button = (await screen.findByText('Delete it')) as HTMLButtonElement;
  expect(button.disabled).toBe(true);
});
