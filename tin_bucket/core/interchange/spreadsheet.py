"""Sheets as text → rows: pasted cells and CSV (RFC 4180), JSON and JSON Lines."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass, field
from typing import Any

from tin_bucket.core.detect.records import detect_records
from tin_bucket.core.formats.json import parse_json
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.problem import ProblemError, fail

SEPARATORS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "bar"}
_ENCODINGS = ((b"\xef\xbb\xbf", "utf-8-sig"), (b"\xff\xfe", "utf-16"), (b"\xfe\xff", "utf-16"))


@dataclass(frozen=True, slots=True)
class SheetSettings:
    """How a sheet is read; what is ``None`` is found out.

    Attributes:
        separator: what stands between cells.
        encoding: the text's encoding.
        header: whether the first row holds the names of the columns.
        skip: how many lines before it are left out.
        tab: which sheet of a workbook.
    """

    separator: str | None = None
    encoding: str | None = None
    header: bool = True
    skip: int = 0
    tab: str | None = None


@dataclass(slots=True)
class SheetTable:
    """The rows of a sheet.

    Attributes:
        records: one object a row.
        headings: the names of the columns, in order.
        found: what was found out, for people: ``separator``, ``encoding``, ``tab``.
        tabs: the names of a workbook's sheets.
    """

    records: list[Any]
    headings: list[str]
    found: dict[str, str] = field(default_factory=dict)
    tabs: list[str] = field(default_factory=list)


def decode(data: bytes, encoding: str | None) -> tuple[str, str]:
    """Bytes as text, with the encoding: the one that was given, that of a byte order mark, else UTF-8, else
    Windows-1252.

    Raises:
        ProblemError: ``sheet-unreadable`` where the given encoding does not fit, with the line.
    """
    given = encoding or next((name for mark, name in _ENCODINGS if data.startswith(mark)), None)
    for name in [given] if given else ["utf-8", "cp1252"]:
        assert name is not None
        try:
            return data.decode(name), name
        except LookupError as error:
            raise _unreadable(f"There is no encoding “{name}”.", "the encoding", "Choose another.") from error
        except UnicodeDecodeError as error:
            if given:
                line = data.count(b"\n", 0, error.start) + 1
                raise _unreadable(
                    f"Line {line:,} is not of the encoding {name}.", f"line {line}", "Choose another encoding."
                ) from error
    return data.decode("latin-1"), "latin-1"


def find_separator(text: str) -> str:
    """The separator that cuts the first lines into the most even rows; a comma where there is none."""
    best, best_score = ",", 0.0
    sample = "\n".join(text.splitlines()[:60])
    for separator in SEPARATORS:
        try:
            widths = [len(row) for row in csv.reader(io.StringIO(sample), delimiter=separator) if row]
        except csv.Error:
            continue
        common = max(set(widths), key=widths.count) if widths else 1
        if common > 1:
            score = widths.count(common) / len(widths) + min(common, 20) / 100
            if score > best_score:
                best, best_score = separator, score
    return best


def read_cells(data: bytes | str, settings: SheetSettings) -> SheetTable:
    """Read separated cells (RFC 4180). Values stay text, as they are; an empty cell is nothing.

    Raises:
        ProblemError: ``sheet-unreadable``, with the line.
    """
    text, encoding = (data, "utf-8") if isinstance(data, str) else decode(data, settings.encoding)
    text = text.removeprefix("\ufeff")
    if settings.skip:
        text = "".join(text.splitlines(keepends=True)[settings.skip :])
    separator = settings.separator or find_separator(text)
    if len(separator) != 1:
        raise _unreadable(f"“{separator}” is not one character.", "the separator", "Give one character.")
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=separator, strict=True)
    rows: list[tuple[int, list[str]]] = []
    try:
        before = 0
        for row in reader:
            if any(cell.strip() for cell in row):
                rows.append((settings.skip + before + 1, row))
            before = reader.line_num
    except csv.Error as error:
        line = settings.skip + before + 1
        raise _unreadable(
            f"Line {line:,} is broken: {_csv_words(str(error))}.",
            f"line {line}",
            "Correct that line, then read it again.",
        ) from error
    found = {"separator": SEPARATORS.get(separator, separator), "encoding": encoding}
    return make_sheet([row for _, row in rows], settings.header, found, [line for line, _ in rows])


def _csv_words(message: str) -> str:
    if "unexpected end" in message:
        return "a quote that opens there is not closed"
    if "expected after" in message:
        return "something stands behind a closing quote"
    return "it is longer than a cell may be" if "field larger" in message else message


def make_sheet(
    rows: list[list[Any]], header: bool, found: dict[str, str], lines: list[int] | None = None
) -> SheetTable:
    """Rows of cells → records.

    Args:
        lines: the line of each row in its file, for errors; counted from 1 where absent.

    Raises:
        ProblemError: ``sheet-unreadable`` where a row has more cells than there are columns, or there is no row.
    """
    if not rows:
        raise _unreadable("There is no row in it.", "the sheet", "Choose another file or another sheet of it.")
    numbers = lines or list(range(1, len(rows) + 1))
    width = len(rows[0]) if header else max(map(len, rows))
    names = [str(cell if cell is not None else "").strip() for cell in rows[0]] if header else []
    headings = _headings(names, width)
    records = []
    for number, row in zip(numbers[header:], rows[header:], strict=True):
        extra = [cell for cell in row[width:] if cell not in (None, "")]
        if extra:
            raise _unreadable(
                f"Line {number:,} has {len(row):,} cells, and there are {width:,} columns.",
                f"line {number}",
                "Put quotes around a text that holds the separator, or choose another separator.",
            )
        cells = [None if cell == "" else cell for cell in row[:width]] + [None] * (width - len(row))
        records.append(dict(zip(headings, cells, strict=True)))
    return SheetTable(records, headings, found)


def _headings(names: list[str], width: int) -> list[str]:
    out: dict[str, None] = {}
    numbers: dict[str, int] = {}
    for at in range(width):
        base = (names[at] if at < len(names) else "") or f"column {at + 1}"
        name, number = base, numbers.get(base, 2)
        while name in out:
            name, number = f"{base} {number}", number + 1
        numbers[base] = number
        out[name] = None
    return list(out)


def read_json_sheet(data: bytes) -> SheetTable:
    """Read a JSON document, or JSON Lines, one document a line. The likeliest list of a document is its rows.

    Raises:
        ProblemError: ``sheet-unreadable``, with the line.
    """
    text, encoding = decode(data, None)
    text = text.removeprefix("\ufeff").strip()
    try:
        document = parse_json(text.encode())
    except ProblemError as error:
        lines = [(at, line) for at, line in enumerate(text.splitlines(), 1) if line.strip()]
        if len(lines) < 2 or not all(line.lstrip()[:1] in '{["-0123456789tfn' for _, line in lines):
            raise _unreadable(error.problem.what, "the JSON text", error.problem.do) from error
        records = []
        for at, line in lines:
            try:
                records.append(parse_json(line.encode()))
            except ProblemError as broken:
                raise _unreadable(
                    f"Line {at:,} is not JSON: {broken.problem.what}", f"line {at}", "Correct that line."
                ) from broken
        return SheetTable(records, _names(records), {"form": "JSON Lines", "encoding": encoding})
    found = {"form": "JSON", "encoding": encoding}
    guesses = detect_records(document)
    path = guesses[0].path if guesses else "$"
    records = list(pick(document, path).values) if not isinstance(document, list) else document
    if path not in ("$", "$[*]"):
        found["rows"] = path
    return SheetTable(records, _names(records), found)


def _names(records: list[Any]) -> list[str]:
    names: dict[str, None] = {}
    for record in records[:1000]:
        if isinstance(record, dict):
            names.update(dict.fromkeys(record))
    return list(names)


def _unreadable(what: str, where: str, do: str) -> ProblemError:
    return fail("sheet-unreadable", what, where=where, do=do)
