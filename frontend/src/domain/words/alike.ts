/** What counts as the same where two tables are compared, in words. */
import type { AlikeRule } from '../../api/client';
import { choices, entryOf, filled, type Values } from '../choices';

/** “fare within 1 %”, “updated is ignored”. */
export function alikeWords(rule: AlikeRule): string {
  const own = entryOf(choices().alike, rule.by);
  const columns = rule.columns?.length ? rule.columns.join(' and ') : 'every column';
  if (own.ignores) return `${columns} is ignored`;
  return `${columns} ${filled(own.phrase, own.fields, rule as Values)}`;
}
