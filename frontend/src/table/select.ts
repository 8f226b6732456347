/** A block of selected cells, and what is copied of it. */
import type { Cell, Column } from '../api/client';

export interface At {
  row: number;
  column: number;
}

export interface Block {
  top: number;
  bottom: number;
  left: number;
  right: number;
}

/** The cells between two corners. */
export function blockOf(one: At, other: At): Block {
  return {
    top: Math.min(one.row, other.row),
    bottom: Math.max(one.row, other.row),
    left: Math.min(one.column, other.column),
    right: Math.max(one.column, other.column),
  };
}

export function isInside(block: Block, row: number, column: number): boolean {
  return row >= block.top && row <= block.bottom && column >= block.left && column <= block.right;
}

export const cellsIn = (block: Block): number =>
  (block.bottom - block.top + 1) * (block.right - block.left + 1);

/** A value as a workbook takes it in a pasted cell: as it is, not as it is shown. */
function pasted(cell: Cell): string {
  if (cell === null || typeof cell === 'object') return '';
  if (typeof cell === 'boolean') return cell ? 'TRUE' : 'FALSE';
  const text = String(cell);
  return /[\t\n\r"]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/** Rows as text that pastes into cells; with headings where whole columns or several rows are copied. */
export function tabbed(rows: Cell[][], columns: Column[], headed: boolean): string {
  const lines = rows.map((row) => row.map(pasted).join('\t'));
  if (headed) lines.unshift(columns.map((column) => pasted(column.name)).join('\t'));
  return lines.join('\r\n');
}

const MOVES: Record<string, [number, number]> = {
  ArrowDown: [1, 0],
  ArrowUp: [-1, 0],
  ArrowRight: [0, 1],
  ArrowLeft: [0, -1],
};

/** Where a key leads from a cell; nothing for keys that lead nowhere. `page` is how many rows are in sight. */
export function moved(
  from: At,
  event: Pick<KeyboardEvent, 'key' | 'ctrlKey' | 'metaKey'>,
  rows: number,
  columns: number,
  page: number,
): At | null {
  const far = event.ctrlKey || event.metaKey;
  const move = MOVES[event.key];
  let { row, column } = from;
  if (move) {
    row += move[0] * (far ? rows : 1);
    column += move[1] * (far ? columns : 1);
  } else if (event.key === 'PageDown') row += page;
  else if (event.key === 'PageUp') row -= page;
  else if (event.key === 'Home') [row, column] = [far ? 0 : row, 0];
  else if (event.key === 'End') [row, column] = [far ? rows - 1 : row, columns - 1];
  else return null;
  return {
    row: Math.max(0, Math.min(rows - 1, row)),
    column: Math.max(0, Math.min(columns - 1, column)),
  };
}
