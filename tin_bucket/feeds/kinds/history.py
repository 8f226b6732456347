"""Hands every date of a table over as a Parquet dataset that is parted by date (``taken=2026-11-25``)."""

from __future__ import annotations

import re
from pathlib import Path
from typing import BinaryIO

from tin_bucket.core.hand_over.kinds.history import HistoryFeed
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.delivery import DateOf, Delivery, Handed, With, counted, rows_in_order
from tin_bucket.feeds.formats.parquet import write_parquet
from tin_bucket.feeds.safe_file import replace_file, told_in_words

_FILE = re.compile(r"([0-9]+)(?:-incomplete)?\.parquet")
TAKEN_AT = "taken_at"


class HistoryCode:
    """Writes Parquet histories."""

    def ahead(self, feed: HistoryFeed, delivery: Delivery) -> Handed:
        """Which dates would be written, and which are there."""
        folder = delivery.folders.resolve(feed.path)
        there, wanted = _there(folder), _wanted(feed, delivery)
        new = [date for date in wanted if date.key not in there]
        made = Handed(places=[str(folder)], nothing=not new)
        if there:
            made.there = f"{counted(len(there), 'date is', 'dates are')} there already, and stay as they are."
        made.told.append(f"{counted(len(new), 'date')} to write, a file each, in folders such as taken=2026-11-25.")
        return made

    def deliver(self, feed: HistoryFeed, delivery: Delivery) -> Handed:
        """Write the dates that are not there."""
        folder = delivery.folders.resolve(feed.path)
        there = _there(folder)
        made = Handed(places=[str(folder)])
        written = 0
        for date in _wanted(feed, delivery):
            if date.key not in there:
                made.rows += _write_date(folder, date, delivery)
                written += 1
        made.nothing = not written
        done = f"{counted(written, 'date')} written, {counted(made.rows, 'row')}."
        made.told.append(done if written else "All dates are there already.")
        made.memory = {"from": delivery.memory.get("from") or delivery.table.taken.isoformat()}
        return made


def _wanted(feed: HistoryFeed, delivery: Delivery) -> list[DateOf]:
    """The dates that belong into the history."""
    since = "" if feed.whole else str(delivery.memory.get("from") or delivery.table.taken.isoformat())
    return [
        date
        for date in delivery.dates()
        if (feed.when == "any" or date.state != "incomplete") and date.taken.isoformat() >= since
    ]


def _write_date(folder: Path, date: DateOf, delivery: Delivery) -> int:
    """Write the table of a date; returns how many rows it has. When it was taken is a column too, since a day may have
    several."""
    table = date.read()
    rows = With(table.rows, TableColumn(TAKEN_AT, "date and time"), date.taken.isoformat())
    mark = "-incomplete" if date.state == "incomplete" else ""
    path = folder / f"taken={date.taken:%Y-%m-%d}" / f"{date.key}{mark}.parquet"
    with told_in_words(path):
        delivery.folders.make(folder)
        path.parent.mkdir(parents=True, exist_ok=True)

    def write(out: BinaryIO) -> None:
        write_parquet(rows.columns, rows_in_order(rows), out, table.title)

    replace_file(path, write)
    return table.rows.height


def _there(folder: Path) -> set[str]:
    """The dates that a folder has."""
    files = (_FILE.fullmatch(path.name) for path in folder.glob("taken=*/*.parquet"))
    return {found[1] for found in files if found is not None}


CODE = HistoryCode()
