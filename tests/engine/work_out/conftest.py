"""Tables in memory with lines done to them, and queries of a service whose rows a test says."""

import json
import sqlite3
from typing import Any

import pytest
from pydantic import TypeAdapter

from tests.conftest import NOON
from tin_bucket.core.columns.kind_registry import guess_kind
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.table.table import TableColumn
from tin_bucket.core.work_out.registry import WorkOutLine
from tin_bucket.engine.work_out.functions import register
from tin_bucket.engine.work_out.source import MemoryTable
from tin_bucket.engine.work_out.work import WorkOut, statement_of

LINES = TypeAdapter(list[WorkOutLine])
AS_OF = "2026-11-18T07:30:00+00:00"


def table(name: str = "T", /, **columns: list[Any]) -> MemoryTable:
    """A table of columns."""
    height = len(next(iter(columns.values())))
    headings = [TableColumn(one, guess_kind(values)) for one, values in columns.items()]
    return MemoryTable((name, repr(columns)), headings, list(columns.values()), height)


def plain(value: Any) -> Any:
    """A cell as SQL has it: no match is nothing, yes and no are 1 and 0."""
    return None if hasattr(value, "words") else int(value) if isinstance(value, bool) else value


class Bench:
    """Does lines to tables."""

    def __init__(self) -> None:
        self.others: dict[str, MemoryTable] = {}
        self.work = WorkOut(None)  # type: ignore[arg-type]
        self.work.other = lambda source, *_: self.others[source.name]  # type: ignore[method-assign]

    def do(self, own: MemoryTable, *lines: dict[str, Any]):
        """What became of the lines; what the statement says is what was done."""
        first, done = self.work.lines(own, AS_OF, LINES.validate_python(list(lines)))
        if all(one.problem is None for one in done):
            self.check_statement(own, first, done)
        return done

    def rows(self, own: MemoryTable, *lines: dict[str, Any]) -> list[tuple[Any, ...]]:
        """The rows behind the last line."""
        done = self.do(own, *lines)
        assert done[-1].problem is None, done[-1].problem
        stage = done[-1].stage
        return stage.window(0, stage.height)

    def check_statement(self, own: MemoryTable, first, done) -> None:
        """The statement, run by SQLite alone on the same tables, gives the same rows in the same order."""
        stage = done[-1].stage
        db = sqlite3.connect(":memory:")
        register(db)
        for name, one in {"T": own, **self.others}.items():
            marks = ", ".join("?" * len(one.columns))
            names = ", ".join('"' + column.name.replace('"', '""') + '"' for column in one.columns)
            db.execute(f'CREATE TABLE "{name}" ({names})')
            rows = [tuple(map(plain, row)) for row in one.window(0, one.height)]
            db.executemany(f'INSERT INTO "{name}" VALUES ({marks})', rows)
        got = [tuple(map(_near, row)) for row in db.execute(statement_of("T", first, done))]
        assert got == [tuple(_near(plain(value)) for value in row) for row in stage.window(0, stage.height)]


def _near(value: Any) -> Any:
    return float(f"{value:.12g}") if isinstance(value, float) else value


@pytest.fixture
def bench() -> Bench:
    """Does lines to tables."""
    return Bench()


@pytest.fixture
def serve(awkward):
    """Let a path of the service give some rows."""

    def go(path, rows):
        awkward.answers[path] = (200, {"Content-Type": "application/json"}, json.dumps({"rows": rows}).encode())

    return go


@pytest.fixture
def add(workspace, awkward):
    """Add a query: one that asks a path, or one with other parts."""
    workspace.services.save(Service(id="awkward", name="Awkward", base=awkward.base))

    def go(name, path=None, **parts):
        asks = {"ask": {"service": "awkward", "path": path}, "take": {"records": "$.rows[*]"}} if path else {}
        return workspace.queries.add(load_brief({"name": name, **asks, **parts}), NOON)

    return go
