// @vitest-environment jsdom
import { fireEvent, render } from '@testing-library/svelte';
import { expect, test, vi } from 'vitest';
import { choices, type FieldInfo } from '../../src/domain/choices';
import ChoiceFields from '../../src/ui/ChoiceFields.svelte';

const field = (kind: string, rest: Partial<FieldInfo> = {}): FieldInfo => ({
  name: 'f',
  label: 'F',
  kind,
  placeholder: '',
  required: false,
  least: null,
  options: [],
  wide: false,
  many: false,
  with_field: '',
  with_values: [],
  more: false,
  ...rest,
});

function shown(one: FieldInfo, value: unknown) {
  const onchange = vi.fn();
  const { container } = render(ChoiceFields, { fields: [one], values: { f: value }, prefix: 'p-', onchange });
  const input = container.querySelector('[name=p-f]') as HTMLInputElement;
  return { onchange, input, container };
}

test('every field of every registry is drawn', () => {
  const { pagination, placements, sources, reductions, parameters } = choices();
  for (const entry of [...pagination, ...placements, ...sources, ...reductions, ...parameters]) {
    const { container } = render(ChoiceFields, {
      fields: entry.fields,
      values: entry.defaults,
      prefix: `${entry.key}-`,
      onchange: () => {},
    });
    const names = [...container.querySelectorAll('[name]')].map((one) => one.getAttribute('name'));
    expect(names, entry.key).toEqual(entry.fields.map((one) => `${entry.key}-${one.name}`));
  }
});

test('minutes are typed and a duration is kept', async () => {
  const { onchange, input } = shown(field('minutes'), 'PT1H30M');
  expect(input.value).toBe('90');
  await fireEvent.change(input, { target: { value: '45' } });
  expect(onchange).toHaveBeenLastCalledWith('f', 'PT45M');
});

test('JSON that is being typed is kept in sight until it is JSON', async () => {
  const { onchange, input, container } = shown(field('json'), { kind: 'json', value: { a: 1 } });
  await fireEvent.input(input, { target: { value: '{"a": ' } });
  expect(onchange).not.toHaveBeenCalled();
  expect([input.value, container.textContent?.includes('This is not JSON yet')]).toEqual(['{"a": ', true]);
  await fireEvent.input(input, { target: { value: '{"a": 2}' } });
  expect(onchange).toHaveBeenCalledOnce();
  expect(container.textContent).not.toContain('This is not JSON yet');
});

test('names stand between commas, an emptied number is none', async () => {
  const names = shown(field('names'), ['a', 'b']);
  expect(names.input.value).toBe('a, b');
  await fireEvent.change(names.input, { target: { value: 'a,, c ' } });
  expect(names.onchange).toHaveBeenLastCalledWith('f', ['a', 'c']);
  const number = shown(field('number'), 7);
  await fireEvent.change(number.input, { target: { value: '' } });
  expect(number.onchange).toHaveBeenLastCalledWith('f', null);
});
