import { describe, expect, test } from 'vitest';
import { readJson, sameJson, wholeOf, writeJson } from '../../src/api/json';
import { builtOf, editOf } from '../../src/domain/parameters';

/** Whole numbers of 1 to 40 digits, the same ones in every run. */
function* numbers(): Generator<string> {
  let seed = 7;
  for (let turn = 0; turn < 400; turn++) {
    const digits = Array.from({ length: 1 + (turn % 40) }, () => {
      seed = (seed * 1103515245 + 12345) % 2 ** 31;
      return String(seed % 10);
    }).join('');
    yield (turn % 3 ? '' : '-') + (digits.replace(/^0+/, '') || '1');
  }
}

describe('exact JSON', () => {
  test('whole numbers of every length are written as they were read', () => {
    for (const number of numbers()) {
      const text = `{"a":${number},"b":[${number},{"c":"${number}"}],"d":1.5,"e":null,"f":true}`;
      expect(writeJson(readJson(text))).toBe(text);
    }
  });

  test('numbers that a double holds are plain numbers', () => {
    expect(readJson('[9007199254740991,0.25,1e3]')).toEqual([9007199254740991, 0.25, 1000]);
    expect(readJson('[9007199254740993]')).toEqual([9007199254740993n]);
  });

  test('two documents that differ beyond the precision of a double are not the same', () => {
    expect(sameJson(readJson('{"id":123456789012345678}'), readJson('{"id":123456789012345679}'))).toBe(
      false,
    );
    expect(sameJson({ a: [1, 'x'] }, { a: [1, 'x'] })).toBe(true);
  });

  test('a typed whole number keeps every digit', () => {
    expect(wholeOf(' 123456789012345678 ')).toBe(123456789012345678n);
    expect(wholeOf('-42')).toBe(-42);
    expect(wholeOf('4.2')).toBeNull();
  });

  test('a parameter comes through its form with every digit', () => {
    for (const number of numbers()) {
      const document = `{"name":"id","kind":"whole number","label":"","hint":"","required":true,"ask":true,"many":false,"send":"joined","separator":",","default":${number}}`;
      const parameter = readJson(document) as Parameters<typeof editOf>[0];
      const made = readJson(writeJson(builtOf(editOf(parameter, undefined, undefined)))) as {
        default: unknown;
      };
      expect(String(made.default)).toBe(String(BigInt(number)));
    }
  });
});
