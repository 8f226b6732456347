"""Another table by its name."""

from __future__ import annotations

from pydantic import Field, model_validator

from tin_bucket.core.base import Part

from .steps import Source


class TableName(Part):
    """Another table: that of a query, as of the date of this one, or of a sheet."""

    query: str | None = Field(default=None, description="the name of a query")
    sheet: str | None = Field(default=None, description="the name of a sheet")

    @model_validator(mode="after")
    def _is_one(self) -> TableName:
        if bool(self.query) == bool(self.sheet):
            raise ValueError("say a query or a sheet")
        return self

    @property
    def source(self) -> Source:
        """The table as a step names it."""
        return Source(self.query, self.sheet)

    def renamed(self, names: dict[str, str]) -> TableName:
        """With the new name of the query, where it has one."""
        return self if self.query not in names else TableName(query=names[self.query or ""])
