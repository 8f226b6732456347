"""What a question takes from sheets and files of the workspace."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import Any

import orjson

from tin_bucket.core.formats.json import json_text
from tin_bucket.core.interchange.spreadsheet import SheetSettings, SheetTable
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.request.ask import SheetRows
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.response import Answer
from tin_bucket.store.workspace import Workspace

from .sheet_files import READER

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
