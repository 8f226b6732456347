"""A rule of what counts as the same: values that differ are alike under it."""

from __future__ import annotations

from typing import Any, ClassVar

from pydantic import Field

from tin_bucket.core.base import Part


class AlikeRule(Part):
    """A rule, for some columns or for all.

    Attributes:
        ignores: whether the columns are not looked at at all.
        has_form: whether alike values have one form (:meth:`form`). Such a rule holds for match columns too, since
            being alike is an equivalence then; a tolerance is none.
    """

    ignores: ClassVar[bool] = False
    has_form: ClassVar[bool] = False

    columns: list[str] = Field(default=[], max_length=500, description="the columns that it is for; all when empty")

    def form(self, value: Any) -> Any:
        """The form that all values have which are alike; the value itself where the rule says nothing of it."""
        return value

    def alike(self, old: Any, new: Any) -> bool:
        """Whether two values that differ are alike."""
        return False

    def words(self) -> str:
        """What it makes alike, such as ``within 1 %``."""
        raise NotImplementedError


def number_of(value: Any) -> float | None:
    """A cell as a number; nothing for what is none. Whole numbers beyond floats are none either."""
    if isinstance(value, bool) or not isinstance(value, int | float):
        return None
    try:
        return float(value)
    except OverflowError:
        return None
