"""Conditions of a report: when a sentence is shown, and which cells of a table are marked."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal

from tin_bucket.core.alike.rule import number_of
from tin_bucket.core.columns.readings import group_text, is_empty


@dataclass(frozen=True, slots=True)
class ReportTest:
    """A test of a value.

    Attributes:
        signs: other ways to write it.
        of_number: tests two numbers; of others, two texts.
    """

    key: str
    signs: tuple[str, ...]
    of_number: Callable[[float, float], bool] | None = None
    of_text: Callable[[str, str], bool] | None = None
    needs: bool = True


REPORT_TESTS: tuple[ReportTest, ...] = (
    ReportTest("above", (">", "over", "more than"), lambda a, b: a > b),
    ReportTest("at least", (">=", "≥"), lambda a, b: a >= b),
    ReportTest("below", ("<", "under", "less than", "fewer than"), lambda a, b: a < b),
    ReportTest("at most", ("<=", "≤"), lambda a, b: a <= b),
    ReportTest("is not", ("<>", "≠"), lambda a, b: not math.isclose(a, b), lambda a, b: a != b),
    ReportTest("is", ("=",), math.isclose, lambda a, b: a == b),
    ReportTest("contains", (), None, lambda a, b: b in a),
    ReportTest("blank", (), needs=False),
)
BY_KEY = {one.key: one for one in REPORT_TESTS}
if TYPE_CHECKING:
    ReportTestName = str
else:
    ReportTestName = Literal[tuple(BY_KEY)]


def passes(key: str, value: Any, wanted: str) -> bool:
    """Whether a value passes a test. What has no value passes “blank” alone; a text is never above a number."""
    test = BY_KEY[key]
    if key == "blank":
        return is_empty(value)
    if is_empty(value):
        return False
    number, other = number_of(value), _number(wanted)
    if test.of_number is not None and number is not None and other is not None:
        return test.of_number(number, other)
    if test.of_text is not None:
        return test.of_text(group_text(value).casefold(), wanted.strip().casefold())
    return False


def _number(text: str) -> float | None:
    try:
        found = float(text.replace(",", "").replace("−", "-").replace("%", "").strip())
    except ValueError:
        return None
    return found if math.isfinite(found) else None
