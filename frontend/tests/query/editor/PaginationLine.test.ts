// @vitest-environment jsdom
import { fireEvent, render, screen } from '@testing-library/svelte';
import { expect, test, vi } from 'vitest';
import type { Brief, Run } from '../../../src/api/client';
import type { QueryStore } from '../../../src/query/queryStore.svelte';
import PaginationLine from '../../../src/query/editor/PaginationLine.svelte';

const work = {
  id: 1,
  step: null,
  busy: false,
  detail: { findings: [] },
  run: { running: false },
  previews: { current: null, finding: null, asked: null, verification: null },
} as unknown as QueryStore;
const brief = {
  pages: { by: 'ids', ids: '$.items[*].id', path: '/details?ids={id}', batch: 200, most: 1000, total: null },
  each: [],
} as unknown as Brief;
const run = (got: number) =>
  ({
    stop: 'the rows of 900 ids were asked for',
    report: { page_size: { asked: 200, got } },
  }) as unknown as Run;

test('how many ids a call takes is said, and written into the brief with one click', async () => {
  const onchange = vi.fn<(brief: Brief) => void>();
  const { container } = render(PaginationLine, { work, brief, run: run(50), onchange });
  expect(container.textContent).toContain('200 ids a call are too many, 50 are taken');
  await fireEvent.click(screen.getByText('Ask for 50 ids a call from now on'));
  expect(onchange.mock.calls[0]?.[0].pages).toMatchObject({ by: 'ids', batch: 50 });
});

test('nothing is offered where the brief asks for so many already, and places are said by name', () => {
  const asked = { ...brief, pages: { ...brief.pages, batch: 50 } } as Brief;
  const { container } = render(PaginationLine, { work, brief: asked, run: run(50), onchange: vi.fn() });
  expect(screen.queryByText(/from now on/)).toBeNull();
  expect(container.textContent).toContain('the ids at items.id');
});
