"""Writes what is damaged again, from a table that has what was stored. A digest says of each row, and of each list of
rows, whether it is just that."""

from __future__ import annotations

from tin_bucket.core.table.table import Table

from .database import Database
from .integrity import broken_rows
from .row_store import rows
from .snapshots import Snapshots

_PART = 2_048


class _AnotherTable(Exception):
    """The table is not what was stored."""


def restore_rows(database: Database, query_id: int, table: Table) -> int:
    """Write the damaged rows of a query again that a table has; gives how many."""
    names = [column.name for column in table.columns]
    columns = [table.data[at] for at in sorted(range(len(names)), key=names.__getitem__)]
    with database.write() as db:
        broken, _ = broken_rows(db, query_id)
        if not len(broken) or not columns:
            return 0
        return rows.write_again(db, query_id, broken, rows.encode_columns(columns, table.height, _PART))


def restore_list(
    database: Database, snapshots: Snapshots, snapshot_id: int, table: Table, matches: list[list[str]]
) -> bool:
    """Write a snapshot's list of rows, its headings and origins again; gives whether the table is what was stored.

    Args:
        matches: the match columns that it may have been stored with.
    """
    try:
        with database.write() as db:
            if not any(snapshots.restore(db, snapshot_id, table, match) for match in matches):
                raise _AnotherTable  # Nothing of it stays.
    except _AnotherTable:
        return False
    return True
