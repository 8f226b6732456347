/** The desk's lines as somebody looks for one. */
import type { QueryLine } from '../api/client';

/** The lines whose name, note or service has every word of a text, whatever its case. */
export function linesWith(lines: QueryLine[], text: string): QueryLine[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  if (!words.length) return lines;
  return lines.filter((line) => {
    const own = `${line.name}\n${line.note}\n${line.service}`.toLowerCase();
    return words.every((word) => own.includes(word));
  });
}
