/** What a new service is, and its limits in words. */
import type { Service } from '../api/client';
import { durationWords, type Unit } from './words/durations';

export type LimitWindow = Service['limits'][number];
export type Again = Service['again'][number];
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
    most_address: null,
    conditional: true,
    unchanged_counts: true,
    find_out: false,
    tries: 5,
    again: [],
    error_rules: [],
  };
}

/** The units that a limit is told in. */
export const LIMIT_UNITS: [Unit, string][] = [
  ['TS', 'seconds'],
  ['TM', 'minutes'],
  ['TH', 'hours'],
  ['D', 'days'],
];

/** "90 calls in 10 seconds", "5,000 calls a day from midnight, UTC". */
export function windowWords(window: LimitWindow): string {
  const calls = `${window.calls.toLocaleString('en-GB')} ${window.calls === 1 ? 'call' : 'calls'}`;
  const span = durationWords(window.per);
  const start = window.starts === 'calendar' ? ` from midnight, ${window.zone}` : '';
  return `${calls} ${/^\d/.test(span) ? 'in' : span === 'hour' ? 'an' : 'a'} ${span}${start}`;
}
