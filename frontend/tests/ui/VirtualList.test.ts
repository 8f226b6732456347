// @vitest-environment jsdom
import { fireEvent, render } from '@testing-library/svelte';
import { createRawSnippet } from 'svelte';
import { expect, test } from 'vitest';
import VirtualList from '../../src/ui/VirtualList.svelte';

const row = createRawSnippet((at: () => number, style: () => string) => ({
  render: () => `<p style="${style()}">row ${at()}</p>`,
}));
const empty = createRawSnippet(() => ({ render: () => '<p>nothing here</p>' }));

function shown(count: number) {
  const props = {
    count,
    rowHeight: 20,
    height: 200,
    class: 'list',
    role: 'list',
    label: 'rows',
    row,
    empty,
  } as const;
  const { container } = render(VirtualList, props);
  const list = container.querySelector<HTMLElement>('.list') as HTMLElement;
  const rows = () => [...list.querySelectorAll('p')].map((one) => one.textContent);
  return { list, rows };
}

test('of a hundred thousand rows only those in sight are drawn, and others after scrolling', async () => {
  const { list, rows } = shown(100_000);
  expect(rows()[0]).toBe('row 0');
  expect(rows().length).toBeLessThan(40);
  list.scrollTop = 50_000 * 20;
  await fireEvent.scroll(list);
  expect(rows()).toContain('row 50000');
  expect(rows()).not.toContain('row 0');
  expect(rows().length).toBeLessThan(40);
});

test('the last row is not followed by another', async () => {
  const { list, rows } = shown(30);
  list.scrollTop = 30 * 20;
  await fireEvent.scroll(list);
  expect(rows().at(-1)).toBe('row 29');
});

test('without rows something else is said', () => {
  expect(shown(0).rows()).toEqual(['nothing here']);
});
