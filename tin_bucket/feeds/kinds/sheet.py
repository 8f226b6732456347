"""Hands a table over to a sheet of a workbook that others keep."""

from __future__ import annotations

import io
from collections.abc import Mapping
from dataclasses import asdict
from pathlib import Path
from typing import Any, BinaryIO

from tin_bucket.core.hand_over.kinds.sheet import SheetFeed
from tin_bucket.core.problem import fail
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.delivery import Delivery, Handed, With, counted
from tin_bucket.feeds.formats.workbook import sheet_name
from tin_bucket.feeds.safe_file import FileState, check_free, replace_file, taking_turns, told_in_words
from tin_bucket.feeds.workbook.columns import FedColumn, Memory
from tin_bucket.feeds.workbook.feed import feed_workbook, plan_workbook
from tin_bucket.feeds.workbook.rows import TableRows
from tin_bucket.feeds.workbook.target import Manner, Outcome, Target
from tin_bucket.feeds.workbook.zoned_rows import MomentsAsTexts, ZonedRows

AS_OF, GONE = "as of", "gone since"


class SheetCode:
    """Feeds sheets."""

    def ahead(self, feed: SheetFeed, delivery: Delivery) -> Handed:
        """What will be written where, what is there now, and what will be replaced."""
        path = delivery.folders.resolve(feed.path)
        rows, manner, zoned = _asked(feed, delivery)
        with told_in_words(path):
            check_free(path)
            data = _workbook(path, feed)
            outcome = plan_workbook(data, str(path), _target(feed, delivery), _memory(delivery), rows, manner)
        return _told(feed, path, outcome, delivery, path.exists(), zoned)

    def deliver(self, feed: SheetFeed, delivery: Delivery) -> Handed:
        """Feed the sheet."""
        path = delivery.folders.resolve(feed.path)
        rows, manner, zoned = _asked(feed, delivery)
        was_there = path.exists()
        with told_in_words(path):
            delivery.folders.make(path)
        with taking_turns(path):
            outcome = _fed(path, feed, delivery, rows, manner)
        return _told(feed, path, outcome, delivery, was_there, zoned)


def _fed(path: Path, feed: SheetFeed, delivery: Delivery, rows: TableRows, manner: Manner) -> Outcome:
    before = FileState.of(path)
    target, memory = _target(feed, delivery), _memory(delivery)
    with told_in_words(path):
        data = _workbook(path, feed)
    if manner.way == "add" and before.marks is not None:
        outcome = plan_workbook(data, str(path), target, memory, rows, manner)
        if outcome.already:
            return outcome

    def write(out: BinaryIO) -> Outcome:
        return feed_workbook(data, out, str(path), target, memory, rows, manner)

    return replace_file(path, write, before, delivery.versions, delivery.now)


def _workbook(path: Path, feed: SheetFeed) -> BinaryIO:
    """The workbook as it is; an empty one where there is none.

    Raises:
        ProblemError: ``file-missing``.
        OSError: it cannot be read.
    """
    if path.exists():
        return io.BytesIO(path.read_bytes())
    if feed.missing == "stop" or feed.table:
        raise fail("file-missing", "The workbook does not exist.", where=str(path), do="Check its name and its folder.")
    import xlsxwriter

    out = io.BytesIO()
    made = xlsxwriter.Workbook(out)
    made.add_worksheet(feed.sheet or None)
    made.close()
    out.seek(0)
    return out


def _target(feed: SheetFeed, delivery: Delivery) -> Target:
    sheet = feed.sheet or sheet_name(delivery.table.title)
    return Target(sheet, feed.cell or "A1", feed.table, f"TinBucket_{feed.key}")


def _asked(feed: SheetFeed, delivery: Delivery) -> tuple[TableRows, Manner, ZonedRows | None]:
    """The rows with the columns that a way adds, the manner, and the zones of moments where they are no texts."""
    rows: TableRows = delivery.table.rows
    zoned = ZonedRows(rows, delivery.memory.get("zones") or {}) if feed.moments == "zone" else None
    rows = zoned if zoned is not None else MomentsAsTexts(rows)
    taken = delivery.table.taken.replace(tzinfo=None).isoformat(timespec="seconds")
    dated = gone = None
    if feed.way == "add":
        with_date = With(rows, TableColumn(AS_OF, "date and time"), taken, first=True)
        rows, dated = with_date, (with_date.added.name, taken)
    elif feed.way == "update" and feed.gone == "mark" and delivery.whole:
        with_mark = With(rows, TableColumn(GONE, "date and time"), None)
        rows, gone = with_mark, (with_mark.added.name, taken)
    manner = Manner(
        way=feed.way,
        match=tuple(delivery.match),
        remove_gone=feed.way == "update" and feed.gone == "remove" and delivery.whole,
        gone=gone,
        dated=dated,
        add_columns=feed.new_columns == "add",
        drop_notes=feed.notes == "let go",
        cut_texts=feed.long_texts == "cut",
        make_sheet=feed.missing == "make",
        stamp=(feed.stamp, delivery.table.as_of) if feed.stamp else None,
    )
    return rows, manner, zoned


def _memory(delivery: Delivery) -> Memory:
    kept: Mapping[str, Any] = delivery.memory.get("sheet") or {}
    return Memory(
        tuple(FedColumn(**one) for one in kept.get("columns", ())),
        tuple(kept.get("own", ())),
        tuple(kept.get("deleted", ())),
    )


def _told(
    feed: SheetFeed, path: Path, outcome: Outcome, delivery: Delivery, was_there: bool, zoned: ZonedRows | None
) -> Handed:
    made = Handed(places=[f"{path}, sheet {outcome.sheet}, {outcome.after}"], rows=delivery.table.rows.height)
    made.memory = {"sheet": asdict(outcome.memory), "zones": zoned.zones() if zoned is not None else {}}
    if not was_there:
        made.there = "The workbook is not there yet: it is made."
    elif outcome.made:
        made.there = f"The sheet “{outcome.sheet}” is not there yet: it is made."
    elif outcome.before:
        made.there = f"{outcome.before} of “{outcome.sheet}” holds {counted(outcome.rows_before, 'row')} now."
    else:
        made.there = f"{outcome.after.partition(':')[0]} of “{outcome.sheet}” is empty now."
    if outcome.already:
        made.nothing = True
        made.told.append(f"The rows of {delivery.table.taken:%Y-%m-%d %H:%M} are there already.")
        return made
    made.told += _what_becomes_of_rows(feed, outcome)
    made.told += zoned.words() if zoned is not None else []
    if outcome.new_columns:
        made.told.append(f"New at the right: {_names(outcome.new_columns)}.")
    if outcome.filled:
        made.told.append(f"Formulas filled down: {_names(outcome.filled)}.")
    if outcome.moved:
        where = "down" if outcome.moved > 0 else "up"
        made.told.append(f"What stands below moves {where} by {counted(abs(outcome.moved), 'row')}.")
    if outcome.others:
        made.told.append(f"Following the table: {', '.join(outcome.others)}.")
    if outcome.own:
        stay = "stay as they are" if feed.way != "replace" else "keep their formulas"
        made.told.append(f"Columns of people’s own {stay}: {_names(outcome.own)}.")
    made.warned += [f"“{name}” is found under its new heading “{new}”." for name, new in outcome.renamed.items()]
    if outcome.left_out:
        made.warned.append(f"Not in the sheet, and left out: {_names(outcome.left_out)}.")
    if outcome.notes:
        made.warned.append(f"With these rows go {counted(outcome.notes, 'cell')} that people filled in.")
    if outcome.unfiltered:
        made.warned.append("Rows that a filter hid are shown: apply the filter again.")
    return made


def _what_becomes_of_rows(feed: SheetFeed, outcome: Outcome) -> list[str]:
    if feed.way == "add":
        below = f" below {counted(outcome.rows_before, 'row')}" if outcome.rows_before else ""
        return [f"{counted(outcome.new, 'row')} added{below}."]
    if feed.way == "replace" and not outcome.rows_before:
        return [f"{counted(outcome.rows_after, 'row')} written."]
    if feed.way == "replace":
        return [f"{counted(outcome.rows_before, 'row')} replaced by {counted(outcome.rows_after, 'row')}."]
    told = [f"{counted(outcome.matched, 'row')} updated, {outcome.new:,} new below."]
    if outcome.gone:
        told.append(f"{counted(outcome.gone, 'row')} gone from the table, kept and marked “{GONE}”.")
    if outcome.removed:
        told.append(f"{counted(outcome.removed, 'row')} gone from the table, taken out.")
    return told


def _names(names: list[str]) -> str:
    told = ", ".join(f"“{name}”" for name in names[:6])
    return f"{told} and {len(names) - 6} more" if len(names) > 6 else told


CODE = SheetCode()
