"""Something that is watched through time: a row, or a figure of a table."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from tin_bucket.core.base import Part
from tin_bucket.core.work_out.figure_reader import FigureName


class Watch(Part):
    """A row of a query, with one of its columns, or a figure of its table."""

    what: Literal["row", "figure"]
    key: list[str | int | float | bool | None] = Field(default=[], max_length=100, description="of a row")
    match: list[str] = Field(default=[], max_length=100, description="the columns that it is known by")
    column: str = Field(default="", max_length=500, description="of a row the column that is shown")
    figure: FigureName = "rows"

    @model_validator(mode="after")
    def _names_something(self) -> Watch:
        if self.what == "row" and not self.key:
            raise ValueError("a row is watched by its key")
        if self.what == "figure" and self.figure != "rows" and not self.column:
            raise ValueError("this figure is of a column")
        return self
