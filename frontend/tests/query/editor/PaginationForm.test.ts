// @vitest-environment jsdom
import { fireEvent, render, screen } from '@testing-library/svelte';
import { expect, test, vi } from 'vitest';
import { choices } from '../../../src/domain/choices';
import type { Pages } from '../../../src/domain/pagination';
import PaginationForm from '../../../src/query/editor/PaginationForm.svelte';

const none = { by: 'none', total: null } as unknown as Pages;

function shown(pages: Pages = none) {
  const ondone = vi.fn<(pages: Pages) => void>();
  const { container } = render(PaginationForm, { pages, preview: null, keep: 'pages', ondone });
  const field = (name: string) => container.querySelector<HTMLInputElement>(`[name="${name}"]`);
  const choose = (by: string) =>
    fireEvent.change(container.querySelector('select') as HTMLSelectElement, { target: { value: by } });
  return { container, field, choose, ondone };
}

test('every way of the registry has its own fields in the form', async () => {
  const { field, choose } = shown();
  for (const way of choices().pagination) {
    await choose(way.key);
    for (const one of way.fields)
      expect(field(`pages-${one.name}`), `${way.key}: ${one.name}`).not.toBeNull();
  }
});

test('what was typed for one way stays where the next one asks for the same', async () => {
  const { field, choose, ondone } = shown();
  await choose('number');
  await fireEvent.input(field('pages-parameter') as HTMLInputElement, { target: { value: 'seite' } });
  await choose('offset');
  expect(field('pages-parameter')?.value).toBe('seite');
  await fireEvent.submit(field('pages-parameter')?.form as HTMLFormElement);
  expect(ondone).toHaveBeenCalledWith(expect.objectContaining({ by: 'offset', parameter: 'seite' }));
});

test('leaving the form without “Done” changes nothing', async () => {
  const pages = { ...none };
  const { choose, ondone } = shown(pages);
  await choose('cursor');
  expect(ondone).not.toHaveBeenCalled();
  expect(pages.by).toBe('none');
  expect(screen.getAllByRole('combobox').length).toBeGreaterThan(0);
});
