// @vitest-environment jsdom
import { fireEvent, render, screen, waitFor } from '@testing-library/svelte';
import { afterEach, expect, test } from 'vitest';
import { empty, server } from '../server';
import ValueInput from '../../src/workOut/fields/ValueInput.svelte';
import { LINE_TABLE } from '../../src/workOut/lineTable';

const table = { snapshot: 7, preview: null, lines: [] };

afterEach(() => {
  server.handle = empty;
});

test('values of the column are offered when the field is entered, and asked for once', async () => {
  const asked: unknown[] = [];
  server.handle = async (request) => {
    asked.push(await request.json());
    const values = ['arrived', 12, null, { miss: 'none' }].map((value) => ({ value, count: 1 }));
    return new Response(JSON.stringify({ values }), { headers: { 'Content-Type': 'application/json' } });
  };
  let typed = '';
  const { container } = render(ValueInput, {
    props: { column: 'status', value: '', label: 'Value', onchange: (text: string) => (typed = text) },
    context: new Map([[LINE_TABLE, () => table]]),
  });
  const field = screen.getByLabelText('Value');
  await fireEvent.focus(field);
  await fireEvent.focus(field);
  const options = () => [...container.querySelectorAll('option')].map((one) => one.value);
  await waitFor(() => expect(options()).toEqual(['arrived', '12']));
  expect(asked).toEqual([{ ...table, column: 'status', view: { sort: [], where: [] } }]);
  await fireEvent.input(field, { target: { value: 'arr' } });
  expect(typed).toBe('arr');
});

test('where there is no table nothing is asked', async () => {
  server.handle = () => {
    throw new Error('asked');
  };
  const { container } = render(ValueInput, {
    props: { column: 'status', value: 'x', label: 'Value', onchange: () => undefined },
    context: new Map([[LINE_TABLE, () => null]]),
  });
  await fireEvent.focus(screen.getByLabelText('Value'));
  expect(container.querySelectorAll('option')).toHaveLength(0);
});
