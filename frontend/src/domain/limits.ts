/** What a new service is, and its limits in words. */
import type { Service } from '../api/client';
import { durationWords } from './words/labels';

export type LimitWindow = Service['limits'][number];
export type Fault = Service['error_rules'][number];

/** A service that nothing is known of yet. */
export function blankService(caller: string): Service {
  return {
    id: 'new',
    name: '',
    base: '',
    headers: caller ? [{ name: 'User-Agent', value: caller }] : [],
    timeout: 30,
    connect: 10,
    check: '/',
    docs: '',
    note: '',
    key: null,
    limits: [],
    at_once: 4,
    tries: 5,
    error_rules: [],
  };
}

export type Unit = 'S' | 'M' | 'H' | 'D';
export const UNITS: [Unit, string][] = [
  ['S', 'seconds'],
  ['M', 'minutes'],
  ['H', 'hours'],
  ['D', 'days'],
];

/** PT10S → 10 and its unit; what is not of this plain form is read as a minute. */
export function amountOf(per: string): { amount: number; unit: Unit } {
  const match = /^P(?:(\d+)D|T(\d+)([HMS]))$/.exec(per);
  if (!match) return { amount: 1, unit: 'M' };
  return match[1]
    ? { amount: Number(match[1]), unit: 'D' }
    : { amount: Number(match[2]), unit: match[3] as Unit };
}

export function perOf(amount: number, unit: Unit): string {
  return unit === 'D' ? `P${amount}D` : `PT${amount}${unit}`;
}

/** "90 calls in 10 seconds", "5,000 calls a day from midnight, UTC". */
export function windowWords(window: LimitWindow): string {
  const calls = `${window.calls.toLocaleString('en-GB')} ${window.calls === 1 ? 'call' : 'calls'}`;
  const span = durationWords(window.per);
  const start = window.starts === 'calendar' ? ` from midnight, ${window.zone}` : '';
  return `${calls} ${/^\d/.test(span) ? 'in' : span === 'hour' ? 'an' : 'a'} ${span}${start}`;
}
