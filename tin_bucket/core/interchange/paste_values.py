"""Values that were pasted → parameters: dates, lists, numbers, and what they are called."""

from __future__ import annotations

import re
from datetime import date
from typing import Any

from tin_bucket.core.formats.json import parse_json
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.request.parameters.models import (
    DateParameter,
    DecimalParameter,
    MonthParameter,
    Parameter,
    TextParameter,
    WholeParameter,
    YesNoParameter,
)


def day_of(pieces: list[str]) -> date | None:
    """The day that three pieces of a path are, such as ``2026/11/25``."""
    if len(pieces) == 3 and re.fullmatch(r"\d{4}/\d{2}/\d{2}", "/".join(pieces)):
        return as_date("-".join(pieces))
    return None


def as_date(text: str) -> date | None:
    """The day that a text is (RFC 3339, full-date)."""
    try:
        return date.fromisoformat(text) if re.fullmatch(r"\d{4}-\d{2}-\d{2}", text) else None
    except ValueError:
        return None


def singular(word: str) -> str:
    """``sailings`` → ``sailing``."""
    if len(word) > 3 and word.endswith("ies"):
        return word[:-3] + "y"
    return word[:-1] if len(word) > 2 and word.endswith("s") and not word.endswith("ss") else word


def parameter_of(name: str, value: str) -> Parameter:
    """A parameter for a text of an address, with the text as its default: what is sent is the same again."""
    day = as_date(value)
    if day is not None:
        return DateParameter(name=name, default=day)
    if re.fullmatch(r"\d{4}-(0[1-9]|1[0-2])", value):
        return MonthParameter(name=name, default=value)
    if re.fullmatch(r"0|-?[1-9]\d{0,17}", value):
        return WholeParameter(name=name, default=int(value))
    if value in ("true", "false"):
        return YesNoParameter(name=name, default=value == "true")
    return TextParameter(name=name, default=value)


def json_parameter_model(value: Any) -> Any:
    """The kind of parameter that gives a JSON value back as it is, or ``None``."""
    if isinstance(value, bool):
        return YesNoParameter
    if isinstance(value, int):
        return WholeParameter
    if isinstance(value, float):
        return DecimalParameter
    if not isinstance(value, str) or len(value) > 200 or "\n" in value:
        return None
    if re.fullmatch(r"\d{4}-(0[1-9]|1[0-2])", value):
        return MonthParameter
    return DateParameter if as_date(value) else TextParameter


def list_parameter_model(values: list[Any]) -> Any:
    """The kind of parameter that gives a list of JSON values back as it is, or ``None``."""
    kinds = {json_parameter_model(value) for value in values}
    if not values or len(kinds) != 1 or any(value == "" for value in values):
        return None
    kind = kinds.pop()
    return kind if kind in (TextParameter, WholeParameter) else None


def json_of(text: str) -> Any:
    """The JSON array or object that a text is (RFC 8259), or ``None``."""
    if text.strip()[:1] not in ("{", "["):
        return None
    try:
        return parse_json(text.encode())
    except ProblemError:
        return None
