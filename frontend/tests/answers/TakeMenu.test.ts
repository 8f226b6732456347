// @vitest-environment jsdom
import { fireEvent, render, screen } from '@testing-library/svelte';
import { expect, test, vi } from 'vitest';
import TakeMenu, { type Asked } from '../../src/answers/TakeMenu.svelte';
import { choices } from '../../src/domain/choices';

const FARES: Asked = {
  list: '$.fares',
  place: '$.fares[*].amount',
  siblings: [{ place: '$.class', name: 'class', value: 'car' }],
  isNumber: true,
  keyed: false,
  isList: false,
  box: new DOMRect(10, 10, 80, 20),
};

function shown(asked: Partial<Asked> = {}) {
  const [ontake, onrows, onown, onclose] = [vi.fn(), vi.fn(), vi.fn(), vi.fn()];
  render(TakeMenu, { asked: { ...FARES, ...asked }, ontake, onrows, onown, onclose });
  return { ontake, onrows, onown, onclose };
}

test('every list reduction of the server is offered for numbers, and taken with a click', async () => {
  const { ontake, onclose } = shown();
  for (const one of choices().reductions.filter((found) => !found.fields.length)) {
    await fireEvent.click(screen.getByText(one.phrase));
    expect(ontake).toHaveBeenLastCalledWith(expect.objectContaining({ by: one.key }));
  }
  expect(onclose).toHaveBeenCalled();
});

test('sums and the like are offered of numbers alone', () => {
  shown({ isNumber: false });
  for (const one of choices().reductions.filter((found) => found.numeric))
    expect(screen.queryByText(one.phrase)).toBeNull();
  expect(screen.getByText('car', { exact: false })).toBeTruthy();
});

test('the item is told by a field beside the value', async () => {
  const { ontake } = shown();
  await fireEvent.click(screen.getByText('where class is car', { exact: false }));
  expect(ontake).toHaveBeenCalledWith({ by: 'where', place: '$.class', equals: 'car' });
});

test('the list itself becomes rows, a text or a table of its own', async () => {
  const { ontake, onrows, onown } = shown({ isList: true, place: '$.fares[*]', siblings: [] });
  await fireEvent.click(screen.getByText('A row for each of its items'));
  expect(onrows).toHaveBeenCalledOnce();
  await fireEvent.click(screen.getByText('all of it, as JSON text'));
  expect(ontake).toHaveBeenCalledWith(null);
  await fireEvent.click(screen.getByText('A table of its own'));
  expect(onown).toHaveBeenCalledOnce();
});
