"""Rows of other tables below."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.choice import FormField
from tin_bucket.core.work_out.line import Chip, LineKind, LineModel, Word, chips, maybe
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.steps import Below as BelowStep
from tin_bucket.core.work_out.steps import Source, Step
from tin_bucket.core.work_out.table_name import TableName


class Below(LineModel):
    """The rows of other tables below. Columns stand by their names; one that a table lacks is blank in its rows."""

    do: Literal["below"] = "below"
    tables: list[TableName] = Field(min_length=1, max_length=50)
    whose: str = Field(default="", max_length=500, description="a column that says which table a row is of")
    own: str = Field(default="", max_length=500, description="what it says for the rows of this table")

    def words(self) -> list[Word]:
        """add the rows of Archive below, source says whose they are."""
        names = [one.source.name for one in self.tables]
        whose = maybe(self.whose, ", ", Chip(self.whose, "whose"), " says whose they are")
        return ["add the rows of ", *chips(names, "tables"), " below", *whose]

    def plan(self, shape: Shape) -> Step:
        """Rows below."""
        if self.whose:
            shape.check_new(self.whose)
        return BelowStep([one.source for one in self.tables], self.whose, self.own or "this table")

    def sources(self) -> list[Source]:
        """The other tables."""
        return [one.source for one in self.tables]

    def with_names(self, names: dict[str, str]) -> LineModel:
        """The line with new names for its queries."""
        return self.model_copy(update={"tables": [one.renamed(names) for one in self.tables]})


LINE = LineKind(
    key="below",
    model=Below,
    label="rows of other tables below",
    hint="Tables under each other; missing columns stay blank.",
    finds=("append", "union", "under each other", "add rows", "stack", "concatenate tables", "combine"),
    fields=(
        FormField("tables", "Tables", "tables", required=True, wide=True),
        FormField("whose", "A column that says whose", "text", placeholder="none"),
        FormField("own", "It says for this table", "text", placeholder="this table"),
    ),
)
