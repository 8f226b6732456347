"""The rows of other tables below."""

from __future__ import annotations

from typing import Any

import numpy as np

from tin_bucket.core.columns.kind_registry import guess_kind
from tin_bucket.core.problem import fail
from tin_bucket.core.table.row_expansion import Ints
from tin_bucket.core.table.table import TableColumn
from tin_bucket.core.work_out.steps import Below
from tin_bucket.engine.work_out.doing import Doing, counted, heading
from tin_bucket.engine.work_out.source import TableSource
from tin_bucket.engine.work_out.stage import Cells, Note, Stage, Values

MOST_ROWS = 20_000_000


def do_below(step: Below, stage: Stage, doing: Doing, key: tuple[Any, ...]) -> Stage:
    """Put tables under each other: columns by their names, in the order in which they come first."""
    others = [doing.other(one) for one in step.sources]
    height = stage.height + sum(one.height for one in others)
    if height > MOST_ROWS:
        raise fail(
            "too-many-rows",
            f"This would make {height:,} rows.",
            where="tables",
            do="Add fewer tables, or keep fewer rows.",
        )
    tables: list[Stage | TableSource] = [stage, *others]
    names = list(dict.fromkeys(column.name for table in tables for column in table.columns))
    columns: list[TableColumn] = []
    cells: list[Cells] = []
    unlike: list[str] = []
    for name in names:
        values: list[Any] = []
        kinds: list[str] = []
        first: TableColumn | None = None
        for table in tables:
            found = table.column(name)
            values += list(found[1]) if found is not None else [None] * table.height
            if found is not None:
                first = first or found[0]
                kinds.append(found[0].kind)
        assert first is not None
        kind = kinds[0] if len(set(kinds)) == 1 else guess_kind(values)
        unlike += [f"{name} is {' and '.join(dict.fromkeys(kinds))}"] if len(set(kinds)) > 1 else []
        columns.append(TableColumn(name, kind, first.origin, first.place, first.unit, of=first.of, note=first.note))
        cells.append(Cells(Values(values)))
    if step.whose:
        whose = [step.own, *(one.name for one in step.sources)]
        numbers = np.repeat(np.arange(len(tables), dtype=np.int64), [table.height for table in tables])
        columns.append(heading(step.whose, "text", "", whose))
        cells.append(Cells(Values(whose), numbers))
    before: Ints = np.full(height, -1, dtype=np.int64)
    before[: stage.height] = np.arange(stage.height)
    notes = [
        Note(f"{counted(one.height, 'row')} of {source.name}") for one, source in zip(others, step.sources, strict=True)
    ]
    notes += [Note(f"unlike kinds: {'; '.join(unlike[:3])}", odd=True)] if unlike else []
    notes += _gaps(tables, names)
    return Stage(key, columns, cells, height, stage.as_of, before=before, others=others, notes=notes,
                 lit=[step.whose] if step.whose else [])  # fmt: skip


def _gaps(tables: list[Stage | TableSource], names: list[str]) -> list[Note]:
    """Columns that not every table has."""
    lacking = [
        name for name in names if not all(any(column.name == name for column in table.columns) for table in tables)
    ]
    if not lacking:
        return []
    some = ", ".join(lacking[:3]) + (f" and {len(lacking) - 3} more" if len(lacking) > 3 else "")
    return [Note(f"not in all tables: {some}")]
