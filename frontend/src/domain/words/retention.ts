/** How long snapshots stay, in words. */
import type { Brief } from '../../api/client';
import { counted } from './format';

export type KeepRule = NonNullable<Brief['keep']['snapshots']>;

/** "stays for 30 days, then one a week for 26 weeks, then one a month". */
export function retentionWords(rule: KeepRule | null | undefined): string {
  if (!rule) return 'each stays';
  const parts = [`each stays for ${counted(rule.days, 'day')}`];
  if (rule.weeks) parts.push(`then one a week for ${counted(rule.weeks, 'week')}`);
  if (rule.months == null) parts.push('then one a month');
  else if (rule.months) parts.push(`then one a month for ${counted(rule.months, 'month')}`);
  return parts.join(', ');
}
