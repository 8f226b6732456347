"""New columns, and others in the place of some."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from itertools import compress, repeat
from operator import is_
from typing import Any

import numpy as np

from tin_bucket.core.columns.compressed import Packed
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn
from tin_bucket.core.work_out.sql import ROW, Sql
from tin_bucket.core.work_out.steps import Columns, Made
from tin_bucket.engine.work_out.combinations import combinations
from tin_bucket.engine.work_out.doing import (
    Doing,
    as_kind,
    columns_read,
    counted,
    heading,
    load,
    long_list,
    rounded,
    shown,
)
from tin_bucket.engine.work_out.row_memo import digest
from tin_bucket.engine.work_out.sandbox import Sandbox
from tin_bucket.engine.work_out.source import picked
from tin_bucket.engine.work_out.stage import Cells, Note, Shared, Stage, StoredRows, Values

_TOGETHER = 50_000  # Rows that are worked out at once where each is worked out by itself.
_ALONE = 256  # Rows that are tried one by one when some of them fail.
_FAILED = object()  # In the place of a value that could not be worked out.
_TOLD = 3  # Values that the note of a label counts.


def do_columns(step: Columns, stage: Stage, doing: Doing, key: tuple[Any, ...]) -> Stage:
    """Work out columns: of each row by itself a stretch at a time, along the rows at once."""
    data, failed = _along(step, stage, doing) if step.along else _by_rows(step, stage, doing)
    columns, cells = list(stage.columns), list(stage.cells)
    notes: list[Note] = []
    odd: list[Ints] = []
    place = stage.names.index(step.after) + 1 if step.after in stage.names else len(columns)
    for made, values in zip(step.made, data, strict=True):
        old = next((at for at, column in enumerate(columns) if column.name == made.name), None)
        new = Cells(Values(values))
        if old is None:
            columns.insert(place, heading(made.name, made.kind, made.unit, values))
            cells.insert(place, new)
            place += 1
        else:
            columns[old] = _replaced(columns[old], made, values)
            cells[old] = new
            notes.append(_changed(stage.cells[stage.names.index(made.name)].all(), values))
        rows, note = _odd(made, values, stage, failed)
        odd += [rows] if note else []
        notes += [note] if note else []
    if step.tally is not None:
        notes.insert(0, _tally(data[[made.name for made in step.made].index(step.tally)]))
    looks = {"odd": np.unique(np.concatenate(odd))} if odd else {}
    lit = [made.name for made in step.made]
    stored = stage.stored
    if stored is not None:
        names = {name: own for name, own in stored.made_of.items() if name not in lit}
        if not step.along:
            names |= {
                made.name: made_of(made.sql, stored.made_of)
                for made in step.made
                if set(columns_read([made.sql])) <= set(stored.made_of)
            }
        stored = StoredRows(stored.memo, stored.ids, names)
    return Stage(
        key,
        columns,
        cells,
        stage.height,
        stage.as_of,
        looks=looks,
        notes=notes,
        lit=lit,
        totals=stage.totals,
        stored=stored,
    )


def _replaced(old: TableColumn, made: Made, values: Sequence[Any]) -> TableColumn:
    kind = made.kind
    if kind is None and old.kind == "yes/no" and set(map(type, values)) <= {int, type(None)}:
        kind = "yes/no"
    return heading(made.name, kind, made.unit, values)


def _by_rows(step: Columns, stage: Stage, doing: Doing) -> tuple[list[list[Any] | Packed], list[int]]:
    """The columns of each row by itself. Of stored rows, those that were worked out before are not worked out again."""
    pieces = [made.sql for made in step.made]
    reads = columns_read(pieces)
    with doing.sandbox() as sandbox:
        # A mistake of the expression as a whole is said before any row is tried.
        sandbox.load("t", [(name, []) for name in reads], 0)
        sandbox.rows(f"SELECT {_select(pieces, sandbox)} FROM t")
    stored = stage.stored
    if stored is None or not all(name in stored.made_of for name in reads):
        inputs = [(name, stage.values(name)) for name in reads]
        made, failed = _worked(pieces, inputs, stage.height, doing)
        return [_typed(values, one) for values, one in zip(made, step.made, strict=True)], failed
    data: list[list[Any] | Packed] = []
    failed = []
    for one in step.made:
        own = columns_read([one.sql])
        what = made_of(one.sql, stored.made_of)

        def work(rows: Ints, piece: Sql = one.sql, own: list[str] = own) -> Sequence[Any]:
            made, wrong = _worked([piece], [(name, stage.some(name, rows)) for name in own], len(rows), doing)
            values = list(made[0])
            for at in wrong:
                values[at] = _FAILED
            return values

        values = stored.memo.values(what, stored.ids, work)
        wrong = [at for at, value in enumerate(values) if value is _FAILED]
        for at in wrong:
            values[at] = None
        failed += wrong
        data.append(_typed(values, one))
    return data, failed


def made_of(piece: Sql, names: Mapping[str, str]) -> str:
    """What says what a column is made of, down to the columns that are stored."""
    return digest(str(piece), [(name, names[name]) for name in columns_read([piece])])


def _typed(values: list[Any] | Packed, made: Made) -> list[Any] | Packed:
    if made.kind != "yes/no":
        return values
    out = long_list(len(values))
    for start in range(0, len(values), _TOGETHER):
        out.extend(as_kind(list(values[start : start + _TOGETHER]), made.kind))
    return out


def _select(pieces: Sequence[Sql], sandbox: Sandbox) -> str:
    return ", ".join(piece.render(sandbox.naming("t")) for piece in pieces)


def _worked(
    pieces: Sequence[Sql], inputs: Sequence[tuple[str, Sequence[Any]]], height: int, doing: Doing
) -> tuple[list[list[Any] | Packed], list[int]]:
    """The values of some SQL for each row, and the rows that failed. Rows that read the same are worked out once."""
    bare = not any(ROW in piece.reads for piece in pieces)
    found = combinations([values for _, values in inputs], height) if bare else None
    if found is None:
        return _each_worked(pieces, inputs, height, doing)
    columns, numbers = found
    own = [(name, values) for (name, _), values in zip(inputs, columns, strict=True)]
    made, failed = _each_worked(pieces, own, len(columns[0]), doing)
    at = numbers.tolist()
    wrong = np.flatnonzero(np.isin(numbers, failed)).tolist() if failed else []
    return [Shared(map(list(values).__getitem__, at)) for values in made], wrong


def _each_worked(
    pieces: Sequence[Sql], inputs: Sequence[tuple[str, Sequence[Any]]], height: int, doing: Doing
) -> tuple[list[list[Any] | Packed], list[int]]:
    """The same, with every row worked out, a stretch at a time."""
    out = [long_list(height) for _ in pieces]
    failed: list[int] = []
    with doing.sandbox() as sandbox:
        for start in range(0, height, _TOGETHER):
            stop = min(height, start + _TOGETHER)
            sandbox.load("t", [(name, values[start:stop]) for name, values in inputs], stop - start)
            made = sandbox.columns([piece.render(sandbox.naming("t")) for piece in pieces], "t")
            if made is None:
                wrong: list[int] = []
                rows = _tried(sandbox, _select(pieces, sandbox), 1, stop - start + 1, wrong, len(pieces))
                failed += [start + number - 1 for number in wrong]
                made = [rounded([row[at] for row in rows]) for at in range(len(pieces))]
            for own, values in zip(out, made, strict=True):
                own.extend(_shared(values))
    return out, failed


def _tried(sandbox: Sandbox, text: str, start: int, stop: int, failed: list[int], width: int) -> list[tuple[Any, ...]]:
    """The values of a stretch of rows. One row that fails does not lose the others: it is found by halves."""
    row = f'"{ROW}"'
    try:
        return sandbox.rows(f"SELECT {text} FROM t WHERE {row} >= ? AND {row} < ? ORDER BY {row}", (start, stop))
    except ProblemError as error:
        if error.problem.kind != "work-out-failed":
            raise
    if stop - start == 1:
        failed.append(start)
        return [(None,) * width]
    step = 1 if stop - start <= _ALONE else (stop - start + 1) // 2
    out: list[tuple[Any, ...]] = []
    for at in range(start, stop, step):
        out += _tried(sandbox, text, at, min(stop, at + step), failed, width)
    return out


def _along(step: Columns, stage: Stage, doing: Doing) -> tuple[list[list[Any] | Packed], list[int]]:
    pieces = [made.sql for made in step.made]
    inner = [piece for _, piece in step.inner]
    with doing.sandbox() as sandbox:
        load(sandbox, stage, [*pieces, *inner])
        naming = sandbox.naming("t")
        text = ", ".join(piece.render(naming) for piece in pieces)
        source = "t"
        if inner:
            source = f"(SELECT *, {', '.join(f'{one.render(naming)} AS {name}' for name, one in step.inner)} FROM t)"
        rows = sandbox.rows(f"SELECT {text} FROM {source} ORDER BY {naming(ROW)}")
    out: list[list[Any] | Packed] = []
    for at, made in enumerate(step.made):
        values = long_list(stage.height)
        values.extend(_shared(as_kind([row[at] for row in rows], made.kind)))
        out.append(values)
    return out, []


def _shared(values: list[Any]) -> list[Any]:
    """Equal texts as one object each, where there are few of them."""
    some = values[:500]
    if not any(isinstance(value, str) for value in some) or len(set(some)) > 100:
        return values
    known: dict[Any, Any] = {}
    return [known.setdefault(value, value) if type(value) is str else value for value in values]


def _odd(made: Made, values: Sequence[Any], stage: Stage, failed: list[int]) -> tuple[Ints, Note | None]:
    """The rows whose value could not be worked out, and the note that says why."""
    nothing = np.zeros(0, dtype=np.int64)
    empty = _blank_rows(values)
    if not len(empty) or not (made.numbers or made.divides or made.fails or failed or not made.chooses):
        return nothing, None
    reads = columns_read([made.sql])
    inputs = [picked(stage.values(name), empty) for name in reads]
    # Of nothing comes nothing.
    there = np.ones(len(empty), dtype=bool)
    for column in inputs:
        there &= ~np.fromiter(map(is_, column, repeat(None)), dtype=bool, count=len(empty))
    inputs, empty = [list(compress(column, there)) for column in inputs], empty[there]
    numbers = [at for at, name in enumerate(reads) if name in made.numbers]
    known = set(failed)
    why: Counter[str] = Counter()
    example, found = "", []
    for row, cells in zip(empty.tolist(), zip(*inputs, strict=True) if inputs else [()] * len(empty), strict=True):
        if made.nothing and str(cells[0]).strip() in made.nothing:
            continue
        texts = [cells[at] for at in numbers if isinstance(cells[at], str) and cells[at].strip()]
        filled = all(isinstance(cell, str | int | float) and cell != "" for cell in cells)
        if row in known:
            why["a value that cannot be worked out"] += 1
        elif texts:
            example = example or shown(texts[0])
            why["text where a number is wanted"] += 1
        elif not filled or made.chooses:
            continue
        elif made.fails:
            example = example or shown(cells[0])
            why[made.fails] += 1
        else:
            why["division by zero" if made.divides else "a value that cannot be worked out"] += 1
        found.append(row)
    if not found:
        return nothing, None
    reasons = "; ".join(f"{count:,} {reason}" if len(why) > 1 else reason for reason, count in why.most_common())
    such = f", such as “{example}”" if example else ""
    if why["text where a number is wanted"] and _is_number(example):
        such += "; the line “texts read as numbers or dates” makes numbers of them"
    text = f"{len(found):,} not worked out: {reasons}{such}"
    return np.array(found, dtype=np.int64), Note(text, "odd", odd=True)


def _is_number(text: str) -> bool:
    try:
        return float(text) is not None
    except ValueError:
        return False


def _blank_rows(values: Sequence[Any]) -> Ints:
    """The rows without a value, looked for a stretch at a time."""
    found: list[Ints] = [np.zeros(0, dtype=np.int64)]
    for start in range(0, len(values), _TOGETHER):
        some = values[start : start + _TOGETHER]
        if None in some:
            blank = np.fromiter(map(is_, some, repeat(None)), dtype=bool, count=len(some))
            found.append(np.flatnonzero(blank) + start)
    return np.concatenate(found).astype(np.int64)


def _tally(values: Sequence[Any]) -> Note:
    counts = Counter(values)
    empty = counts.pop(None, 0)
    told = [f"{count:,} {shown(value)}" for value, count in counts.most_common(_TOLD)]
    more = len(counts) - _TOLD
    told += [f"{counted(more, 'more label')}"] if more > 0 else []
    told += [f"{empty:,} blank"] if empty else []
    return Note(" · ".join(told) or "no rows")


def _changed(old: Sequence[Any], new: Sequence[Any]) -> Note:
    changed = sum(one != other or type(one) is not type(other) for one, other in zip(old, new, strict=True))
    return Note(f"{counted(changed, 'value')} changed")
