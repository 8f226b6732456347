"""Where a command writes a table: a file by its ending, or standard output."""

from __future__ import annotations

import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

import typer

from tin_bucket.core.interchange.formulas import FormulaCells
from tin_bucket.core.problem import fail
from tin_bucket.engine.work_out.source import KeptTable, rows_of
from tin_bucket.engine.work_out.work import WorkOut
from tin_bucket.feeds.formats.registry import FORMATS, endings
from tin_bucket.feeds.options import DECIMALS, ENCODINGS, SEPARATORS, ExportOptions
from tin_bucket.feeds.safe_file import replace_file
from tin_bucket.store.queries import Query
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.store.workspace import Workspace

from .common import errors

OUT_HELP = f"File to write: {', '.join(f'*.{ending}' for ending in FORMATS)}; - for standard output."
FormulasAsText = Annotated[
    bool,
    typer.Option(
        "--formulas-as-text",
        help="In CSV, put an apostrophe before texts that a workbook would take for formulas: they stay texts.",
    ),
]

Separator = Annotated[str, typer.Option(help=f"Between the fields of CSV: {', '.join(SEPARATORS)}.")]
Decimal = Annotated[str, typer.Option(help=f"What parts the digits of a number in CSV: {', '.join(DECIMALS)}.")]
Encoding = Annotated[
    str, typer.Option(help=f"Of CSV: {', '.join(ENCODINGS)}; with a byte order mark it opens right by a double click.")
]
Form = Annotated[
    str | None, typer.Option("--format", help=f"{', '.join(FORMATS)}; else what the file's name ends in, or CSV.")
]
Headings = Annotated[bool, typer.Option("--headings/--no-headings", help="Whether the first row holds the names.")]


@dataclass(frozen=True, slots=True)
class Target:
    """A file to write; ``-`` is standard output, and nothing is written without one."""

    out: Path | None
    ending: str
    options: ExportOptions

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
        title = query.name
        table = WorkOut(workspace).dated(query, snapshot)
        kept = isinstance(table, KeptTable) and snapshot is not None
        rows = workspace.snapshots.all_rows(snapshot.id) if kept and snapshot is not None else rows_of(table)
        writer = FORMATS[self.ending]
        if str(self.out) == "-":
            self._tell(writer.write(table.columns, rows, sys.stdout.buffer, title, self.options))
            return
        out = self.out
        found = replace_file(out, lambda file: writer.write(table.columns, rows, file, title, self.options))
        self._tell(found)

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
        errors.print(f"  {told}: {done}", markup=False)
