"""Conditions on a column, as forms write them → SQL and words."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import TYPE_CHECKING, Any, Literal

from pydantic import Field

from tin_bucket.core.base import Part
from tin_bucket.core.problem import fail

from .line import ColumnName, Value
from .shape import ColumnShape, Shape
from .sql import Col, Sql, literal, sql


@dataclass(frozen=True, slots=True)
class ValueTest:
    """A test of a value.

    Attributes:
        words: what it is in a sentence.
        takes: what it is tested against: a ``value``, one that has an ``order``, a ``text``, a ``list`` or ``nothing``.
        operator: the operator of SQL, where it is one.
    """

    key: str
    words: str
    takes: Literal["value", "order", "text", "list", "nothing"]
    operator: str = ""


TESTS: tuple[ValueTest, ...] = (
    ValueTest("above", "is above", "order", ">"),
    ValueTest("at least", "is at least", "order", ">="),
    ValueTest("below", "is below", "order", "<"),
    ValueTest("at most", "is at most", "order", "<="),
    ValueTest("is", "is", "value", "="),
    ValueTest("is not", "is not", "value", "<>"),
    ValueTest("one of", "is one of", "list", "IN"),
    ValueTest("none of", "is none of", "list", "NOT IN"),
    ValueTest("contains", "contains", "text"),
    ValueTest("lacks", "does not contain", "text"),
    ValueTest("begins", "begins with", "text"),
    ValueTest("ends", "ends with", "text"),
    ValueTest("blank", "is blank", "nothing"),
    ValueTest("filled", "is not blank", "nothing"),
)
BY_KEY = {test.key: test for test in TESTS}
if TYPE_CHECKING:
    TestName = str
else:
    TestName = Literal[tuple(BY_KEY)]


class Condition(Part):
    """A condition on a column."""

    column: ColumnName
    test: TestName = "is"
    value: Value = Field(default=None, description="what it is tested against")
    values: list[Value] = Field(default=[], max_length=1000, description="for “one of” and “none of”")

    def words(self) -> str:
        """The condition without its column."""
        return test_words(self.test, self.value, self.values)

    def sql(self, shape: Shape) -> Sql:
        """The condition as SQL: 1, 0, or NULL where the column is blank and that matters."""
        return test_sql(shape.column(self.column), self.test, self.value, self.values)


def test_words(key: str, value: Any, values: list[Any]) -> str:
    """A test in a sentence."""
    test = BY_KEY[key]
    if test.takes == "nothing":
        return test.words
    if test.takes == "list":
        # A value with a comma is one value all the same.
        some = ", ".join(f"“{one}”" if "," in str(one) else _said(one) for one in values[:4])
        return f"{test.words} {some}" + (f" and {len(values) - 4} more" if len(values) > 4 else "")
    return f"{test.words} {_said(value)}"


def _said(value: Any) -> str:
    return "blank" if value is None else f"{value:g}" if isinstance(value, float) else str(value)


def test_sql(column: ColumnShape, key: str, value: Any, values: list[Any]) -> Sql:
    """A test of a column as SQL.

    Raises:
        ProblemError: ``value-unreadable`` for a value that does not fit the column.
    """
    test, cell = BY_KEY[key], Col(column.name)
    if key == "blank":
        return sql("(", cell, " IS NULL OR ", cell, " = '')")
    if key == "filled":
        return sql("(", cell, " IS NOT NULL AND ", cell, " <> '')")
    if test.takes == "list":
        if not values:
            raise fail("value-missing", "There are no values to compare with.", where="condition", do="Add one.")
        wanted = ", ".join(literal(fitting(column, one)) for one in values)
        if key == "none of":
            return sql("(", cell, " IS NULL OR ", cell, f" NOT IN ({wanted}))")
        return sql(cell, f" IN ({wanted})")
    if test.takes == "text":
        return _text_test(column, key, "" if value is None else str(value))
    if value is None or value == "":
        raise fail(
            "value-missing",
            f"There is no value that {column.name[:100]} is compared with.",
            where="condition",
            do="Write one, or use “is blank”.",
        )
    if test.takes == "order":
        # SQLite orders every text above every number.
        wanted = literal(value if is_number(value) else fitting(column, value))
        kinds = "IN ('integer', 'real')" if orders_numbers(column, key, value) else "= 'text'"
        ordered = sql(cell, f" {test.operator} {_end_of_day(column, test, wanted)}")
        return ordered if not column.texts else sql("(typeof(", cell, f") {kinds} AND ", ordered, ")")
    wanted = literal(fitting(column, value))
    if key == "is not":
        return sql("(", cell, " IS NULL OR ", cell, f" <> {wanted})")
    return sql(cell, f" {test.operator} {wanted}")


def is_number(value: Any) -> bool:
    """Whether a value is a number; yes and no are none."""
    return isinstance(value, int | float) and not isinstance(value, bool)


def orders_numbers(column: ColumnShape, key: str, value: Any) -> bool:
    """Whether a test orders numbers, so that a text among the column's values has no place in that order."""
    return BY_KEY[key].takes == "order" and (column.numeric or is_number(value))


def _end_of_day(column: ColumnShape, test: ValueTest, wanted: str) -> str:
    """A day as an upper bound of moments means all of it: its texts go on behind the day."""
    day = column.temporal and len(wanted) == 12
    return f"{wanted[:-1]}~'" if day and test.key in ("above", "at most") else wanted


def _text_test(column: ColumnShape, key: str, text: str) -> Sql:
    if not text:
        raise fail(
            "value-missing",
            f"There is no text that is looked for in {column.name[:100]}.",
            where="condition",
            do="Write one.",
        )
    # SQLite's lower() knows A to Z alone.
    cell, part = Col(column.name), literal("".join(char.lower() if char.isascii() else char for char in text))
    if key in ("contains", "lacks"):
        found = sql("instr(lower(", cell, f"), {part})")
        return sql("(", cell, " IS NULL OR ", found, " = 0)") if key == "lacks" else sql(found, " > 0")
    if key == "begins":
        return sql("substr(lower(", cell, f"), 1, {len(text)}) = {part}")
    return sql("substr(lower(", cell, f"), -{len(text)}) = {part}")


def fitting(column: ColumnShape, value: Any) -> Any:
    """A value as the column has it: a number where it is a column of numbers, 1 or 0 for yes or no, else what it is.

    Raises:
        ProblemError: ``value-unreadable``.
    """
    if isinstance(value, str):
        if column.kind == "yes/no" and value.strip().lower() in ("yes", "true", "no", "false"):
            return value.strip().lower() in ("yes", "true")
        if column.numeric:
            return number_in(value, column.name)
        if column.temporal and value.strip():
            try:
                datetime.fromisoformat(value.strip())
            except ValueError:
                raise fail(
                    "value-unreadable",
                    f"“{value[:100]}” is not a date, and {column.name[:100]} is a column of dates.",
                    where="condition",
                    do="Write it as 2026-11-26 or 2026-11-26T07:30.",
                ) from None
            return value.strip()
    if is_number(value) and column.kind == "text":
        return str(value)
    return value


def number_in(text: str, name: str) -> int | float:
    """The number that a text says.

    Raises:
        ProblemError: ``value-unreadable``.
    """
    plain = text.strip()
    try:
        return int(plain)
    except ValueError:
        pass
    try:
        number = float(plain)
        if number - number == 0:
            return number
    except ValueError:
        pass
    raise fail(
        "value-unreadable",
        f"“{text[:100]}” is not a number, and {name[:100]} is a column of numbers.",
        where="condition",
        do="Write a number such as 42.5.",
    )
