"""The registry of a report's figures. A further kind is a file here and a line."""

from __future__ import annotations

from typing import TYPE_CHECKING

from tin_bucket.core.choice import union_of
from tin_bucket.core.report.figure import FigureRows, ReportFigure, ReportFigureKind, Told

from . import amount, leading, moment, moves, share

# In the order in which they are offered.
REPORT_FIGURES: tuple[ReportFigureKind, ...] = (amount.KIND, share.KIND, leading.KIND, moves.KIND, moment.KIND)
_BY_MODEL = {kind.model: kind for kind in REPORT_FIGURES}

if TYPE_CHECKING:
    AnyFigure = ReportFigure
else:
    AnyFigure = union_of("tells", REPORT_FIGURES)


def kind_of_figure(figure: ReportFigure) -> ReportFigureKind:
    """The entry of a figure."""
    return _BY_MODEL[type(figure)]


def told_by(figure: ReportFigure, rows: FigureRows) -> Told:
    """What a figure is.

    Raises:
        ProblemError: ``column-unknown``, ``value-unreadable``.
    """
    return kind_of_figure(figure).told(figure, rows)
