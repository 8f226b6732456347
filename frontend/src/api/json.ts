/** JSON whose whole numbers keep every digit: above 2^53 they are bigints, and are written as they were read. */
import { isInteger, isSafeNumber, parse, stringify } from 'lossless-json';

/** Runs of digits that a double may not hold; a text without one is read by the faster parser. */
const LONG = /\d{16}/;

const numberOf = (text: string): number | bigint =>
  isInteger(text) && !isSafeNumber(text) ? BigInt(text) : Number(text);

/**
 * Read a JSON text (RFC 8259).
 *
 * @throws SyntaxError when it is none.
 */
export function readJson(text: string): unknown {
  return LONG.test(text) ? parse(text, undefined, numberOf) : JSON.parse(text);
}

/** Write a value as JSON; what cannot be written, such as a function, is left out. */
export function writeJson(value: unknown, indent?: number): string {
  return stringify(value, undefined, indent) ?? '';
}

/** Whether two values are the same as JSON, members in the same order. */
export const sameJson = (one: unknown, other: unknown): boolean => writeJson(one) === writeJson(other);

/** A whole number that a person typed, with every digit; `null` when it is none. */
export function wholeOf(text: string): number | bigint | null {
  const plain = text.trim();
  if (!/^[+-]?\d+$/.test(plain)) return null;
  const number = Number(plain);
  return Number.isSafeInteger(number) ? number : BigInt(plain);
}
