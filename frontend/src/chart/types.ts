/** The parts of a drawing, and of an option of ECharts. */
import type { ChartMade } from '../api/client';

export type Panel = ChartMade['panels'][number];
export type Series = Panel['series'][number];
export type Entry = Record<string, unknown>;

export interface Size {
  width: number;
  height: number;
}
