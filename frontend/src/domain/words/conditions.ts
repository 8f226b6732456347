/** Filters in words. */
import type { Condition } from '../../api/client';

/** A filter in words. */
export function conditionWords(one: Condition): string {
  const not = one.no ? 'not ' : '';
  switch (one.by) {
    case 'text':
      return `${one.column} ${one.no ? 'without' : 'with'} “${one.text}”`;
    case 'empty':
      return `${one.column} ${one.no ? 'has a value' : 'is empty'}`;
    case 'one of':
      return `${one.column} is ${not}${one.values.map((value) => value || 'empty').join(' or ')}`;
    default: {
      const [low, high] = [one.low ?? '', one.high ?? ''];
      if (low && high) return `${one.column} ${not}from ${low} to ${high}`;
      return low ? `${one.column} ${not}from ${low} on` : `${one.column} ${not}up to ${high}`;
    }
  }
}
