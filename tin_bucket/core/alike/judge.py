"""Judges cells by the rules of what counts as the same."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable, Sequence
from typing import Any

from .rule import AlikeRule

Form = Callable[[Any], Any]
Same = Callable[[Any, Any], bool]


class Judge:
    """The rules of a comparison, column by column.

    Attributes:
        reconciled: columns that are of two kinds in the two tables: a number is the same as its text there.
    """

    def __init__(self, rules: Sequence[AlikeRule] = (), reconciled: Iterable[str] = ()) -> None:
        self.rules = tuple(rules)
        self.reconciled = frozenset(reconciled)

    @property
    def key(self) -> tuple[str, ...]:
        """What tells it from others."""
        return (*(rule.model_dump_json() for rule in self.rules), *sorted(self.reconciled))

    def same(self, column: str, old: Any, new: Any) -> bool:
        """Whether two values are the same, and not only alike: equal as JSON; where the column is of two kinds, a
        number and its text too."""
        return same_value(old, new) or (column in self.reconciled and same_value(text_form(old), text_form(new)))

    def of(self, column: str) -> list[AlikeRule]:
        """The rules for a column."""
        return [rule for rule in self.rules if not rule.columns or column in rule.columns]

    def ignores(self, column: str) -> bool:
        """Whether a column is not looked at."""
        return any(rule.ignores for rule in self.of(column))

    def form_of(self, column: str) -> Form | None:
        """What gives alike values one form; nothing where the values stand for themselves."""
        forms: list[Form] = [rule.form for rule in self.of(column) if rule.has_form]
        if column in self.reconciled:
            forms.insert(0, text_form)
        if not forms:
            return None

        def form(value: Any) -> Any:
            for one in forms:
                value = one(value)
            return value

        return form

    def alike(self, column: str) -> Same | None:
        """Whether two values of a column that differ are alike; nothing where no rule says so."""
        rules = self.of(column)
        if not rules:
            return None
        if any(rule.ignores for rule in rules):
            return lambda old, new: True
        form = self.form_of(column) if any(rule.has_form for rule in rules) else None
        tolerances = [rule.alike for rule in rules if not rule.has_form]

        def same(old: Any, new: Any) -> bool:
            if form is not None and same_value(form(old), form(new)):
                return True
            return any(one(old, new) for one in tolerances)

        return same


def text_form(value: Any) -> Any:
    """The text of a number in one form, whether it is a number or a text: 7, 7.0, “7” and “7.00” are one."""
    if isinstance(value, bool):
        return value
    if isinstance(value, str):
        text = value.strip()
        if not _NUMBER.fullmatch(text):
            return value
        value = float(text) if "." in text or "e" in text.lower() else int(text)
    if isinstance(value, float) and value.is_integer() and abs(value) < 2**53:
        value = int(value)
    return str(value) if isinstance(value, int | float) else value


# Leading zeros make a code, not a number.
_NUMBER = re.compile(r"-?(0|[1-9][0-9]{0,300})(\.[0-9]{1,300})?([eE][+-]?[0-9]{1,3})?")


def same_value(old: Any, new: Any) -> bool:
    """Equal as JSON values: 1 equals 1.0, and neither equals true."""
    return bool(old == new) and isinstance(old, bool) == isinstance(new, bool)
