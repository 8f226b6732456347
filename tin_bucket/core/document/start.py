"""A query that starts from tables: it asks nothing, and stores nothing of its own."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from tin_bucket.core.base import Part
from tin_bucket.core.work_out.lines.below import Below
from tin_bucket.core.work_out.table_name import TableName


class EveryDate(Part):
    """All dates of a table as one table: the rows of each below those of the one before."""

    days: int | None = Field(default=30, ge=1, le=36_500, description="so many days back; all of them if null")
    column: str = Field(default="as of", min_length=1, max_length=500, description="the column that says of which date")
    rows: Literal["all", "each once", "changes"] = Field(
        default="all",
        description="all rows of each date; each row that was ever seen once, as it was last, with when it was seen"
        " first and last; or the rows that are new, changed or gone against the date before",
    )


class StartTables(Part):
    """The tables that a query starts from, the rows of one below those of the other. It has a table of each date on
    which one of them has one."""

    tables: list[TableName] = Field(min_length=1, max_length=50)
    whose: str = Field(default="", max_length=500, description="a column that says which table a row is of")
    every_date: EveryDate | None = Field(
        default=None, description="the table of all dates, where it starts from one query; absent: of one date"
    )

    @model_validator(mode="after")
    def _dates_of_one_query(self) -> StartTables:
        if self.every_date is not None and (len(self.tables) > 1 or self.tables[0].query is None or self.whose):
            raise ValueError("every date is taken of one query")
        return self

    def below(self) -> Below | None:
        """What puts the tables behind the first one below it; nothing where there is one."""
        if len(self.tables) == 1 and not self.whose:
            return None
        return Below(tables=self.tables[1:] or self.tables, whose=self.whose, own=self.tables[0].source.name)
