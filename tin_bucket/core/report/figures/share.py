"""A share: how many of some rows are others besides, in percent."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.analysis.view import Condition
from tin_bucket.core.choice import FormField
from tin_bucket.core.report.figure import FigureRows, ReportFigure, ReportFigureKind, Told


class ShareFigure(ReportFigure):
    """How many of the rows that count meet further conditions, in percent."""

    tells: Literal["share"] = "share"
    meet: list[Condition] = Field(default=[], max_length=20, description="what the rows of the share meet besides")


def told(one: ShareFigure, rows: FigureRows) -> Told:
    """The share.

    Raises:
        ProblemError: ``column-unknown``.
    """
    whole = rows.count(one.where)
    both = [*one.where, *one.meet]
    if not whole:
        return Told(None, unit="%", where=both, why="There are no rows that it is a share of.")
    return Told(100 * rows.count(both) / whole, unit="%", where=both)


KIND = ReportFigureKind(
    key="share", model=ShareFigure, label="A share in %", phrase="a share", told=told,
    fields=(FormField("meet", "The share of rows where", "conditions"),),
)  # fmt: skip
