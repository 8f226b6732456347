/** The figures that are told of a table on every date. */
import type { WatchInfo } from '../api/client';
import { choices, entryOf } from '../domain/choices';

export type FigureName = WatchInfo['watch']['figure'];

export const figuresOverTime = () => choices().figures.filter((one) => one.over_time);

/** Whether a figure is of a column, and of its numbers alone. */
export const figureOf = (figure: FigureName) => {
  const { column, over_time } = entryOf(choices().figures, figure);
  return { column, numbers: over_time === 'number' };
};

/** “mean delay”, “rows”. */
export const figureWords = (figure: FigureName, column: string): string =>
  entryOf(choices().figures, figure).words.replace('{}', column);

/** The figure that an address names; the number of rows where it names none that there is. */
export const namedFigure = (key: string | null): FigureName =>
  (figuresOverTime().find((one) => one.key === key)?.key ?? 'rows') as FigureName;
