"""What charts of several kinds have in common: the rows of each small chart, and what is said of them."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.work_out.figure_reader import COUNTS, FigureReader
from tin_bucket.core.work_out.figures import FIGURES

from .cells import Cells, Ints

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


def reader_of(figure: str, column: str, cells: Cells, notes: list[str]) -> FigureReader:
    """Reads a figure of a column; what is no finite number is left out of a figure of numbers, and said."""
    if figure == "rows":
        return FigureReader([None] * cells.height, figure)
    if figure in COUNTS:
        return FigureReader(cells.column(column).values, figure)
    numbers, odd = cells.numbers(column)
    odd_values(odd, column, "number", notes)
    return FigureReader([None if np.isnan(one) else one for one in numbers.tolist()], figure)


def figure_words(figure: str, column: str) -> str:
    """“mean delay”; the column where each row is drawn."""
    return _WORDS[figure].format(column) if figure else column


def figure_unit(figure: str, unit: str) -> str:
    """The unit of a figure of a column."""
    return "" if figure in COUNTS else unit


def unfit(what: str, do: str) -> ProblemError:
    """The problem of a chart whose columns cannot be drawn so."""
    return fail("chart-unfit", what, where="chart", do=do)


def _is(count: int) -> str:
    return "is" if count == 1 else "are"
