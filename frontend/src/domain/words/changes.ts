/** What a change to a brief did, in a few words, for “undo: …”. */
import { sameJson } from '../../api/json';
import type { Brief } from '../../api/client';
import { choices } from '../choices';
import { count } from './format';

interface Named {
  name: string;
}

/** How two lists of named things differ: a thing more, a thing less, another name, another order, other contents. */
function listed<T extends Named>(
  what: string,
  before: T[],
  after: T[],
  inside?: (was: T, now: T) => string,
): string {
  const names = (list: T[]): string[] => list.map((one) => one.name);
  const added = after.filter((one) => !names(before).includes(one.name));
  const gone = before.filter((one) => !names(after).includes(one.name));
  const [more] = added;
  const [less] = gone;
  if (added.length === 1 && gone.length === 1 && before.length === after.length && more && less)
    return `renamed ${less.name} to ${more.name}`;
  if (added.length && gone.length) return `changed the ${what}s`;
  if (more) return added.length === 1 ? `added ${more.name}` : `added ${count(added.length)} ${what}s`;
  if (less) return gone.length === 1 ? `removed ${less.name}` : `removed ${count(gone.length)} ${what}s`;
  const changed = after.filter(
    (one) =>
      !sameJson(
        one,
        before.find((old) => old.name === one.name),
      ),
  );
  const [only] = changed;
  if (!only) return `reordered the ${what}s`;
  if (changed.length > 1) return `changed ${count(changed.length)} ${what}s`;
  const was = before.find((old) => old.name === only.name) as T;
  return inside?.(was, only) ?? `changed ${only.name}`;
}

type Columns = NonNullable<Brief['take']['columns']>;

function columnWords(was: Columns[number], now: Columns[number]): string {
  const { name } = now;
  if (was.hidden !== now.hidden) return now.hidden ? `hid ${name}` : `showed ${name}`;
  if (was.kind !== now.kind || !sameJson(was.reads, now.reads))
    return now.kind ? `read ${name} as ${now.kind}` : `changed the kind of ${name}`;
  if (was.unit !== now.unit) return `changed the unit of ${name}`;
  if (was.note !== now.note) return `changed the note of ${name}`;
  return `changed ${name}`;
}

function takeWords(before: Brief['take'], after: Brief['take']): string {
  if (before.records !== after.records) return 'chose other rows';
  if (!sameJson(before.rows_for, after.rows_for)) return 'changed what is a row';
  if (before.columns && after.columns) return listed('column', before.columns, after.columns, columnWords);
  if (after.columns && !before.columns) return 'chose columns';
  return before.columns && !after.columns ? 'took all columns' : 'changed what is taken';
}

function keepWords(before: Brief['keep'], after: Brief['keep']): string {
  if (!sameJson(before.match, after.match)) return 'changed the match columns';
  if (before.paused !== after.paused) return after.paused ? 'paused the schedule' : 'resumed the schedule';
  if (!sameJson(before.schedule, after.schedule)) return 'changed the schedule';
  if (!sameJson(before.alike, after.alike)) return 'changed what counts as the same';
  if (!sameJson(before.renamed, after.renamed)) return 'changed which column is which';
  return sameJson(before.snapshots, after.snapshots)
    ? 'changed how long answers are kept'
    : 'changed how long snapshots stay';
}

function workedWords(before: Brief['work_out'], after: Brief['work_out']): string {
  const name = (line: Brief['work_out'][number] | undefined): string =>
    (line && choices().lines.find((one) => one.key === line.do)?.label) ?? 'a line';
  const at = after.findIndex((line, index) => !sameJson(line, before[index]));
  if (after.length > before.length) return `added ${name(after[at])}`;
  if (after.length < before.length)
    return `removed ${name(before.find((line, index) => !sameJson(line, after[index])))}`;
  const changed = after.filter((line, index) => !sameJson(line, before[index]));
  const [was, now] = [before[at], after[at]];
  if (changed.length > 1) return 'moved a line';
  if (was && now && was.off !== now.off) return `switched ${name(now)} ${now.off ? 'off' : 'on'}`;
  return `changed ${name(now)}`;
}

function chartWords(before: Brief['show'], after: Brief['show']): string {
  if (after.length > before.length) return 'kept a chart';
  return after.length < before.length ? 'kept a chart no more' : 'changed a chart';
}

function feedWords(before: Brief['hand_over'], after: Brief['hand_over']): string {
  if (after.length > before.length) return 'added a feed';
  if (after.length < before.length) return 'removed a feed';
  const at = after.findIndex((feed, index) => !sameJson(feed, before[index]));
  const [was, now] = [before[at], after[at]];
  return was && now && was.off !== now.off ? `switched a feed ${now.off ? 'off' : 'on'}` : 'changed a feed';
}

/** What was done between one brief and the next. */
export function changeWords(before: Brief, after: Brief): string {
  const same = (part: keyof Brief): boolean => sameJson(before[part], after[part]);
  if (!same('ask')) return 'changed the question';
  if (!same('sheet')) return 'changed the sheet';
  if (!same('each')) return 'changed “for each”';
  if (!same('parameters')) return listed('parameter', before.parameters, after.parameters);
  if (!same('look_up')) return `lookups: ${listed('lookup', before.look_up, after.look_up)}`;
  if (!same('work_out')) return workedWords(before.work_out, after.work_out);
  if (!same('pages')) return 'changed how pages are turned';
  if (!same('take')) return takeWords(before.take, after.take);
  if (!same('show')) return chartWords(before.show, after.show);
  if (!same('keep')) return keepWords(before.keep, after.keep);
  if (!same('hand_over')) return feedWords(before.hand_over, after.hand_over);
  if (!same('name')) return `renamed the query to ${after.name}`;
  return 'changed the note';
}
