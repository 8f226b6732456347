"""Hands a table over to a file that is written anew each time."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path
from typing import Any, BinaryIO

import numpy as np

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.hand_over.kinds.file import FileFeed
from tin_bucket.core.interchange.formulas import FormulaCells
from tin_bucket.core.problem import fail
from tin_bucket.feeds.delivery import Dated, Delivery, Handed, Picked, counted, rows_in_order
from tin_bucket.feeds.formats import workbook
from tin_bucket.feeds.formats.format import Format
from tin_bucket.feeds.formats.registry import FORMATS, endings
from tin_bucket.feeds.options import ExportOptions
from tin_bucket.feeds.safe_file import check_free, replace_file, told_in_words
from tin_bucket.feeds.table_schema import table_resource
from tin_bucket.feeds.workbook.rows import TableRows

_MOST_FILES = 1_000
_NO_NAME = re.compile(r'[<>:"/\\|?*\x00-\x1f]+')
_DELIMITED = ("csv", "tsv")


class FileCode:
    """Writes files."""

    def ahead(self, feed: FileFeed, delivery: Delivery) -> Handed:
        """Which files would be written, and which are there."""
        files = _files(feed, delivery)
        made = Handed(rows=delivery.table.rows.height)
        there = 0
        for path, rows in files:
            with told_in_words(path):
                check_free(path)
            there += path.exists()
            made.places.append(str(path))
            if len(made.told) < 5:
                made.told.append(f"{path.name}: {counted(rows.height, 'row')}.")
        if len(files) > 5:
            made.told.append(f"And {counted(len(files) - 5, 'further file')}.")
        if there:
            made.there = f"{counted(there, 'file is', 'files are')} there already, and replaced."
        if feed.table_schema and _format(feed).ending in _DELIMITED:
            made.told.append("A Table Schema is written beside each.")
        return made

    def deliver(self, feed: FileFeed, delivery: Delivery) -> Handed:
        """Write the files, each whole or not at all."""
        made = Handed(rows=delivery.table.rows.height)
        options, form = _options(feed), _format(feed)
        cells = 0
        for path, rows in _files(feed, delivery):
            with told_in_words(path):
                delivery.folders.make(path)

            def write(out: BinaryIO, rows: TableRows = rows) -> FormulaCells:
                return _write(feed, form, delivery, rows, out, options)

            found = replace_file(path, write, versions=delivery.versions, now=delivery.now)
            cells += found.cells
            made.places.append(str(path))
            if feed.table_schema and form.ending in _DELIMITED:
                beside = path.with_name(f"{path.stem}.schema.json")
                schema = table_resource(path.name, rows.columns, delivery.match, options)
                _write_bytes(beside, schema)
        files = counted(len(made.places), "file")
        made.told.append(f"{counted(made.rows, 'row')} written to {files if len(made.places) > 1 else made.places[0]}.")
        if cells and not feed.formulas_as_text:
            begin = "1 cell begins" if cells == 1 else f"{cells:,} cells begin"
            made.warned.append(f"{begin} as a formula does: a workbook would work them out.")
        return made


def _format(feed: FileFeed) -> Format:
    ending = feed.path.rpartition(".")[2].lower() if "." in feed.path else ""
    if ending not in FORMATS:
        raise fail(
            "format-unknown",
            f"“{feed.path[-60:]}” names no format.",
            where="path",
            do=f"End its name in {endings('.')}.",
        )
    return FORMATS[ending]


def _options(feed: FileFeed) -> ExportOptions:
    return ExportOptions(
        feed.formulas_as_text,
        feed.headings,
        feed.separator,
        feed.decimal,
        feed.encoding,
        feed.line_ends,
        feed.quotes,
        feed.moments,
    ).checked("path")


def _files(feed: FileFeed, delivery: Delivery) -> list[tuple[Path, TableRows]]:
    """The files and the rows of each.

    Raises:
        ProblemError: ``format-unknown``, ``column-unknown``, ``too-many-files``, ``names-alike``, or a path that is
            refused.
    """
    _format(feed)
    table = delivery.table
    if not feed.part_by:
        return [(delivery.folders.resolve(_named(feed.path, table, "")), table.rows)]
    out: list[tuple[Path, TableRows]] = []
    names: dict[str, str] = {}
    for value, numbers in _parts(table.rows, feed.part_by).items():
        name = _named(feed.path, table, value)
        if name.casefold() in names:
            raise fail(
                "names-alike",
                f"Two values give one name of a file: “{names[name.casefold()]}” and “{value}”.",
                where=f"column {feed.part_by}",
                do="Part the table by a column whose values differ in letters and digits.",
            )
        names[name.casefold()] = value
        out.append((delivery.folders.resolve(name), Picked(table.rows, np.array(numbers, dtype=np.int64))))
    return out


def _parts(rows: TableRows, column: str) -> dict[str, list[int]]:
    place = next((at for at, one in enumerate(rows.columns) if one.name == column), None)
    if place is None:
        raise fail(
            "column-unknown",
            f"The table has no column “{column[:200]}”.",
            where="a file for each value of",
            do="Choose another one.",
        )
    out: dict[str, list[int]] = {}
    for number, row in enumerate(rows_in_order(rows)):
        value = row[place]
        out.setdefault("blank" if value is None or isinstance(value, Miss) else str(value), []).append(number)
        if len(out) > _MOST_FILES:
            raise fail(
                "too-many-files",
                f"“{column}” has more than {_MOST_FILES:,} values, which would be as many files.",
                where="a file for each value of",
                do="Choose a column with fewer values.",
            )
    return out


def _named(path: str, table: Dated, value: str) -> str:
    """The name of a file, with what stands for its names in braces. No value leads into another folder."""
    values = {
        "date": f"{table.taken:%Y-%m-%d}",
        "time": f"{table.taken:%H%M}",
        "query": table.title,
        "value": value or "blank",
    }
    return re.sub(r"\{(\w+)\}", lambda found: _NO_NAME.sub("_", values[found[1]]).strip(". ") or "_", path)


def _write(
    feed: FileFeed, form: Format, delivery: Delivery, rows: TableRows, out: BinaryIO, options: ExportOptions
) -> FormulaCells:
    table = delivery.table
    if form.ending != workbook.FORMAT.ending:
        return form.write(rows.columns, rows_in_order(rows), out, table.title, options)
    others = [delivery.other(name) for name in feed.also]
    sheets = [
        workbook.SheetOf(one.title, some.columns, rows_in_order(some))
        for one, some in [(table, rows), *((other, other.rows) for other in others)]
    ]
    workbook.write_sheets(sheets, out, options, _about([table, *others], delivery))
    return FormulaCells()


def _about(tables: Sequence[Dated], delivery: Delivery) -> list[tuple[str, str]]:
    """Where the tables of a workbook are from."""
    out: list[tuple[str, Any]] = []
    for table in tables:
        out += [
            ("Table", table.title),
            ("Where from", table.source),
            ("As of", f"{table.taken:%Y-%m-%d %H:%M %Z}"),
            ("State", f"{table.state}: {table.evidence}" if table.evidence else table.state),
            ("Rows", f"{table.rows.height:,}"),
        ]
    return [*out, ("Written", f"{delivery.now:%Y-%m-%d %H:%M} by Tin Bucket")]


def _write_bytes(path: Path, data: bytes) -> None:
    replace_file(path, lambda out: out.write(data))


CODE = FileCode()
