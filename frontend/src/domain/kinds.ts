/** Column kinds, as the server's registry has them. */
import type { Column, Kind } from '../api/client';
import { choices } from './choices';

type Kinded = Pick<Column, 'kind'>;

const kindOf = (name: string) => choices().kinds.find((one) => one.name === name);

/** Whether a column's values are numbers, which stand at the right. */
export const isNumeric = (column: Kinded): boolean => kindOf(column.kind)?.numeric ?? false;

/** Whether a column's values are dates or moments. */
export const isTemporal = (column: Kinded): boolean => kindOf(column.kind)?.temporal ?? false;

/** Whether a member of how values are read matters for a column's kind. */
export const readsWith = (column: Kinded, member: string): boolean =>
  kindOf(column.kind)?.read_with.includes(member) ?? false;

/** The kinds that are offered, with their labels. */
export const offeredKinds = (): { name: Kind; label: string }[] =>
  choices()
    .kinds.filter((one) => one.label)
    .map(({ name, label }) => ({ name: name as Kind, label }));

/** A kind as people call it. Lists and objects, which stand in a cell as they came, are none that is offered. */
export const kindWords = (name: string): string =>
  kindOf(name)?.label || (name === 'json' ? 'list or object' : name);
