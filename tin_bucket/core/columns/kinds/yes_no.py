"""Yes and no."""

from __future__ import annotations

from datetime import datetime
from typing import Any

from tin_bucket.core.columns.kind import ColumnKind, Convert, TypeGuess, as_list, guessed
from tin_bucket.core.columns.reads import Reads

_YES = {"true", "yes", "y", "1", "on"}
_NO = {"false", "no", "n", "0", "off"}


def _yes_no(value: Any, yes: set[str] = _YES, no: set[str] = _NO) -> Any:
    if isinstance(value, bool):
        return value
    word = str(value).strip().casefold()
    if word in yes:
        return True
    if word in no:
        return False
    raise ValueError


_YES_NO = (
    {"yes", "no"},
    {"y", "n"},
    {"true", "false"},
    {"on", "off"},
    {"t", "f"},
)


def _converter(reads: Reads) -> Convert | None:
    if not (reads.yes or reads.no):
        return None
    yes = {word.strip().casefold() for word in reads.yes} or _YES
    no = {word.strip().casefold() for word in reads.no} or _NO
    return lambda value: _yes_no(value, yes, no)


def _texts(values: list[Any], name: str, now: datetime) -> list[TypeGuess]:
    words = {value.strip().casefold() for value in values}
    if not any(words <= pair for pair in _YES_NO):
        return []
    reads = Reads(yes=["t"], no=["f"]) if words & {"t", "f"} else None
    convert = (_converter(reads) if reads is not None else None) or _yes_no
    return as_list(guessed("yes/no", convert, reads, values, "only yes/no words"))


def _numbers(values: list[Any], name: str, now: datetime) -> list[TypeGuess]:
    if {*values} != {0, 1}:
        return []
    return as_list(guessed("yes/no", _yes_no, None, values, "only 0 and 1"))


KIND = ColumnKind(
    name="yes/no",
    label="yes/no",
    convert=_yes_no,
    converter=_converter,
    of_types=(frozenset({bool}),),
    read_with=("yes", "no"),
    detect_texts=_texts,
    detect_numbers=_numbers,
)
