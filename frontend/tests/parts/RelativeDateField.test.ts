// @vitest-environment jsdom
import { fireEvent, render, screen } from '@testing-library/svelte';
import { expect, test, vi } from 'vitest';
import RelativeDateField from '../../src/parts/RelativeDateField.svelte';

function shown(offset: string, kind = 'date') {
  const onchange = vi.fn();
  render(RelativeDateField, { value: { anchor: 'today', offset }, kind, onchange });
  return onchange;
}

test('how far, the unit, the direction and the anchor are changed each by itself', async () => {
  const onchange = shown('-P7D');
  await fireEvent.input(screen.getByLabelText('How many'), { target: { value: '3' } });
  expect(onchange).toHaveBeenLastCalledWith({ anchor: 'today', offset: '-P3D' });
  await fireEvent.change(screen.getByLabelText('Unit'), { target: { value: 'M' } });
  expect(onchange).toHaveBeenLastCalledWith({ anchor: 'today', offset: '-P7M' });
  await fireEvent.change(screen.getByLabelText('Direction'), { target: { value: 'after' } });
  expect(onchange).toHaveBeenLastCalledWith({ anchor: 'today', offset: 'P7D' });
  await fireEvent.change(screen.getByLabelText('From when'), { target: { value: 'start of month' } });
  expect(onchange).toHaveBeenLastCalledWith({ anchor: 'start of month', offset: '-P7D' });
});

test('what only several units say is shown and kept as it is', async () => {
  const onchange = shown('-P1M15D');
  const field = screen.getByLabelText<HTMLInputElement>('How far, as an ISO 8601 duration');
  expect(field.value).toBe('-P1M15D');
  await fireEvent.change(screen.getByLabelText('From when'), { target: { value: 'start of year' } });
  expect(onchange).toHaveBeenLastCalledWith({ anchor: 'start of year', offset: '-P1M15D' });
});

test('only moments move by hours and count from now', () => {
  shown('P1D');
  const units = () => [...screen.getByLabelText<HTMLSelectElement>('Unit').options].map((one) => one.text);
  expect(units()).toEqual(['days', 'weeks', 'months', 'years']);
});

test('a moment counts from now too', () => {
  shown('-PT6H', 'date and time');
  const anchors = screen.getByLabelText<HTMLSelectElement>('From when');
  expect(anchors.options[0]?.text).toBe('now');
  expect(screen.getByLabelText<HTMLSelectElement>('Unit').selectedOptions[0]?.text).toBe('hours');
});
