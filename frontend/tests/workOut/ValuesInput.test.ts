// @vitest-environment jsdom
import { fireEvent, render, screen } from '@testing-library/svelte';
import { expect, test } from 'vitest';
import ValuesInput from '../../src/workOut/fields/ValuesInput.svelte';

async function start(values: unknown[]) {
  let now = values;
  const props = { column: 'port', values, label: 'Values', onchange: (next: unknown[]) => (now = next) };
  const { rerender } = render(ValuesInput, { props });
  const field = screen.getByLabelText<HTMLInputElement>('Values');
  const settle = () => rerender({ ...props, values: now });
  const type = async (text: string) => {
    await fireEvent.input(field, { target: { value: text } });
    await settle();
  };
  const press = async (key: string) => {
    await fireEvent.keyDown(field, { key });
    await settle();
  };
  return { field, type, press, settle, values: () => now };
}

test('what is being typed counts at once, and a comma or Enter takes it', async () => {
  const { field, type, press, values } = await start([]);
  await type('Har');
  expect(values()).toEqual(['Har']);
  await type('Harl');
  expect(values()).toEqual(['Harl']);
  await type('Harl,');
  expect(values()).toEqual(['Harl']);
  expect(field.value).toBe('');
  await type('Oss');
  await press('Enter');
  expect(values()).toEqual(['Harl', 'Oss']);
  expect(field.value).toBe('');
});

test('a value is taken out by its button, the last one with Backspace', async () => {
  const { field, press, settle, values } = await start(['a', 'b, c', 'd']);
  await fireEvent.click(screen.getByTitle('Take b, c out'));
  await settle();
  expect(values()).toEqual(['a', 'd']);
  field.focus();
  await press('Backspace');
  expect(values()).toEqual(['a']);
});
