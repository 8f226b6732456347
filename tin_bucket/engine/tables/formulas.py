"""Which texts of a kept table a workbook would take for formulas in a CSV file: said before it is exported."""

from __future__ import annotations

from tin_bucket.core.interchange.formulas import STARTS, FormulaCells, quote_cells, quote_headings
from tin_bucket.store.snapshots import Snapshots

MOST_READ = 20_000  # Rows that are read for the count.


def formula_cells(snapshots: Snapshots, snapshot_id: int, most: int = MOST_READ) -> tuple[FormulaCells, bool]:
    """The cells and headings that read as formulas, and whether there may be more in rows that were not read.

    Raises:
        ProblemError: ``snapshot-unknown``.
    """
    snapshot = snapshots.get(snapshot_id)
    found = FormulaCells()
    shown = [at for at, column in enumerate(snapshot.columns) if not column.hidden]
    columns = quote_headings([snapshot.columns[at] for at in shown], found, False)
    with snapshots.reading():
        likely = snapshots.rows_starting(snapshot_id, STARTS)
        rows = snapshots.rows_at(snapshot_id, likely[:most]) if len(likely) else []
    for _ in quote_cells(columns, ([row[at] for at in shown] for row in rows), found, False):
        pass
    return found, len(likely) > most
