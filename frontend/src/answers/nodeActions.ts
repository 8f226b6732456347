/** What a click on a node of an answer does, and what it asks first. */
import type { ColumnSpec, ListReduction, RecordsGuess } from '../api/client';
import { newColumn } from '../domain/columns';
import { EACH, formatPlace, nameOf, type Relation, type Segment, type Steps } from '../domain/jsonpath';
import type { Asked } from './TakeMenu.svelte';
import type { TreeNode } from './tree.svelte';

export type Question = Omit<Asked, 'box'>;

/** How the answer is read, and what happens with what is chosen. */
export interface Rules {
  /** The place of the records. */
  path: readonly Segment[] | null;
  rowsFor: string[];
  taken: Set<string>;
  guesses: RecordsGuess[];
  ontake: (column: ColumnSpec) => void;
  onrecords: (guess: Partial<RecordsGuess> & { path: string }) => void;
  onrows: (place: string, on: boolean, keyed: boolean) => void;
  onask: (question: Question, event: MouseEvent) => void;
}

/** What a click on a node does. */
export interface NodeAction {
  words: string;
  on: boolean;
  act: (event: MouseEvent) => void;
  /** Whether it is shown before the row is pointed at. */
  near?: boolean;
}

const key = (of: string, place: string) => `${of} ${place}`;

/** What can be done with a node, by what it is beside the records. */
export function actionsOf(node: TreeNode, relation: Relation, rules: Rules): NodeAction[] {
  const { path, rowsFor, taken, ontake, onrows, onask } = rules;
  const { info, steps } = node;
  const isList = info.kind === 'list';
  if (relation.what === 'records') return [];
  if (relation.what === 'outside') {
    if (isList || info.kind === 'object') return rowActions(node, formatPlace([...steps, EACH]), rules);
    return [field('answer', relation.place, steps, rules)];
  }
  if (relation.what === 'record') {
    const keyed = typeof steps.at(-1) === 'string' && path?.at(-1) === EACH;
    if (!keyed) return info.kind === 'object' || isList ? [] : [field('record', '$', steps, rules)];
    const on = taken.has(key('key', '$'));
    const act = () => ontake(newColumn('$', 'key', { of: 'key' }));
    return [{ words: on ? '✓ its name is a column' : 'make its name a column', on, act }];
  }
  const inner = relation.lists.find((one) => !rowsFor.includes(one.place));
  if (isList || (info.kind === 'object' && info.text === 'alike')) {
    if (rowsFor.includes(relation.place))
      return [{ words: '✓ a row for each', on: true, act: () => onrows(relation.place, false, !isList) }];
    const on =
      taken.has(key('list of record', `${relation.place}[*]`)) || taken.has(key('record', relation.place));
    const act = (event: MouseEvent) => onask(askedOf(node, relation.place, `${relation.place}[*]`), event);
    // As long as the whole answer is the record, any list may be the rows.
    const rows = path?.length === 0 && !rowsFor.length ? rowActions(node, `${relation.place}[*]`, rules) : [];
    return [...rows, { words: on ? '✓ a column …' : 'take it as …', on, near: !rows.length, act }];
  }
  if (info.kind === 'object')
    return path?.length === 0 ? rowActions(node, `${relation.place}[*]`, rules) : [];
  const last = relation.lists.at(-1);
  if (!inner && last) {
    const act = (event: MouseEvent) => onask(askedOf(node, last.place, relation.place, last.depth), event);
    return [
      field('record', relation.place, steps, rules),
      { words: 'one value for each record …', on: false, act },
    ];
  }
  if (!inner) return [field('record', relation.place, steps, rules)];
  const on = taken.has(key('list of record', relation.place));
  const act = (event: MouseEvent) => onask(askedOf(node, inner.place, relation.place, inner.depth), event);
  return [{ words: on ? '✓ a column …' : 'make it a column …', on, act }];
}

/** Taking a list's items, an object's members, or the lists in an object side by side as the records. */
function rowActions(node: TreeNode, each: string, { guesses, onrecords }: Rules): NodeAction[] {
  const { info, steps } = node;
  const isList = info.kind === 'list';
  if (isList || info.text === 'alike') {
    const guess = guesses.find((one) => one.path === each);
    const words = isList ? 'take its items as rows' : 'take its members as rows';
    return [
      {
        words,
        on: false,
        near: steps.length < 4 || !!guess,
        act: () => onrecords(guess ?? { path: each }),
      },
    ];
  }
  const guess = guesses.find((one) => one.path === formatPlace(steps) && one.rows_for.length);
  return guess
    ? [{ words: 'take its lists side by side', on: false, near: true, act: () => onrecords(guess) }]
    : [];
}

function field(of: 'record' | 'answer', place: string, steps: Steps, { taken, ontake }: Rules): NodeAction {
  const on = taken.has(key(of, place));
  const name =
    place === '$'
      ? 'value'
      : nameOf(of === 'answer' ? formatPlace(steps.filter((s) => typeof s === 'string')) : place);
  const act = () => ontake(newColumn(place, name, { of }));
  return { words: on ? '✓ a column' : 'make it a column', on, act };
}

/** What is asked of a list in the records, or of a value in it. */
function askedOf(node: TreeNode, list: string, place: string, depth?: number): Question {
  const siblings: Asked['siblings'] = [];
  let texts = 0;
  if (depth !== undefined) {
    // The item that the value lies in: its plain members tell it from the others.
    let item: TreeNode | null = node;
    while (item && item.steps.length > depth + 1) item = item.parent;
    for (const child of item?.children.values() ?? []) {
      const { kind, text, name } = child.info;
      if (child === node || typeof name !== 'string' || !['text', 'number', 'yes/no'].includes(kind))
        continue;
      if (text.length > 60) continue;
      // Values are told apart by their text, so that long ids keep every digit.
      const one = { place: formatPlace([name]), name, value: text };
      if (kind === 'text') siblings.splice(texts++, 0, one);
      else siblings.push(one);
    }
  }
  return {
    list,
    place,
    siblings: siblings.slice(0, 4),
    isNumber: node.info.kind === 'number',
    keyed: node.info.kind === 'object',
    isList: depth === undefined,
  };
}

/** The name of a column that is made of a value in a list. */
export function columnName(place: string, how: ListReduction | null): string {
  const base = nameOf(place);
  const name =
    how?.by === 'where'
      ? `${base}, ${String(how.equals)}`
      : how && how.by !== 'joined'
        ? `${base}, ${how.by}`
        : base;
  return name.slice(0, 200);
}
