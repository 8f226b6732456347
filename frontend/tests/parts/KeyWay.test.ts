// @vitest-environment jsdom
import { fireEvent, render } from '@testing-library/svelte';
import { expect, test } from 'vitest';
import { choices } from '../../src/domain/choices';
import { ways } from '../../src/domain/credentials';
import KeyWay from '../../src/parts/KeyWay.svelte';

test('every way of a key shows the fields of its placement or of its source', async () => {
  const { container } = render(KeyWay, { key: null, name: 'its key' });
  const select = container.querySelector('select[name=key-way]') as HTMLSelectElement;
  expect([...select.options].map((one) => one.value)).toEqual(['none', ...ways().map((way) => way.id)]);
  for (const way of ways()) {
    await fireEvent.change(select, { target: { value: way.id } });
    const source = choices().sources.find((one) => one.key === way.id);
    for (const field of source?.fields ?? [])
      expect(
        container.querySelector(`[name="source-${field.name}"]`),
        `${way.id}: ${field.name}`,
      ).not.toBeNull();
  }
});

test('a required address begins with a usable value, so that the form can be sent', async () => {
  const { container } = render(KeyWay, { key: null, name: 'its key' });
  const select = container.querySelector('select[name=key-way]') as HTMLSelectElement;
  for (const way of ways()) {
    await fireEvent.change(select, { target: { value: way.id } });
    for (const field of container.querySelectorAll<HTMLInputElement>('input[required]'))
      expect(field.value, `${way.id}: ${field.name}`).not.toBe('');
  }
});
