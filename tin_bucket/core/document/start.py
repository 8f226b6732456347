"""A query that starts from tables: it asks nothing, and stores nothing of its own."""

from __future__ import annotations

from pydantic import Field

from tin_bucket.core.base import Part
from tin_bucket.core.work_out.lines.below import Below
from tin_bucket.core.work_out.table_name import TableName


class StartTables(Part):
    """The tables that a query starts from, the rows of one below those of the other. It has a table of each date on
    which one of them has one."""

    tables: list[TableName] = Field(min_length=1, max_length=50)
    whose: str = Field(default="", max_length=500, description="a column that says which table a row is of")

    def below(self) -> Below | None:
        """What puts the tables behind the first one below it; nothing where there is one."""
        if len(self.tables) == 1 and not self.whose:
            return None
        return Below(tables=self.tables[1:] or self.tables, whose=self.whose, own=self.tables[0].source.name)
