"""Hands a table over to PostgreSQL: made by kinds, filled by COPY, in one transaction."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import psycopg
from psycopg import sql

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.hand_over.kinds.database import DatabaseFeed
from tin_bucket.core.problem import fail
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.delivery import Delivery, Handed, With, counted, rows_in_order
from tin_bucket.feeds.postgres import connected
from tin_bucket.feeds.workbook.rows import TableRows

AS_OF = "as of"
# Kind → the type of a new column, and the types of existing ones that it fits.
_TEXTS = {"text", "character varying", "character", "json", "jsonb"}
_FRACTIONS = {"double precision", "numeric", "real"}
_TYPES: dict[str, tuple[str, set[str]]] = {
    "text": ("text", _TEXTS),
    "whole number": ("bigint", {"bigint", "integer", "smallint", *_FRACTIONS, *_TEXTS}),
    "decimal": ("double precision", {*_FRACTIONS, *_TEXTS}),
    "yes/no": ("boolean", {"boolean", *_TEXTS}),
    "date": ("date", {"date", "timestamp with time zone", "timestamp without time zone", *_TEXTS}),
    "date and time": ("timestamptz", {"timestamp with time zone", "timestamp without time zone", *_TEXTS}),
    "json": ("text", _TEXTS),
}
_LARGEST = 2**63


@dataclass(frozen=True, slots=True)
class _Target:
    """The table of the database as it is.

    Attributes:
        name: quoted, with its schema.
        types: its columns with their types; ``None`` where there is no such table.
        rows: about how many rows it has.
    """

    name: sql.Composable
    types: Mapping[str, str] | None
    rows: int


class DatabaseCode:
    """Writes tables of PostgreSQL."""

    def ahead(self, feed: DatabaseFeed, delivery: Delivery) -> Handed:
        """What is there now, and what would be written."""
        rows = _rows(feed, delivery)
        with connected(feed, delivery.password(feed), delivery.reach) as connection:
            target = _target(connection, feed)
            columns = _columns(feed, delivery, rows, target)
            made = Handed(places=[feed.place()], rows=rows.height)
            if target.types is None:
                made.there = f"The table {feed.table} is not there yet: it is made."
                told = ", ".join(f"{one.name} {_TYPES[one.kind][0]}" for one in columns[:8])
                made.told.append(f"Its columns: {told}{' …' if len(columns) > 8 else ''}.")
            else:
                made.there = f"{feed.table} holds {counted(target.rows, 'row')} now."
            done = {"replace": "take the place of those", "add": "are added", "update": "are merged by match columns"}
            made.told.append(f"{counted(rows.height, 'row')} {done[feed.way]}, in one transaction.")
            _told_columns(made, rows, columns, target)
            connection.rollback()
        return made

    def deliver(self, feed: DatabaseFeed, delivery: Delivery) -> Handed:
        """Write the table."""
        rows = _rows(feed, delivery)
        made = Handed(places=[feed.place()], rows=rows.height)
        with connected(feed, delivery.password(feed), delivery.reach) as connection:
            target = _target(connection, feed)
            columns = _columns(feed, delivery, rows, target)
            _prepare(connection, target, columns)
            if feed.way == "add" and _is_there(connection, target, rows, delivery):
                made.nothing = True
                made.told.append(f"The rows of {delivery.table.taken:%Y-%m-%d %H:%M} are there already.")
                return made
            if feed.way == "update":
                made.told.append(_merge(connection, feed, delivery, target, rows, columns))
            else:
                if feed.way == "replace":
                    # Readers see the rows of before until the transaction ends, which TRUNCATE would not give them.
                    connection.execute(sql.SQL("DELETE FROM {}").format(target.name))
                _copy(connection, target.name, rows, columns)
                told = f"{counted(rows.height, 'row')} {'written' if feed.way == 'replace' else 'added'}"
                replaced = feed.way == "replace" and target.rows
                made.told.append(f"{told}, in the place of {target.rows:,}." if replaced else f"{told}.")
            _told_columns(made, rows, columns, target)
        return made


def _rows(feed: DatabaseFeed, delivery: Delivery) -> TableRows:
    if feed.way != "add":
        return delivery.table.rows
    taken = delivery.table.taken.isoformat(timespec="seconds")
    return With(delivery.table.rows, TableColumn(AS_OF, "date and time"), taken, first=True)


def _target(connection: psycopg.Connection[Any], feed: DatabaseFeed) -> _Target:
    schema, _, table = feed.table.rpartition(".")
    schema = schema or "public"
    found = connection.execute(
        "SELECT column_name, data_type FROM information_schema.columns WHERE table_schema = %s AND table_name = %s",
        (schema, table),
    ).fetchall()
    name = sql.Identifier(schema, table)
    if not found:
        return _Target(name, None, 0)
    count = connection.execute(sql.SQL("SELECT count(*) FROM {}").format(name)).fetchone()
    return _Target(name, dict(found), int(count[0]) if count else 0)


def _columns(feed: DatabaseFeed, delivery: Delivery, rows: TableRows, target: _Target) -> list[TableColumn]:
    """The columns that are written. What does not fit is told before anything is written.

    Raises:
        ProblemError: ``column-unfit``, ``match-missing``, ``columns-alike``.
    """
    columns = list(rows.columns)
    if target.types is not None:
        if feed.new_columns == "leave out":
            columns = [column for column in columns if column.name in target.types]
        for column in columns:
            kind = target.types.get(column.name)
            if kind is not None and kind not in _TYPES[column.kind][1]:
                raise fail(
                    "column-unfit",
                    f"The column “{column.name}” is {column.kind}, and in the database it is {kind}.",
                    where=feed.place(),
                    do="Change the column in the database, rename this one, or hide it.",
                )
    long = next((column.name for column in columns if len(column.name.encode()) > 63), None)
    if long is not None:
        raise fail(
            "column-unfit",
            f"The name of the column “{long[:80]}” is longer than the 63 bytes that PostgreSQL takes.",
            where=feed.place(),
            do="Rename the column.",
        )
    if feed.way == "update":
        names = {column.name for column in columns}
        if not delivery.match or not set(delivery.match) <= names:
            raise fail(
                "match-missing",
                "Rows cannot be matched: no column says which row is which.",
                where=feed.place(),
                do="Choose match columns in the line “Keep”.",
            )
    return columns


def _prepare(connection: psycopg.Connection[Any], target: _Target, columns: Sequence[TableColumn]) -> None:
    """Make the table, or the columns that it has not."""
    described = [sql.SQL("{} {}").format(sql.Identifier(one.name), sql.SQL(_TYPES[one.kind][0])) for one in columns]
    if target.types is None:
        connection.execute(sql.SQL("CREATE TABLE {} ({})").format(target.name, sql.SQL(", ").join(described)))
        return
    for column, words in zip(columns, described, strict=True):
        if column.name not in target.types:
            connection.execute(sql.SQL("ALTER TABLE {} ADD COLUMN {}").format(target.name, words))


def _copy(
    connection: psycopg.Connection[Any], name: sql.Composable, rows: TableRows, columns: Sequence[TableColumn]
) -> None:
    places = [list(rows.columns).index(column) for column in columns]
    names = sql.SQL(", ").join(sql.Identifier(column.name) for column in columns)
    with connection.cursor().copy(sql.SQL("COPY {} ({}) FROM STDIN").format(name, names)) as copy:
        for row in rows_in_order(rows):
            copy.write_row([_value(row[at]) for at in places])


def _value(value: Any) -> Any:
    if value is None or isinstance(value, Miss):
        return None
    if isinstance(value, str):
        # The database has no place for NUL, nor for half of a pair.
        return value.replace("\0", "").encode("utf-8", "replace").decode()
    return value


def _is_there(connection: psycopg.Connection[Any], target: _Target, rows: TableRows, delivery: Delivery) -> bool:
    if target.types is None or rows.columns[0].name not in target.types:
        return False
    found = connection.execute(
        sql.SQL("SELECT 1 FROM {} WHERE {} = %s LIMIT 1").format(target.name, sql.Identifier(rows.columns[0].name)),
        (delivery.table.taken.replace(microsecond=0),),
    ).fetchone()
    return found is not None


def _merge(
    connection: psycopg.Connection[Any],
    feed: DatabaseFeed,
    delivery: Delivery,
    target: _Target,
    rows: TableRows,
    columns: Sequence[TableColumn],
) -> str:
    """Update the rows that match, add the others, and delete those that are gone where that is asked for."""
    new = sql.Identifier("tin_bucket_new")
    connection.execute(
        sql.SQL("CREATE TEMP TABLE {} ON COMMIT DROP AS SELECT {} FROM {} LIMIT 0").format(
            new, sql.SQL(", ").join(sql.Identifier(one.name) for one in columns), target.name
        )
    )
    _copy(connection, new, rows, columns)
    same = sql.SQL(" AND ").join(
        sql.SQL("t.{0} IS NOT DISTINCT FROM n.{0}").format(sql.Identifier(name)) for name in delivery.match
    )
    twice = connection.execute(
        sql.SQL("SELECT 1 FROM {} GROUP BY {} HAVING count(*) > 1 LIMIT 1").format(
            new, sql.SQL(", ").join(sql.Identifier(name) for name in delivery.match)
        )
    ).fetchone()
    if twice is not None:
        raise fail(
            "match-twice",
            f"Several rows have the same {' and '.join(delivery.match)}, so they cannot be merged.",
            where=feed.place(),
            do="Choose match columns that tell all rows apart, or replace the rows.",
        )
    others = [one for one in columns if one.name not in delivery.match]
    updated = 0
    if others:
        sets = sql.SQL(", ").join(sql.SQL("{0} = n.{0}").format(sql.Identifier(one.name)) for one in others)
        differs = sql.SQL(" OR ").join(
            sql.SQL("t.{0}::text IS DISTINCT FROM n.{0}::text").format(sql.Identifier(one.name)) for one in others
        )
        updated = connection.execute(
            sql.SQL("UPDATE {} t SET {} FROM {} n WHERE {} AND ({})").format(target.name, sets, new, same, differs)
        ).rowcount
    names = sql.SQL(", ").join(sql.Identifier(one.name) for one in columns)
    added = connection.execute(
        sql.SQL("INSERT INTO {0} ({1}) SELECT {1} FROM {2} n WHERE NOT EXISTS (SELECT 1 FROM {0} t WHERE {3})").format(
            target.name, names, new, same
        )
    ).rowcount
    told = f"{counted(updated, 'row')} updated, {added:,} new."
    if feed.gone == "remove" and delivery.whole:
        removed = connection.execute(
            sql.SQL("DELETE FROM {} t WHERE NOT EXISTS (SELECT 1 FROM {} n WHERE {})").format(target.name, new, same)
        ).rowcount
        told = f"{told} {counted(removed, 'row')} deleted."
    return told


def _told_columns(made: Handed, rows: TableRows, columns: Sequence[TableColumn], target: _Target) -> None:
    names = {column.name for column in columns}
    left_out = [column.name for column in rows.columns if column.name not in names]
    if left_out:
        made.warned.append(f"Not in the table, and left out: {', '.join(f'“{name}”' for name in left_out[:8])}.")
    if target.types is not None:
        added = [column.name for column in columns if column.name not in target.types]
        if added:
            made.told.append(f"New columns: {', '.join(f'“{name}”' for name in added[:8])}.")


CODE = DatabaseCode()
