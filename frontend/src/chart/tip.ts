/** What the pointer is told of the marks below it. */
import type { ChartMade } from '../api/client';
import { numberText } from '../domain/words/format';
import { cut, placeText, valueText } from './words';

export interface Pointed {
  seriesIndex: number;
  dataIndex: number;
  color: string;
}

/** Which panel, and which of its series, a series of the option is. */
export function seriesAt(made: ChartMade, number: number): { panel: number; series: number } {
  let rest = number;
  for (const [panel, own] of made.panels.entries()) {
    if (rest < own.series.length) return { panel, series: rest };
    rest -= own.series.length;
  }
  return { panel: 0, series: 0 };
}

/** An element, not a text: what stands in a table is never read as markup. */
export function tipOf(made: ChartMade, found: Pointed[]): HTMLElement {
  const box = document.createElement('div');
  const line = (words: string, bold = false, color = ''): void => {
    const row = box.appendChild(document.createElement('div'));
    if (color) {
      const dot = row.appendChild(document.createElement('span'));
      dot.style.cssText = `display:inline-block;width:9px;height:9px;margin-right:6px;border-radius:2px;background:${color}`;
    }
    row.append(words);
    if (bold) row.style.fontWeight = '600';
  };
  const told = found.filter((one) => {
    const { panel, series } = seriesAt(made, one.seriesIndex);
    return made.panels[panel]?.series[series]?.y[one.dataIndex] != null;
  });
  told.slice(0, 14).forEach((one, at) => {
    const { panel, series } = seriesAt(made, one.seriesIndex);
    const own = made.panels[panel]?.series[series];
    if (!own) return;
    if (!at)
      line(
        [made.panels[panel]?.name, placeText(made, panel, series, one.dataIndex)].filter(Boolean).join(' · '),
        true,
      );
    const axis = made.y[own.axis] ?? made.y[0];
    const value = own.y[one.dataIndex];
    if (axis && value != null)
      line(
        `${own.then ? 'then, ' : ''}${cut(own.name || axis.name, 40)}  ${valueText(value, axis)}`,
        false,
        one.color,
      );
    const size = own.size?.[one.dataIndex];
    if (size != null) line(`size ${numberText(size)}`);
  });
  if (told.length > 14) line(`and ${told.length - 14} more`);
  return box;
}
