<!-- The query's table: the grid, with the settings of a column in its heading. -->
<script lang="ts">
  import type { Brief, Column } from '../api/client';
  import { dropColumn, editColumn, moveBefore, moveColumn } from '../domain/columns';
  import ColumnPopover from '../table/columns/ColumnPopover.svelte';
  import Grid from '../table/Grid.svelte';
  import type { QueryStore } from './queryStore.svelte';

  interface Props {
    work: QueryStore;
    draft: Brief;
    /** The cell whose origin is in sight. */
    opened: { row: number; column: number } | null;
    /** The column that is lit, because the field that it comes from is pointed at. */
    lit: number | null;
    onpoint: ((column: number | null) => void) | undefined;
    onopen: (row: number, column: number, box: DOMRect, byKey: boolean) => void;
    onfind: () => void;
  }
  let { work, draft, opened, lit, onpoint, onopen, onfind }: Props = $props();

  /** What stands below a column's name. */
  function sub(column: Column): string {
    const source = column.origin === 'for each' ? 'asked for' : 'looked up';
    const words = column.unit || (column.origin === 'taken' ? column.kind : source);
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
  columns={work.columns}
  source={work.source}
  look={work.look}
  label="Table of {draft.name}"
  {opened}
  {lit}
  {onpoint}
  {sub}
  {onopen}
  {onfind}
>
  {#snippet heading(column, at)}
    <ColumnPopover
      {column}
      chosen={chosenOf(column)}
      {at}
      rows={work.height}
      table={work.table}
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
      onopen={work.prepare}
      onkey={(on) => matchBy(column, on)}
    />
  {/snippet}
</Grid>
