import { expect, test } from 'vitest';
import { readable } from '../../../src/domain/words/address';

test('what is written in percent for the network is read as it is meant', () => {
  expect(readable('https://api.example/ports?filter%5Bport%5D=Halifjord%C3%B8')).toBe(
    'https://api.example/ports?filter[port]=Halifjordø',
  );
  expect(readable('https://api.example/%7Bport%7D')).toBe('https://api.example/{port}');
});

test('what would say something else stays as it is', () => {
  for (const code of ['%26', '%3D', '%23', '%3F', '%2F', '%2B', '%25', '%20', '%0A', '%E2%80%AE'])
    expect(readable(`https://api.example/?a=1${code}b`)).toBe(`https://api.example/?a=1${code}b`);
  expect(readable('https://api.example/%FF%41')).toBe('https://api.example/%FF%41');
});
