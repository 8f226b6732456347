"""Some columns and rows of a table, with marks and totals."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.analysis.view import SortBy
from tin_bucket.core.base import Part
from tin_bucket.core.choice import FormField
from tin_bucket.core.report.condition import ReportTestName
from tin_bucket.core.report.exhibit import Exhibit, ExhibitKind
from tin_bucket.core.work_out.figure_reader import FigureName

MOST_ROWS = 200
MOST_COLUMNS = 30


class Mark(Part):
    """Cells that are marked."""

    column: str = Field(max_length=500)
    test: ReportTestName = "above"
    value: str = Field(default="", max_length=500)


class Total(Part):
    """A figure below a column, of all rows that the exhibit could show."""

    column: str = Field(max_length=500)
    figure: FigureName = "sum"


class TableExhibit(Exhibit):
    """Rows of a table."""

    block: Literal["table"] = "table"
    columns: list[str] = Field(
        default=[], max_length=MOST_COLUMNS, description="those that are shown; the first if none"
    )
    sort: list[SortBy] = Field(default=[], max_length=5)
    rows: int = Field(default=8, ge=1, le=MOST_ROWS)
    marks: list[Mark] = Field(default=[], max_length=10)
    totals: list[Total] = Field(default=[], max_length=10)

    def reads(self) -> list[str]:
        """Those of its conditions, of its order and of its totals."""
        return [*super().reads(), *(one.column for one in self.sort), *(one.column for one in self.totals)]


KIND = ExhibitKind(
    key="table", model=TableExhibit, label="Table", phrase="a table",
    fields=(
        FormField("columns", "Columns", "columns"),
        FormField("rows", "Rows", "number", required=True, least=1),
    ),
)  # fmt: skip
