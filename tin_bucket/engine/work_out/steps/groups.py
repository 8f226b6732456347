"""A row for each group of rows."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from tin_bucket.core.columns.compressed import Packed
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.work_out.sql import ROW, Col, Sql
from tin_bucket.core.work_out.steps import Figure, Groups, Made
from tin_bucket.engine.work_out.doing import Doing, as_kind, columns_read, counted, heading, load
from tin_bucket.engine.work_out.sandbox import GROUP, Sandbox
from tin_bucket.engine.work_out.source import picked
from tin_bucket.engine.work_out.stage import Cells, Note, Stage, Values, plain

TOTAL = "Total"


def do_groups(step: Groups, stage: Stage, doing: Doing, key: tuple[Any, ...]) -> Stage:
    """Count and sum by groups, ordered by what makes them; a row of all at the end where it is asked for."""
    # What needs rows worked out within their groups before is left to SQLite as a whole.
    whole = not step.by or any(figure.inner for figure in step.figures)
    rows, behind = _by_sqlite(step, stage, doing) if whole else _by_numbers(step, stage, doing)
    every: list[Made | Figure] = [*step.by, *step.figures]
    data = [list(values) for values in zip(*rows, strict=True)] if rows else [[] for _ in every]
    columns, cells = [], []
    for made, values in zip(every, data, strict=True):
        own = as_kind(values, made.kind)
        columns.append(heading(made.name, made.kind, made.unit, own))
        if step.totals and made is step.by[0]:
            own = [*own[:-1], TOTAL]
        cells.append(Cells(Values(own)))
    groups = len(rows) - int(step.totals)
    notes = [Note(f"{counted(groups, 'group')} of {counted(stage.height, 'row')}")]
    notes += _texts(step, stage)

    def counted_in(row: int) -> Ints:
        if step.totals and row == groups:
            return np.arange(stage.height, dtype=np.int64)
        return behind(row)

    return Stage(
        key, columns, cells, len(rows), stage.as_of, counted=counted_in, notes=notes,
        lit=[figure.name for figure in step.figures], totals=step.totals,
    )  # fmt: skip


Behind = Callable[[int], Ints]


def _by_sqlite(step: Groups, stage: Stage, doing: Doing) -> tuple[list[tuple[Any, ...]], Behind]:
    """The rows of the groups, all worked out by SQLite; and what gives the rows that are counted in one of them."""
    by, figures = list(step.by), list(step.figures)
    inner = [one for figure in figures for one in figure.inner]
    pieces: list[Sql] = [one.sql for one in by] + [one.sql for one in figures] + [piece for _, piece in inner]
    with doing.sandbox() as sandbox:
        load(sandbox, stage, [*pieces, *(one.total for one in figures if one.total is not None)])
        source = _source(step, sandbox)
        naming = sandbox.naming("t")
        keys = [f'"#g{at}"' for at in range(len(by))]
        told = ", ".join([*keys, *(one.sql.render(naming) for one in figures)])
        order = ", ".join(f"{one} NULLS LAST" for one in keys)
        text = f"SELECT {told} FROM {source}"
        rows = sandbox.rows(f"{text} GROUP BY {', '.join(keys)} ORDER BY {order}" if keys else text)
        rows += _totals(step, sandbox, source)
    return rows, lambda row: _behind(step, stage, doing, list(rows[row][: len(by)]))


def _by_numbers(step: Groups, stage: Stage, doing: Doing) -> tuple[list[tuple[Any, ...]], Behind]:
    """The same, with the groups numbered first: a table that lies in their order needs no sorting by their values."""
    figures = list(step.figures)
    with doing.sandbox() as sandbox:
        keys = [_ranked(one.sql, stage, sandbox, at) for at, one in enumerate(step.by)]
        combined = np.zeros(stage.height, dtype=np.int64)
        for distinct, ranks in keys:
            combined = combined * max(1, len(distinct)) + ranks
        order = np.argsort(combined, kind="stable")
        ordered = combined[order]
        starts = np.flatnonzero(np.r_[True, ordered[1:] != ordered[:-1]]) if len(ordered) else order
        ends = np.r_[starts[1:], len(ordered)]
        groups = np.repeat(np.arange(len(starts), dtype=np.int64), ends - starts)
        read = columns_read([one.sql for one in figures] + [one.total for one in figures if one.total is not None])
        columns = [(name, picked(stage.values(name), order)) for name in read]
        sandbox.load_groups("t", columns, groups, order + 1)
        naming = sandbox.naming("t")
        told = ", ".join(one.sql.render(naming) for one in figures)
        made = sandbox.rows(f"SELECT {told} FROM t GROUP BY {GROUP} ORDER BY {GROUP}") if len(starts) else []
        totals = _totals(step, sandbox, "t")
    first = order[starts]
    named = [[distinct[rank] for rank in ranks[first].tolist()] for distinct, ranks in keys]
    rows = [(*own, *figure) for own, figure in zip(zip(*named, strict=True), made, strict=True)]
    return rows + totals, lambda row: np.sort(order[starts[row] : ends[row]])


def _ranked(piece: Sql, stage: Stage, sandbox: Sandbox, at: int) -> tuple[list[Any], Ints]:
    """The different values of what makes a group, in their order, and for each row the place of its own."""
    bare = piece.parts[0].name if len(piece.parts) == 1 and isinstance(piece.parts[0], Col) else None
    reads = columns_read([piece])
    if bare is None and len(reads) != 1:
        load(sandbox, stage, [piece], f"k{at}")
        naming = sandbox.naming(f"k{at}")
        values = sandbox.column(f"SELECT {piece.render(naming)} FROM k{at} ORDER BY {naming(ROW)}")
        return _in_order(values)
    distinct, numbers = _in_order(stage.values(reads[0]))
    if bare is not None:
        return distinct, numbers
    # What is worked out of one column is worked out once for each of its values.
    sandbox.load(f"k{at}", [(reads[0], distinct)], len(distinct))
    naming = sandbox.naming(f"k{at}")
    made = sandbox.column(f"SELECT {piece.render(naming)} FROM k{at} ORDER BY {naming(ROW)}")
    own, ranks = _in_order(made)
    return own, ranks[numbers]


def _in_order(values: Sequence[Any]) -> tuple[list[Any], Ints]:
    """Different values in SQLite's order, numbers before texts and nothing last; and for each value its place."""
    own = _comparable(values)
    distinct = list(dict.fromkeys(own))
    at_first = {value: at for at, value in enumerate(distinct)}
    numbers = np.fromiter(map(at_first.__getitem__, own), dtype=np.int64, count=len(values))
    order = sorted(
        range(len(distinct)),
        key=lambda at: (
            distinct[at] is None,
            isinstance(distinct[at], str),
            distinct[at].encode("utf-8", "replace") if isinstance(distinct[at], str) else distinct[at] or 0,
        ),
    )
    places = np.empty(len(distinct), dtype=np.int64)
    places[order] = np.arange(len(distinct))
    return [distinct[at] for at in order], places[numbers]


def _comparable(values: Sequence[Any]) -> Sequence[Any]:
    types = values.all_types() if isinstance(values, Packed) else set(map(type, values))
    return values if types <= {str, int, float, type(None)} else [plain(value) for value in values]


def _totals(step: Groups, sandbox: Sandbox, source: str) -> list[tuple[Any, ...]]:
    """The row of all, where it is asked for."""
    if not step.totals:
        return []
    naming = sandbox.naming("t")
    told = ", ".join((one.total or one.sql).render(naming) for one in step.figures)
    return [(*([None] * len(step.by)), *one) for one in sandbox.rows(f"SELECT {told} FROM {source}")]


def _source(step: Groups, sandbox: Sandbox) -> str:
    """The rows, with what makes their groups, and what their figures need worked out before."""
    naming = sandbox.naming("t")
    made = [f'{one.sql.render(naming)} AS "#g{at}"' for at, one in enumerate(step.by)]
    made += [f"{piece.render(naming)} AS {name}" for one in step.figures for name, piece in one.inner]
    return f"(SELECT *, {', '.join(made)} FROM t)" if made else "t"


def _behind(step: Groups, stage: Stage, doing: Doing, keys: list[Any]) -> Ints:
    """The rows of a group."""
    with doing.sandbox() as sandbox:
        load(sandbox, stage, [one.sql for one in step.by])
        naming = sandbox.naming("t")
        tests = " AND ".join(f"{one.sql.render(naming)} IS ?" for one in step.by) or "1"
        return np.array(
            sandbox_rows(sandbox, f"SELECT {naming(ROW)} - 1 FROM t WHERE {tests} ORDER BY 1", keys), dtype=np.int64
        )


def sandbox_rows(sandbox: Sandbox, text: str, values: list[Any]) -> list[int]:
    """The numbers that a SELECT gives."""
    return [row for (row,) in sandbox.rows(text, values)]


def _texts(step: Groups, stage: Stage) -> list[Note]:
    """Texts among the numbers that figures are made of: they are left out, and said."""
    out = []
    for name in sorted({name for figure in step.figures for name in figure.numbers}):
        texts = [value for value in stage.values(name) if isinstance(value, str) and value.strip()]
        if texts:
            such = texts[0] if len(texts[0]) <= 24 else f"{texts[0][:23]}…"
            out.append(Note(f"{counted(len(texts), 'text')} in {name} left out, such as “{such}”", "", odd=True))
    return out
