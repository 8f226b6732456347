"""Cells: what one holds (ISO/IEC 29500-1, §18.3.1.4), and how a value is written as one.

Texts are written into the sheet itself (``inlineStr``), so the list of texts that all sheets share stays as it is.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Sequence
from datetime import date, datetime
from typing import Any
from xml.sax.saxutils import unescape

from lxml import etree

from tin_bucket.core.columns.kind_registry import kind_of
from tin_bucket.core.columns.missing import Miss

EXACT = 10**15  # A sheet keeps 15 digits of a number; longer whole numbers are written as text.
MOST_CHARACTERS = 32_767
_FIRST_DAY = date(1900, 3, 1)  # Before this, the day numbers of sheets are off by one.
_DAY_ZERO = date(1899, 12, 30).toordinal()
_DAYS_1904 = 1_462  # Between the two date systems (§18.17.4.1).
_SPECIAL = re.compile("[&<>\x00-\x08\x0b\x0c\x0d\x0e-\x1f\ud800-\udfff\ufffe\uffff]|_x[0-9A-Fa-f]{4}_")
_ESCAPED = re.compile(r"_x([0-9A-Fa-f]{4})_")
_TYPE = re.compile(rb'\bt="([A-Za-z]+)"')
_STYLE = re.compile(rb'\bs="([0-9]+)"')
_VALUE = re.compile(rb"<v\b[^>]*>(.*?)</v>", re.DOTALL)
_TEXT = re.compile(rb"<t\b[^>]*?(?:/>|>(.*?)</t>)", re.DOTALL)
_PHONETIC = re.compile(rb"<rPh\b.*?</rPh>", re.DOTALL)
_FORMULA = re.compile(rb"<f\b")
_KEPT_TEXTS = 20_000

Value = str | float | bool | None
Body = Callable[[Any], str]


def style_of(attributes: bytes) -> int:
    """The number of a cell's style."""
    found = _STYLE.search(attributes)
    return int(found[1]) if found else 0


def is_formula(inside: bytes | None) -> bool:
    """Whether a cell works something out."""
    return inside is not None and _FORMULA.search(inside) is not None


def has_content(inside: bytes | None) -> bool:
    """Whether a cell holds something beside its style."""
    if not inside:
        return False
    return b"<v>" in inside or b"<v " in inside or b"<is" in inside or is_formula(inside)


def read_value(attributes: bytes, inside: bytes | None, texts: Callable[[int], str]) -> Value:
    """What a cell shows: a number, a text, yes or no, or nothing. A date is its number.

    Args:
        texts: gives a text of the list that all sheets share.
    """
    if not inside:
        return None
    kind = _TYPE.search(attributes)
    told = kind[1] if kind else b"n"
    if told == b"inlineStr":
        return read_text(b"".join(part or b"" for part in _TEXT.findall(_PHONETIC.sub(b"", inside))))
    found = _VALUE.search(inside)
    if found is None:
        return None
    if told == b"s":
        return texts(int(found[1]))
    if told in (b"str", b"d", b"e"):
        return read_text(found[1])
    if told == b"b":
        return found[1].strip() == b"1"
    try:
        return float(found[1])
    except ValueError:
        return read_text(found[1])


def read_text(data: bytes) -> str:
    """A text as it is in a part: XML's characters and those of the format (§22.9.2.19) are resolved."""
    text = unescape(data.decode("utf-8", "replace"), {"&quot;": '"', "&apos;": "'"})
    if "&#" in text:
        text = re.sub(r"&#(?:x([0-9A-Fa-f]+)|([0-9]+));", lambda m: chr(int(m[1], 16) if m[1] else int(m[2])), text)
    return _ESCAPED.sub(lambda found: chr(int(found[1], 16)), text) if "_x" in text else text


def shared_texts(tree: Any) -> list[str]:
    """The texts of the part that all sheets share, in order."""
    ns = etree.QName(tree).namespace
    out = []
    for item in tree.iterchildren(f"{{{ns}}}si"):
        parts = [
            part.text or ""
            for part in item.iter(f"{{{ns}}}t")
            if etree.QName(part.getparent()).localname != "rPh"
        ]  # fmt: skip
        text = "".join(parts)
        out.append(_ESCAPED.sub(lambda found: chr(int(found[1], 16)), text) if "_x" in text else text)
    return out


def escape(text: str) -> str:
    """A text as a part has it. Characters that XML has no place for are written as the format says (§22.9.2.19)."""
    return _SPECIAL.sub(_escaped, text) if _SPECIAL.search(text) else text


def _escaped(found: re.Match[str]) -> str:
    char = found[0]
    if char == "&":
        return "&amp;"
    if char == "<":
        return "&lt;"
    if char == ">":
        return "&gt;"
    if len(char) > 1:
        return f"_x005F_{char[1:]}"
    # Half of a pair stands for nothing.
    return "\ufffd" if "\ud800" <= char <= "\udfff" else f"_x{ord(char):04X}_"


def day_number(text: str, since_1904: bool = False) -> float | None:
    """The number of a date or a moment (§18.17.4.1), which ISO 8601 texts are; ``None`` where a sheet has none."""
    try:
        moment = datetime.fromisoformat(text)
    except ValueError:
        return None
    if moment.date() < (date(1904, 1, 1) if since_1904 else _FIRST_DAY):
        return None
    days = moment.toordinal() - _DAY_ZERO - (_DAYS_1904 if since_1904 else 0)
    seconds = moment.hour * 3600 + moment.minute * 60 + moment.second + moment.microsecond / 1e6
    return days + seconds / 86_400 if seconds else days


def sheet_value(value: Any, kind: str, since_1904: bool = False) -> Value:
    """What a value is in a sheet: what :func:`read_value` reads of its cell."""
    if value is None or isinstance(value, Miss) or value == "":
        return None
    if isinstance(value, bool):
        return value
    if isinstance(value, int | float):
        exact = isinstance(value, float) or abs(value) < EXACT
        return float(value) if exact and math.isfinite(value) else str(value)
    text = str(value)
    if kind_of(kind).temporal and (day := day_number(text, since_1904)) is not None:
        return float(day)
    return text


def text_body(text: str) -> str:
    """The rest of a cell that holds a text, behind its place and its style."""
    space = ' xml:space="preserve"' if text[0] <= " " or text[-1] <= " " or "\n" in text or "  " in text else ""
    return f' t="inlineStr"><is><t{space}>{escape(text)}</t></is></c>'


class TextTooLongError(Exception):
    """A text has more characters than a cell holds."""


def cell_body(kind: str, since_1904: bool = False, cut: bool = False) -> Body:
    """What writes the rest of a cell behind its place and its style; for nothing, an empty cell.

    Args:
        kind: of the column; a moment of time becomes a number that its style shows as one.
        cut: whether a text that is too long is cut; else it raises :class:`TextTooLongError`.
    """
    temporal = kind_of(kind).temporal
    known: dict[Any, str] = {}
    isfinite = math.isfinite

    def text_of(value: str) -> str:
        if temporal and (day := day_number(value, since_1904)) is not None:
            return f"><v>{day!r}</v></c>"
        if len(value) > MOST_CHARACTERS // 2 and _units(value) > MOST_CHARACTERS:
            if not cut:
                raise TextTooLongError
            while _units(value) > MOST_CHARACTERS:
                value = value[: min(len(value) - 1, MOST_CHARACTERS)]
        return text_body(value) if value else "/>"

    def body(value: Any) -> str:
        kind_of_value = type(value)
        if kind_of_value is str:
            made = known.get(value)
            if made is None:
                made = text_of(value)
                if len(known) < _KEPT_TEXTS:
                    known[value] = made
            return made
        if kind_of_value is int:
            return f"><v>{value}</v></c>" if -EXACT < value < EXACT else text_body(str(value))
        if kind_of_value is float:
            return f"><v>{value!r}</v></c>" if isfinite(value) else text_body(str(value))
        if value is None or isinstance(value, Miss):
            return "/>"
        if kind_of_value is bool:
            return f' t="b"><v>{int(value)}</v></c>'
        return text_body(str(value))

    return body


def many_cells(
    values: Sequence[Any], numbers: Sequence[int], start: str, style: str, body: Body, known: dict[str, str]
) -> list[str]:
    """The cells of a column in some rows.

    Args:
        numbers: of the rows.
        start, style: how each begins, and its style.
        body: what writes the rest.
        known: keeps what was written of texts in that style, for the next rows of the column.
    """
    types = set(map(type, values))
    plain = types == {int} and min(values) > -EXACT and max(values) < EXACT
    if plain or (types == {float} and all(map(math.isfinite, values))):
        return [f"{start}{n}{style}><v>{value!r}</v></c>" for n, value in zip(numbers, values, strict=True)]
    if types == {str}:
        try:
            return [f"{start}{n}{known[value]}" for n, value in zip(numbers, values, strict=True)]
        except KeyError:
            pass
        # Few of many texts differ.
        if len(known) > _KEPT_TEXTS:
            known.clear()
        for value in set(values).difference(known):
            known[value] = f"{style}{body(value)}"
        return [f"{start}{n}{known[value]}" for n, value in zip(numbers, values, strict=True)]
    return [f"{start}{n}{style}{body(value)}" for n, value in zip(numbers, values, strict=True)]


def _units(text: str) -> int:
    """How many characters a text has as a workbook counts them (UTF-16)."""
    return len(text.encode("utf-16-le", "surrogatepass")) // 2
