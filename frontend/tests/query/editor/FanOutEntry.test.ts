// @vitest-environment jsdom
import { fireEvent, render, screen } from '@testing-library/svelte';
import { expect, test, vi } from 'vitest';
import type { Brief, Each } from '../../../src/api/client';
import { eachWords, made, WAYS } from '../../../src/domain/fanOut';
import { blank } from '../../../src/domain/parameters';
import FanOutEntry from '../../../src/query/editor/fanOut/FanOutEntry.svelte';

const brief = {
  parameters: [
    { ...blank('port'), label: 'Port' },
    { ...blank('month'), kind: 'month' },
  ],
} as unknown as Brief;
const offered = { queries: ['Ports'], sheets: [{ name: 'counts', headings: ['code', 'n'] }] };

function shown(one: Each) {
  const onchange = vi.fn();
  const props = { one, brief, offered, ids: {}, onchange, onremove: () => {}, onsheets: async () => {} };
  return { onchange, ...render(FanOutEntry, props) };
}

test('another way begins with what there is for the same parameter', async () => {
  const { onchange, container } = shown({ by: 'list', parameter: 'month', values: [] });
  const select = container.querySelector('[name=each-by]') as HTMLSelectElement;
  expect([...select.options].map((one) => one.value)).toEqual(WAYS.map(([by]) => by));
  for (const [by] of WAYS) {
    await fireEvent.change(select, { target: { value: by } });
    expect(onchange).toHaveBeenLastCalledWith(made(by, 'month', brief, offered));
  }
  expect(made('range', 'month', brief, offered)).toMatchObject({ step: 'month' });
  expect(made('sheet', 'port', brief, offered)).toEqual({
    by: 'sheet',
    sheet: 'counts',
    with: { port: 'code' },
  });
});

test('pasted lines are the values of a list', async () => {
  const { onchange, container } = shown({ by: 'list', parameter: 'port', values: ['007'] });
  const field = container.querySelector('[name=each-values]') as HTMLTextAreaElement;
  await fireEvent.input(field, { target: { value: ' 007\n\n010 ' } });
  expect(onchange).toHaveBeenLastCalledWith({ by: 'list', parameter: 'port', values: ['007', '010'] });
});

test('an end of a range that moves by months is shown and changed as such', async () => {
  const start = { anchor: 'start of month', offset: '-P2M' } as const;
  const { onchange } = shown({ by: 'range', parameter: 'port', step: 'day', start, end: '2026-11-25' });
  expect(screen.getByLabelText<HTMLInputElement>('From, how many').value).toBe('2');
  await fireEvent.input(screen.getByLabelText('From, how many'), { target: { value: '3' } });
  expect(onchange).toHaveBeenLastCalledWith(
    expect.objectContaining({ start: { anchor: 'start of month', offset: '-P3M' }, end: '2026-11-25' }),
  );
  await fireEvent.change(screen.getByLabelText('To, how'), { target: { value: 'moves' } });
  expect(onchange).toHaveBeenLastCalledWith(
    expect.objectContaining({ end: { anchor: 'today', offset: 'P0D' } }),
  );
});

test('a parameter that is not from the sheet leaves no trace', async () => {
  const { onchange } = shown({ by: 'sheet', sheet: 'counts', with: { port: 'code', month: 'n' } });
  await fireEvent.change(screen.getByLabelText('month'), { target: { value: '' } });
  expect(onchange).toHaveBeenLastCalledWith({ by: 'sheet', sheet: 'counts', with: { port: 'code' } });
});

test('each is told in words', () => {
  const words = (one: Each) => eachWords(one, brief);
  expect(words({ by: 'list', parameter: 'port', values: ['a', 'b', 'c', 'd'] })).toBe(
    'Port of a, b and 2 more',
  );
  const start = { anchor: 'today', offset: '-P6D' } as const;
  expect(words({ by: 'range', parameter: 'port', step: 'day', start, end: '2026-11-25' })).toBe(
    'day, six days ago – 2026-11-25',
  );
  expect(words({ by: 'column', parameter: 'port', query: 'Ports', column: 'code', first: false })).toBe(
    'code of “Ports”',
  );
  expect(words({ by: 'sheet', sheet: 'counts', with: {} })).toBe('row of the sheet “counts”');
});
