/** The figures that are told of a table through time. */
export type Figure = 'rows' | 'filled' | 'distinct' | 'sum' | 'mean' | 'lowest' | 'highest';

export const FIGURES: Record<Figure, { label: string; numbers: boolean }> = {
  rows: { label: 'number of rows', numbers: false },
  sum: { label: 'sum of', numbers: true },
  mean: { label: 'mean of', numbers: true },
  lowest: { label: 'lowest of', numbers: true },
  highest: { label: 'highest of', numbers: true },
  distinct: { label: 'different values of', numbers: false },
  filled: { label: 'rows with a value of', numbers: false },
};

export const figureWords = (figure: Figure, column: string): string =>
  figure === 'rows' ? FIGURES.rows.label : `${FIGURES[figure].label} ${column}`;
