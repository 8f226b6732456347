<!-- The query's table: the grid, with the settings of a column in its heading. -->
<script lang="ts">
  import type { Brief, Cell, Column } from '../api/client';
  import { dated, day } from '../domain/words/format';
  import { dropColumn, editColumn, moveBefore, moveColumn } from '../domain/columns';
  import ColumnPopover from '../table/columns/ColumnPopover.svelte';
  import Grid from '../table/Grid.svelte';
  import type { QueryStore } from './queryStore.svelte';
  import { choices } from '../domain/choices';
  import { isNumeric } from '../domain/kinds';
  import { figureAddress } from '../history/links';
  import { cellLines } from '../workOut/fromCells';
  import { foundOf } from '../workOut/offersStore.svelte';
  import { startingFrom, type Found } from '../workOut/palette';

  interface Props {
    work: QueryStore;
    draft: Brief;
    /** Whether the table before any work-out line is meant. */
    taken?: boolean;
    /** The cell whose origin is in sight. */
    opened: { row: number; column: number } | null;
    /** The column that is lit, because the field that it comes from is pointed at. */
    lit: number | null;
    onpoint: ((column: number | null) => void) | undefined;
    onopen: (row: number, column: number, box: DOMRect, byKey: boolean) => void;
    onfind: () => void;
  }
  let { work, draft, taken = false, opened, lit, onpoint, onopen, onfind }: Props = $props();

  const columns = $derived(taken ? work.columns : work.seen);

  /** Begin a line. */
  const begin = (found: Found): void => work.workOut.begin(found.kind, found.values, draft.work_out.length);

  /** The lines that can be begun from selected cells. */
  const deeds = (chosen: Column[], rows: number) =>
    work.workOut.editing
      ? []
      : cellLines(chosen, rows).map((line) => ({
          label: line.label,
          run: (cells: Cell[][]) => begin(line.begin(choices().lines, chosen, cells)),
        }));

  /** What stands below a column's name. */
  function sub(column: Column): string {
    const origins: Record<string, string> = {
      'for each': 'asked for',
      taken: column.kind,
      'worked out': 'worked out',
    };
    const source = column.source || (origins[column.origin] ?? 'looked up');
    if (column.asked && !column.unit) return `looked up · from ${day(column.asked)} on`;
    const made = column.source || column.origin === 'worked out';
    const words = column.unit ? (made ? `${column.unit} · ${source}` : column.unit) : source;
    return work.draft?.keep.match.includes(column.name) ? `${words} · match` : words;
  }

  /** How the brief takes a column. */
  function chosenOf(column: Column) {
    if (column.origin === 'taken') return work.draft?.take.columns?.find((one) => one.name === column.name);
    const look_up = work.draft?.look_up.find((one) => one.name === column.origin);
    return look_up?.take.find((one) => one.name === column.name);
  }

  function unfitOf(column: Column): number {
    const own = work.previews.shown?.unfit ?? work.detail?.last_run?.report.reading.unfit;
    return own?.[column.name] ?? 0;
  }

  function matchBy(column: Column, on: boolean): void {
    const brief = work.draft;
    if (!brief) return;
    const others = brief.keep.match.filter((name) => name !== column.name);
    void work.change({ ...brief, keep: { ...brief.keep, match: on ? [...others, column.name] : others } });
  }
</script>

<Grid
  {columns}
  source={taken ? work.baseSource : work.source}
  fresh={taken ? [] : (work.workOut.seen?.lit ?? [])}
  totals={!taken && (work.workOut.seen?.totals ?? false)}
  look={work.look}
  label="Table of {draft.name}"
  dated={work.dates.at ? `${draft.name}, as of ${dated(work.dates.at.taken)}` : ''}
  {opened}
  {lit}
  {onpoint}
  {sub}
  {onopen}
  {onfind}
  {deeds}
>
  {#snippet heading(column, at)}
    <ColumnPopover
      {column}
      chosen={chosenOf(column)}
      {at}
      rows={taken ? work.height : work.seenHeight}
      table={taken ? work.baseTable : work.table}
      own={!work.dates.at &&
        work.columns.some((one) => one.name === column.name && one.origin === column.origin)}
      online={(kind) => begin({ kind, values: startingFrom(kind, [column]) })}
      offers={work.workOut.offers.found}
      onoffer={(offer) => begin(foundOf(offer))}
      onlines={() => work.workOut.offers.follow(taken ? work.baseTable : work.table)}
      look={work.look}
      sub={sub(column)}
      unfit={unfitOf(column)}
      isKey={draft.keep.match.includes(column.name)}
      onchange={(edit) => {
        if (edit.name) work.look.renamed(column.name, edit.name);
        return work.change(editColumn(draft, work.columns, column, edit));
      }}
      ondrop={() => work.change(dropColumn(draft, work.columns, column))}
      onmove={(by) => work.change(moveColumn(draft, work.columns, column, by))}
      onplace={(name) => work.change(moveBefore(draft, work.columns, name, column.name))}
      through={(work.detail?.dates ?? 0) > 1
        ? figureAddress(work.id, isNumeric(column) ? 'mean' : 'different', column.name)
        : ''}
      onopen={work.prepare}
      onkey={(on) => matchBy(column, on)}
    />
  {/snippet}
</Grid>
