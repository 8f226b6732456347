"""Numbers, and texts that may be numbers."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from tin_bucket.core.columns.kind import ColumnKind, Convert, TypeGuess, as_list, guessed
from tin_bucket.core.columns.reads import Reads

from .numbers import as_decimal, as_whole, without_comma


def _converter_always(value: Any) -> Any:
    return as_decimal(without_comma(value))


def _converter(reads: Reads) -> Convert | None:
    return _converter_always if reads.comma else None


def _detect(values: list[str], name: str, now: datetime) -> list[TypeGuess]:
    plain = [value.strip() for value in values]
    # A nought in front, or sixteen digits, make a code: as a number it would lose something.
    if any(len(text.lstrip("+-")) > 1 and text.lstrip("+-").startswith("0") and text.isdecimal() for text in plain):
        return []
    if any(sum(char.isdigit() for char in text) > 15 for text in plain):
        return []
    percent = all(text.endswith("%") for text in plain)
    unit = ", each with a percent sign" if percent else ""
    comma = any("," in text for text in plain)
    if not comma or any("." in text[text.rfind(",") :] for text in plain if "," in text):
        kind = "whole number" if all("." not in text for text in plain) else "decimal"
        convert = as_whole if kind == "whole number" else as_decimal
        made = guessed(kind, convert, None, values, f"numbers written as text{unit}")
        if made is not None:
            return [made]
    reads = Reads(comma=True)
    return as_list(guessed("decimal", _converter_always, reads, values, f"numbers with a decimal comma{unit}"))


KIND = ColumnKind(
    name="decimal",
    label="decimal",
    convert=as_decimal,
    converter=_converter,
    of_types=(frozenset({float}), frozenset({int, float})),
    read_with=("comma",),
    numeric=True,
    detect_texts=_detect,
)
