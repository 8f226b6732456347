"""What charts of several kinds have in common: the rows of each small chart, and what is said of them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from tin_bucket.core.columns.readings import Ints
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.work_out.figure_reader import COUNTS, FigureReader
from tin_bucket.core.work_out.figures import FIGURES

from .cells import Cells

MOST_PANELS = 24
MOST_SERIES = 12
_WORDS = {one.key: one.words for one in FIGURES}


def panels_of(cells: Cells, each: str, notes: list[str]) -> Iterator[tuple[str, Ints]]:
    """The small charts: the value that each is of, and its rows; all rows under no name where there are none. Those
    with most rows are drawn, in the order in which they come."""
    if not each:
        yield "", np.arange(cells.height, dtype=np.int64)
        return
    codes, names = cells.groups(each)
    kept = largest(np.bincount(codes, minlength=len(names)), MOST_PANELS)
    left_out(len(names) - len(kept), each, notes)
    for code in kept:
        yield names[code], np.flatnonzero(codes == code).astype(np.int64)


def largest(sizes: Sequence[float] | Ints, most: int) -> list[int]:
    """The indices of the largest of some numbers, in their order; the first of those that are equal."""
    order = np.argsort(-np.asarray(sizes, dtype=np.float64), kind="stable")[:most]
    return sorted(order.tolist())


def left_out(count: int, column: str, notes: list[str]) -> None:
    """Say that values of a column are not drawn."""
    if count > 0:
        notes.append(f"{count:,} more value{'' if count == 1 else 's'} of {column} {_is(count)} not drawn.")


def odd_values(count: int, column: str, what: str, notes: list[str]) -> None:
    """Say that cells are not drawn because they are of another kind."""
    if count:
        values, verb = ("value", "is") if count == 1 else ("values", "are")
        notes.append(f"{count:,} {values} of {column} {verb} no {what}, and {_is(count)} not drawn.")


@dataclass(frozen=True, slots=True)
class Split:
    """The values of a column that have a colour each, the same in all small charts.

    Attributes:
        codes: for each row the number of its value. Shape (rows,).
        names: of the values.
        kept: those that have a colour, those with most rows, in the order in which they come.
        others: how many have none.
    """

    codes: Ints
    names: list[str]
    kept: list[int]
    others: int

    def of(self, rows: Ints) -> list[tuple[str, Ints]]:
        """Some rows by the values that have a colour, those that have some of the rows."""
        own = self.codes[rows]
        parts = [(self.names[code], rows[own == code]) for code in self.kept]
        return [(name, part) for name, part in parts if len(part)]

    def rest(self, rows: Ints) -> Ints:
        """Those of some rows whose values have no colour."""
        return rows[~np.isin(self.codes[rows], self.kept)]


def split_by(cells: Cells, column: str, gathers: bool = False) -> Split:
    """The values that have a colour each, :data:`MOST_SERIES` at most.

    Args:
        column: without one there is a single value, whose name is empty.
        gathers: whether the others are drawn together, as one more.
    """
    codes, names = cells.groups(column)
    most = MOST_SERIES - 1 if gathers and len(names) > MOST_SERIES else MOST_SERIES
    kept = largest(np.bincount(codes, minlength=len(names)), most)
    return Split(codes, names, kept, len(names) - len(kept))


def reader_of(figure: str, column: str, cells: Cells, notes: list[str]) -> FigureReader:
    """Reads a figure of a column; what is no finite number is left out of a figure of numbers, and said."""
    if figure == "rows":
        return FigureReader([], figure)
    if figure in COUNTS:
        return FigureReader(cells.column(column).values, figure)
    numbers, odd = cells.numbers(column)
    odd_values(odd, column, "number", notes)
    return FigureReader(numbers, figure)


def figure_words(figure: str, column: str) -> str:
    """“mean delay”; the column where each row is drawn."""
    return _WORDS[figure].format(column) if figure else column


def series_name(value: str, figure: str, column: str, columns: int) -> str:
    """What a series is called: the value that it is of, and what is drawn of it where there are several columns."""
    return ", ".join(filter(None, (value, figure_words(figure, column) if columns > 1 else "")))


def figure_unit(figure: str, unit: str) -> str:
    """The unit of a figure of a column."""
    return "" if figure in COUNTS else unit


def unfit(what: str, do: str) -> ProblemError:
    """The problem of a chart whose columns cannot be drawn so."""
    return fail("chart-unfit", what, where="chart", do=do)


def _is(count: int) -> str:
    return "is" if count == 1 else "are"
