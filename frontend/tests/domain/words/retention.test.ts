import { expect, test } from 'vitest';
import { retentionWords } from '../../../src/domain/words/retention';

test('a rule is said in the order in which it takes hold', () => {
  expect(retentionWords(null)).toBe('each stays');
  expect(retentionWords({ days: 30, weeks: 26, months: null })).toBe(
    'each stays for 30 days, then one a week for 26 weeks, then one a month',
  );
  expect(retentionWords({ days: 1, weeks: 0, months: 0 })).toBe('each stays for 1 day');
  expect(retentionWords({ days: 7, weeks: 0, months: 24 })).toBe(
    'each stays for 7 days, then one a month for 24 months',
  );
});
