"""What a question takes from elsewhere in the workspace: sheets, columns of other tables, choices."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

import orjson

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.document.query import Brief
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.interchange.spreadsheet import SheetSettings, SheetTable
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.request.ask import SheetRows
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.fan_out import FanOut, FanOutColumn, FanOutSheet
from tin_bucket.core.request.parameters.models import Choice, ChoiceParameter
from tin_bucket.core.response.response import Answer
from tin_bucket.store.workspace import Workspace

from .sheet_files import READER

MOST_CHOICES = 5_000
MOST_FILES = 10_000
_MOST_DEEP, _LONGEST_PATTERN = (
    2,
    500,
)  # Each ** looks through all folders below every one that the part before it names.


def kept_sheet(workspace: Workspace, name: str) -> SheetTable:
    """The rows of a sheet that is kept in the workspace.

    Raises:
        ProblemError: ``sheet-unknown`` or ``sheet-unreadable``.
    """
    sheet = workspace.sheets.get(name)
    try:
        return READER.read(sheet.file, workspace.sheets.body(name), sheet.settings)
    except ProblemError as error:
        raise ProblemError(replace(error.problem, where=f"sheet “{name}”, {error.problem.where}")) from error


def sheet_answers(workspace: Workspace, rows: SheetRows) -> list[tuple[Call, Answer]]:
    """A sheet, or each of several files, as an answer that holds a list of objects.

    Raises:
        ProblemError: ``sheet-unknown``, ``sheet-unreadable`` with file and line, or ``files-missing``.
    """
    if rows.sheet is not None:
        table = kept_sheet(workspace, rows.sheet)
        return [(Call("READ", f"sheet:{rows.sheet}", label=rows.sheet), _answer(table.records))]
    out = []
    folder = workspace.settings.folder
    for path in matching_files(folder, rows.files or ""):
        name = readable(path.relative_to(folder.resolve()).as_posix())
        try:
            table = READER.read_file(path, SheetSettings())
        except ProblemError as error:
            raise ProblemError(replace(error.problem, where=f"{name}, {error.problem.where}")) from error
        except OSError as error:
            raise fail("files-missing", f"{name} cannot be read.", where=name, do="Check its permissions.") from error
        records = [{"file": name, **one} if isinstance(one, dict) else one for one in table.records]
        out.append((Call("READ", f"file:{name}", label=name), _answer(records)))
    return out


def _answer(records: list[Any]) -> Answer:
    try:
        body = orjson.dumps(records)
    except TypeError:  # A whole number of more than 64 bits.
        body = json_text(records).encode()
    return Answer(200, {"content-type": "application/json"}, body)


def readable(name: str) -> str:
    """A file's name as text: what is not UTF-8 in it is shown as such."""
    return name.encode("utf-8", "surrogateescape").decode("utf-8", "replace")


def matching_files(folder: Path, pattern: str) -> list[Path]:
    """The files of the allowed folder that a pattern such as ``counts/*.csv`` names, by name.

    Raises:
        ProblemError: ``files-missing`` when there are none, ``files-too-many``, or ``pattern-unreadable``.
    """
    root = folder.resolve()
    if pattern.count("**") > _MOST_DEEP or len(pattern) > _LONGEST_PATTERN:
        raise fail(
            "pattern-unreadable",
            f"“{pattern[:80]}” is too long, or has ** more than {_MOST_DEEP} times.",
            where="files",
            do="Write it as counts/**/*.csv.",
        )
    try:
        found = sorted(path for path in root.glob(pattern) if path.is_file())
    except (ValueError, NotImplementedError, IndexError) as error:
        raise fail(
            "pattern-unreadable", f"“{pattern}” does not name files.", where="files", do="Write it as counts/*.csv."
        ) from error
    # A link must not lead out of the folder.
    inside = [path for path in found if path.resolve().is_relative_to(root)]
    if not inside:
        raise fail(
            "files-missing",
            f"No file of the allowed folder fits “{pattern}”.",
            where=str(folder),
            do="Put files there, or correct the pattern; * stands for any part of a name.",
        )
    if len(inside) > MOST_FILES:
        raise fail(
            "files-too-many", f"{len(inside):,} files fit “{pattern}”.", where=str(folder), do="Name fewer of them."
        )
    return inside


def read_fan_out(workspace: Workspace, each: Sequence[FanOut]) -> dict[int, list[Mapping[str, str]]]:
    """The values that *for each* takes from tables and sheets: index → parameter → text.

    Raises:
        ProblemError: ``query-unknown``, ``sheet-unknown``, ``column-unknown`` or ``table-missing``.
    """
    out: dict[int, list[Mapping[str, str]]] = {}
    for at, one in enumerate(each):
        if isinstance(one, FanOutColumn):
            values = column_values(workspace, one.query, [one.column])
            distinct = dict.fromkeys(text for (text,) in values if text is not None)
            out[at] = [{one.parameter: text} for text in distinct]
        elif isinstance(one, FanOutSheet):
            table = kept_sheet(workspace, one.sheet)
            for column in one.with_.values():
                if column not in table.headings:
                    raise _no_column(column, f"sheet “{one.sheet}”", table.headings)
            out[at] = [
                {name: _text(record.get(column)) or "" for name, column in one.with_.items()}
                for record in table.records
                if isinstance(record, dict)
            ]
    return out


def column_values(workspace: Workspace, query: str, columns: list[str]) -> Iterator[tuple[str | None, ...]]:
    """Columns of a query's newest table, row by row, as texts.

    Raises:
        ProblemError: ``query-unknown``, ``table-missing`` or ``column-unknown``.
    """
    found = workspace.queries.find(query)
    snapshot = workspace.snapshots.latest(found.id)
    if snapshot is None:
        raise fail(
            "table-missing",
            f"“{found.name}” has no table yet.",
            where=f"query “{found.name}”",
            do="Refresh it first.",
        )
    names = [column.name for column in snapshot.columns]
    for column in columns:
        if column not in names:
            raise _no_column(column, f"table of “{found.name}”", names)
    places = [names.index(column) for column in columns]
    return (tuple(_text(row[place]) for place in places) for row in workspace.snapshots.all_rows(snapshot.id))


def _text(value: Any) -> str | None:
    if value is None or isinstance(value, Miss):
        return None
    return value if isinstance(value, str) else json_text(value)


def _no_column(column: str, where: str, have: list[str]) -> Exception:
    return fail(
        "column-unknown",
        f"There is no column “{column}” in the {where}.",
        where=where,
        do=f"It has: {', '.join(have[:20])}.",
    )


def with_choices(workspace: Workspace, brief: Brief) -> Brief:
    """The brief with the choices in it that are read from another query's table.

    A query that has no table yet leaves its parameter open to any code.
    """
    parameters = []
    for parameter in brief.parameters:
        if isinstance(parameter, ChoiceParameter) and parameter.choices_from is not None:
            choices = choices_of(workspace, parameter)
            parameter = parameter.model_copy(update={"choices": choices, "choices_from": None})
        parameters.append(parameter)
    return brief.model_copy(update={"parameters": parameters})


def choices_of(workspace: Workspace, parameter: ChoiceParameter) -> list[Choice]:
    """A parameter's choices: its own, or those in two columns of a query's newest table; none without a table."""
    source = parameter.choices_from
    if source is None:
        return parameter.choices
    columns = [source.code, *([source.label] if source.label else [])]
    found: dict[str, str] = {}
    try:
        for code, *label in column_values(workspace, source.query, columns):
            if code is not None and code not in found:
                found[code] = (label[0] or "") if label else ""
            if len(found) >= MOST_CHOICES:
                break
    except ProblemError as error:
        if error.problem.kind in ("table-missing", "query-unknown"):
            return []
        raise
    return [Choice(code=code, label=label) for code, label in found.items()]
