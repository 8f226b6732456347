"""Columns of another table, by columns that match."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.problem import fail
from tin_bucket.core.work_out.conditions import fitting
from tin_bucket.core.work_out.shape import ColumnShape, column_unknown
from tin_bucket.core.work_out.steps import Bring
from tin_bucket.engine.work_out.doing import BROUGHT_IN, Doing, counted
from tin_bucket.engine.work_out.source import TableSource
from tin_bucket.engine.work_out.stage import Cells, FromTable, Note, Stage

from .rows import picked_cells

MOST_ROWS = 20_000_000
NO_MATCH = Miss("none", "no match")


def do_bring(step: Bring, stage: Stage, doing: Doing, key: tuple[Any, ...]) -> Stage:
    """Join another table. How many rows that makes is known, and bounded, before any is made."""
    other = doing.other(step.source)
    theirs = _keys(other, step)
    places: dict[Any, list[int]] = defaultdict(list)
    for row, one in enumerate(theirs):
        if one is not None:
            places[one].append(row)
    ours = [_matched(stage.values(one.ours), step.loosely) for one in step.match if one.ours is not None]
    keys: Sequence[Any] = ours[0] if len(ours) == 1 else _together(ours, stage.height)
    found = [places.get(one) if one is not None else None for one in keys]
    matched = np.fromiter((one is not None for one in found), dtype=bool, count=stage.height)
    twice = np.fromiter((one is not None and len(one) > 1 for one in found), dtype=bool, count=stage.height)
    rows, brought = _rows(step, stage.height, found, matched)
    columns, cells = list(stage.columns), picked_cells(stage.cells, rows)
    names = [column.name for column in other.columns]
    for theirs_name, title in step.columns:
        if theirs_name not in names:
            raise column_unknown(theirs_name, names)
        at = names.index(theirs_name)
        columns.append(
            replace(other.columns[at], name=title, origin=BROUGHT_IN, source=step.source.name, filled=None, nulls=None)
        )
        cells.append(Cells(FromTable(other, at), brought, NO_MATCH))
    looks = {"unmatched": np.flatnonzero(~matched).astype(np.int64), "several": np.flatnonzero(twice).astype(np.int64)}
    notes = _notes(step, stage, other, matched, int(twice.sum()))
    if step.rows != "all":
        looks["dropped"] = np.flatnonzero(matched if step.rows == "unmatched" else ~matched).astype(np.int64)
        if len(looks["dropped"]):
            notes.append(Note(f"{counted(len(looks['dropped']), 'row')} dropped here", "dropped"))
    return Stage(
        key, columns, cells, len(rows), stage.as_of, before=rows, brought=brought, others=[other], looks=looks,
        notes=notes, lit=[title for _, title in step.columns],
    )  # fmt: skip


def _rows(step: Bring, height: int, found: list[list[int] | None], matched: Any) -> tuple[Any, Any]:
    """For each row of the new table its row in this table and in the other one."""
    if step.several == "first":
        rows = np.arange(height, dtype=np.int64)
        brought = np.fromiter((one[0] if one else -1 for one in found), dtype=np.int64, count=height)
        if step.rows != "all":
            stay = ~matched if step.rows == "unmatched" else matched
            rows, brought = rows[stay], brought[stay]
        return rows, brought
    total = sum(len(one) if one else int(step.rows == "all") for one in found)
    if total > MOST_ROWS:
        raise fail(
            "too-many-rows",
            f"This would make {total:,} rows, of {height:,}.",
            where="columns that match",
            do="Add a column that matches, or take the first match alone.",
        )
    rows_out: list[int] = []
    brought_out: list[int] = []
    for row, one in enumerate(found):
        if one:
            rows_out += [row] * len(one)
            brought_out += one
        elif step.rows == "all":
            rows_out.append(row)
            brought_out.append(-1)
    return np.array(rows_out, dtype=np.int64), np.array(brought_out, dtype=np.int64)


def _matched(values: Sequence[Any], loosely: bool = False) -> list[Any]:
    """Values as they are compared: blanks match nothing."""
    if loosely:
        return [None if value is None else _loose(value) for value in _matched(values)]
    return [value if type(value) in (str, int, float) and value != "" else _rare(value) for value in values]


def _rare(value: Any) -> Any:
    return int(value) if isinstance(value, bool) else None


def _together(columns: list[list[Any]], height: int) -> list[Any]:
    """The values of several columns of each row; nothing where one of them is blank."""
    if not columns:
        return [()] * height
    return [None if None in one else one for one in zip(*columns, strict=True)]


def _keys(other: TableSource, step: Bring) -> list[Any]:
    """For each row of the other table what it matches by; nothing for a row that cannot match."""
    names = [column.name for column in other.columns]
    by_column: list[list[Any]] = []
    allowed: np.ndarray[Any, np.dtype[np.bool_]] | None = None
    for one in step.match:
        found = other.column(one.theirs)
        if found is None:
            raise column_unknown(one.theirs, names)
        heading, values = found
        if one.ours is not None:
            by_column.append(_matched(values, step.loosely))
            continue
        cells = _matched(values)
        shape = ColumnShape(heading.name, heading.kind)
        wanted = fitting(shape, one.value)
        wanted = int(wanted) if isinstance(wanted, bool) else wanted
        holds = np.fromiter((cell == wanted for cell in cells), dtype=bool, count=len(cells))
        allowed = holds if allowed is None else allowed & holds
    keys = by_column[0] if len(by_column) == 1 else _together(by_column, other.height)
    if allowed is None:
        return keys
    return [one if fits else None for one, fits in zip(keys, allowed.tolist(), strict=True)]


def _notes(step: Bring, stage: Stage, other: TableSource, matched: Any, twice: int) -> list[Note]:
    hits = int(matched.sum())
    without = stage.height - hits
    notes = [Note(f"{hits:,} matched")]
    notes.append(Note(f"{without:,} without a match", "unmatched", odd=bool(hits)) if without else Note("none without"))
    notes.append(
        Note(f"{twice:,} matched more than once", "several", odd=step.several == "first")
        if twice
        else Note("none twice")
    )
    if without and not step.loosely:
        hint = _unlike(step, stage, other, matched)
        notes += [Note(hint, odd=True)] if hint else []
    return notes


def _unlike(step: Bring, stage: Stage, other: TableSource, matched: Any) -> str:
    """Says so where a text such as “007” would match a number such as 7, or the texts differ in case or in spaces."""
    for one in step.match:
        if one.ours is None:
            continue
        found = other.column(one.theirs)
        theirs = _matched(found[1]) if found is not None else []
        some = [value for value, hit in zip(_matched(stage.values(one.ours)), matched.tolist(), strict=True) if not hit]
        loose = {_loose(value): value for value in theirs if value is not None}
        near = next((value for value in some if value is not None and _loose(value) in loose), None)
        if near is not None and loose[_loose(near)] != near:
            other_one = _quoted(loose[_loose(near)])
            told = f"{one.ours} has {_quoted(near)} where {one.theirs} of {step.source.name} has {other_one}"
            return f"{told}: match loosely?"
    return ""


def _quoted(value: Any) -> str:
    return f"“{value}”" if isinstance(value, str) else str(value)


def _loose(value: Any) -> str:
    """A value as it is compared loosely, as the statement has it."""
    text = "".join(char.lower() if char.isascii() else char for char in str(value).strip(" "))
    return text.lstrip("0") if text.isascii() and text.isdigit() else text
