"""A chart as it is drawn: the numbers of its marks, without their looks."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

AxisKind = Literal["time", "day", "number", "category"]
"""What stands along an axis: moments, days of the calendar that are in no time zone, numbers, or names."""


@dataclass(frozen=True, slots=True)
class Canvas:
    """What a chart is drawn on.

    Attributes:
        width: in pixels; more points than it can show are left out.
        within: the part of the first axis that is seen, from and to; all of it where absent.
    """

    width: int = 900
    within: tuple[float, float] | None = None


@dataclass(frozen=True, slots=True)
class Axis:
    """An axis.

    Attributes:
        name: of its column, or of its figure.
        unit: what its numbers count.
    """

    name: str
    kind: AxisKind
    unit: str = ""


@dataclass(slots=True)
class Series:
    """Marks that belong together: a line, the bars of one colour, a cloud of points.

    Attributes:
        name: empty where there is one alone.
        y: what is drawn, where it is a number; nothing is a gap.
        x: where: milliseconds since 1970 (POSIX), or numbers, ascending for lines; empty where `y` is of the panel's
            categories, in their order.
        rows: the row of the table that each was made of, the first of several; −1 for none.
        size: of points that have one.
        axis: which of the two value axes it belongs to.
        points: how many there were before some were left out because no screen shows them.
        then: whether it is of another date, which the chart is held against.
    """

    name: str
    y: list[float | None]
    x: list[float] = field(default_factory=list)
    rows: list[int] = field(default_factory=list)
    size: list[float] | None = None
    axis: int = 0
    points: int = 0
    then: bool = False


@dataclass(slots=True)
class Panel:
    """One of the small charts; the only one where there are no others.

    Attributes:
        name: the value that it is of.
        categories: what stands along its first axis, where these are names.
    """

    series: list[Series]
    name: str = ""
    categories: list[str] = field(default_factory=list)


@dataclass(slots=True)
class Drawing:
    """A chart with its numbers.

    Attributes:
        draw: the kind of the chart.
        x: the first axis.
        y: the value axes, one or two.
        notes: what is not drawn, or drawn in another way than the table has it, in sentences.
        sentence: what the chart shows, for those who do not see it.
        rows: how many rows of the table were read.
        stacked: whether its bars stand on each other.
        logarithmic: whether its scale is.
    """

    draw: str
    x: Axis
    y: list[Axis]
    panels: list[Panel]
    rows: int
    notes: list[str] = field(default_factory=list)
    sentence: str = ""
    stacked: bool = False
    logarithmic: bool = False
