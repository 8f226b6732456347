"""Where a command writes a table: a file by its ending, or standard output."""

from __future__ import annotations

import sys
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from tin_bucket.core.interchange.formulas import FormulaCells
from tin_bucket.core.problem import fail
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.formats.registry import FORMATS, endings
from tin_bucket.feeds.options import ExportOptions
from tin_bucket.feeds.safe_file import check_writable, replace_file
from tin_bucket.store.queries import Query
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.store.workspace import Workspace

from .telling import tell


@dataclass(frozen=True, slots=True)
class Target:
    """A file to write; ``-`` is standard output, and nothing is written without one."""

    out: Path | None
    ending: str
    options: ExportOptions

    @classmethod
    def writable(cls, out: Path | None, options: ExportOptions, form: str | None = None) -> Target:
        """The target that the options name, which is seen to be writable before anything else is done.

        Raises:
            ProblemError: as :meth:`of`, or why the file cannot be written.
        """
        made = cls.of(out, options, form)
        if out is not None and str(out) != "-":
            check_writable(out)
        return made

    @classmethod
    def of(cls, out: Path | None, options: ExportOptions, form: str | None = None) -> Target:
        """The target that the options name.

        Raises:
            ProblemError: ``format-unknown`` or ``options-unfit``.
        """
        options.checked("--separator, --decimal, --encoding")
        if form is not None and form.lower() not in FORMATS:
            raise fail("format-unknown", f"“{form[:40]}” is no format.", where="--format", do=f"Use {endings()}.")
        if form is not None:
            return cls(out, form.lower(), options)
        if out is None or str(out) == "-":
            return cls(out, "csv", options)
        ending = out.suffix.lower().lstrip(".")
        if ending not in FORMATS:
            raise fail(
                "format-unknown", f"“{out.name}” ends with no known format.", where="--out", do=f"Use {endings('.')}."
            )
        return cls(out, ending, options)

    def write(self, workspace: Workspace, query: Query, snapshot: Snapshot | None) -> None:
        """Write the table of one of a query's dates, the newest where none is said, with its lines done to it.
        Standard error says what a workbook would take for formulas.

        Raises:
            ProblemError: ``file-unwritable``, or what is wrong with a line.
        """
        if self.out is None:
            return
        from tin_bucket.engine.work_out.source import KeptTable, rows_of
        from tin_bucket.engine.work_out.work import WorkOut

        title = query.name
        table = WorkOut(workspace).dated(query, snapshot)
        kept = isinstance(table, KeptTable) and snapshot is not None
        rows = workspace.snapshots.all_rows(snapshot.id) if kept and snapshot is not None else rows_of(table)
        self.write_rows(title, table.columns, rows)

    def write_rows(self, title: str, columns: Sequence[TableColumn], rows: Iterable[Sequence[Any]]) -> None:
        """Write some rows, whatever they are.

        Raises:
            ProblemError: ``file-unwritable``.
        """
        if self.out is None:
            return
        writer = FORMATS[self.ending]
        if str(self.out) == "-":
            self._tell(writer.write(columns, rows, sys.stdout.buffer, title, self.options))
            sys.stdout.flush()
            return
        self._tell(replace_file(self.out, lambda file: writer.write(columns, rows, file, title, self.options)))

    def _tell(self, found: FormulaCells) -> None:
        if not found.cells:
            return
        cells = "1 cell begins" if found.cells == 1 else f"{found.cells:,} cells begin"
        told = f"{cells} as a formula does, such as “{found.example[:40].strip()}” in “{found.columns[0]}”"
        done = (
            "each has an apostrophe in front."
            if self.options.formulas_as_text
            else "a workbook would work them out. --formulas-as-text keeps them texts."
        )
        tell(f"  {told}: {done}")
