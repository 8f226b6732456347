/** Which changes of a column are wanted, and in which order. */
export interface SizeChoice {
  way: 'any' | 'up' | 'down';
  /** By how much more they changed, in the unit of `measure`. */
  least: number;
  measure: 'amount' | 'percent';
  order: 'table' | 'size';
}

export const EVERY_SIZE: SizeChoice = { way: 'any', least: 0, measure: 'amount', order: 'table' };

/** Whether fewer rows than all are wanted. */
export function narrows(choice: SizeChoice): boolean {
  return choice.way !== 'any' || choice.least > 0;
}
