"""Figures of many rows: the registry of what a line that counts and sums can make."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any, Literal

from pydantic import Field

from tin_bucket.core.base import Part
from tin_bucket.core.problem import fail

from .shape import ColumnShape, Shape
from .sql import ROW, Col, Sql, joined, literal, sql
from .steps import Figure

Groups = list[Sql]


@dataclass(frozen=True, slots=True)
class FigureKind:
    """A figure.

    Attributes:
        key: what a brief calls it.
        label: what it is called where one is chosen.
        words: what it is in a sentence; ``{}`` stands for the column.
        made: makes the figure of a column, whose name is the first value and whose groups are the last one.
        column: whether it is of a column.
        numbers: whether numbers alone count.
        share: whether it is a share, in percent.
        over_time: how it is told of the table of every date: as a ``count``, or as a ``number`` of the column's
            numbers; empty where it is not.
    """

    key: str
    label: str
    words: str
    made: Callable[[str, ColumnShape | None, Groups, str], Figure]
    column: bool = True
    numbers: bool = False
    share: bool = False
    over_time: Literal["", "count", "number"] = ""


def _cell(column: ColumnShape) -> Sql:
    """The column's value, blank texts aside."""
    return sql("nullif(", Col(column.name), ", '')") if column.texts else sql(Col(column.name))


def _number(column: ColumnShape) -> Sql:
    """The column's number; a text is none."""
    if not column.texts:
        return sql(Col(column.name))
    return sql("CASE WHEN typeof(", Col(column.name), ") <> 'text' THEN ", Col(column.name), " END")


def _numbers(column: ColumnShape) -> frozenset[str]:
    return frozenset({column.name}) if column.texts else frozenset()


def _of(name: str, aggregate: str, kind: str | None, numbers: bool) -> Callable[..., Figure]:
    """A plain aggregate; `aggregate` has ``{}`` where the cell stands."""
    before, after = aggregate.split("{}")

    def made(own: str, column: ColumnShape | None, groups: Groups, separator: str) -> Figure:
        assert column is not None
        cell = _number(column) if numbers else _cell(column)
        own_kind = column.kind if kind == "same" else kind
        unit = column.unit if kind in ("same", "decimal", None) else ""
        return Figure(own, sql(before, cell, after), kind=own_kind, unit=unit,
                      numbers=_numbers(column) if numbers else frozenset())  # fmt: skip

    return made


def _count(own: str, column: ColumnShape | None, groups: Groups, separator: str) -> Figure:
    return Figure(own, sql("count(*)"), kind="whole number")


def _share_of_rows(own: str, column: ColumnShape | None, groups: Groups, separator: str) -> Figure:
    share = sql("round(100.0 * count(*) / sum(count(*)) OVER (), 6)")
    return Figure(own, share, total=sql("CASE WHEN count(*) THEN 100.0 END"), kind="decimal", unit="%")


def _share(own: str, column: ColumnShape | None, groups: Groups, separator: str) -> Figure:
    assert column is not None
    cell = _number(column)
    share = sql("round(100.0 * sum(", cell, ") / sum(sum(", cell, ")) OVER (), 6)")
    total = sql("CASE WHEN sum(", cell, ") <> 0 THEN 100.0 END")
    return Figure(own, share, total=total, kind="decimal", unit="%", numbers=_numbers(column))


def _edge(last: bool) -> Callable[..., Figure]:
    """The first or last value of a group, in the order of the rows, blanks aside."""

    def made(own: str, column: ColumnShape | None, groups: Groups, separator: str) -> Figure:
        assert column is not None
        raw = f'"#{"last" if last else "first"} {own}"'.replace('""', '"')
        cell = _cell(column)
        partition = sql("PARTITION BY ", joined(", ", groups), " ") if groups else sql()
        order = sql(
            "ORDER BY (", cell, " IS NULL), ", Col(ROW), " DESC" if last else "",
        )  # fmt: skip
        value = sql("first_value(", Col(column.name), ") OVER (", partition, order, ")")
        whole = sql("first_value(", Col(column.name), ") OVER (", order, ")")
        all_raw = raw[:-1] + ' of all"'
        return Figure(
            own, sql(f"max({raw})"), total=sql(f"max({all_raw})"), inner=((raw, value), (all_raw, whole)),
            kind=column.kind, unit=column.unit,
        )  # fmt: skip

    return made


def _joined(own: str, column: ColumnShape | None, groups: Groups, separator: str) -> Figure:
    assert column is not None
    return Figure(own, sql("joined_values(", _cell(column), ", ", Col(ROW), f", {literal(separator)})"), kind="text")


FIGURES: tuple[FigureKind, ...] = (
    FigureKind("rows", "rows", "rows", _count, column=False, over_time="count"),
    FigureKind("share of rows", "share of rows in %", "share of rows in %", _share_of_rows, column=False, share=True),
    FigureKind("filled", "filled", "filled {}", _of("filled", "count({})", "whole number", False), over_time="count"),
    FigureKind("different", "different values", "different {}",
               _of("different", "count(DISTINCT {})", "whole number", False), over_time="count"),
    FigureKind("sum", "sum", "sum of {}", _of("sum", "sum({})", None, True), numbers=True, over_time="number"),
    FigureKind("mean", "mean", "mean {}", _of("mean", "avg({})", "decimal", True), numbers=True, over_time="number"),
    FigureKind("median", "median", "median {}",
               _of("median", "median({})", None, True), numbers=True, over_time="number"),
    FigureKind("lowest", "lowest", "lowest {}", _of("lowest", "min({})", "same", False), over_time="number"),
    FigureKind("highest", "highest", "highest {}", _of("highest", "max({})", "same", False), over_time="number"),
    FigureKind("first", "first", "first {}", _edge(last=False)),
    FigureKind("last", "last", "last {}", _edge(last=True)),
    FigureKind("share", "share of all in %", "{} in % of all", _share, numbers=True, share=True),
    FigureKind("joined", "different values, joined", "joined {}", _joined),
)  # fmt: skip
BY_KEY = {figure.key: figure for figure in FIGURES}
if TYPE_CHECKING:
    FigureName = str
else:
    FigureName = Literal[tuple(BY_KEY)]


class FigureModel(Part):
    """A figure of each group."""

    of: FigureName = "rows"
    column: str = ""
    name: str = Field(default="", max_length=500, description="of the new column; made of the figure when empty")
    separator: str = Field(default=", ", max_length=100, description="for joined texts")

    @property
    def title(self) -> str:
        """The name of its column."""
        return self.name or self.words()

    def words(self) -> str:
        """What it is in a sentence."""
        return BY_KEY[self.of].words.format(self.column)

    def made(self, shape: Shape, groups: Groups) -> Figure:
        """The figure as SQL.

        Args:
            groups: what makes a group, of the columns before.

        Raises:
            ProblemError: ``column-unknown``, or ``column-missing`` for a figure of no column.
        """
        kind = BY_KEY[self.of]
        column: ColumnShape | None = None
        if kind.column:
            if not self.column:
                raise fail(
                    "column-missing",
                    f"The figure “{kind.label}” is of no column.",
                    where="figures",
                    do="Choose the column that it is of.",
                )
            column = shape.column(self.column)
        return kind.made(self.title, column, groups, self.separator)


def check_titles(names: list[Any]) -> None:
    """Check that the columns of a table of groups differ.

    Raises:
        ProblemError: ``column-twice``.
    """
    for at, name in enumerate(names):
        if name in names[:at]:
            raise fail(
                "column-twice",
                f"Two columns would be named “{name[:200]}”.",
                where="names of the columns",
                do="Name one of them otherwise.",
            )
