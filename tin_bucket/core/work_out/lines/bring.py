"""Columns of another query or sheet."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from tin_bucket.core.base import Part
from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.problem import fail
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, Value, Word, maybe, said
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.steps import Bring as BringStep
from tin_bucket.core.work_out.steps import Match, Source, Step
from tin_bucket.core.work_out.table_name import TableName


class MatchBy(Part):
    """A column of the other table, and what it is equal to: a column of this one, or a value."""

    theirs: ColumnName
    ours: str | None = None
    value: Value = None


class Brought(Part):
    """A column that is brought in, and its name here."""

    column: ColumnName
    name: str = Field(default="", max_length=500)

    @property
    def title(self) -> str:
        """Its name here."""
        return self.name or self.column


class Bring(LineModel):
    """Columns of another table, by columns that match."""

    do: Literal["bring"] = "bring"
    table: TableName
    columns: list[Brought] = Field(default=[], max_length=500)
    match: list[MatchBy] = Field(min_length=1, max_length=20)
    rows: Literal["all", "matching", "unmatched"] = Field(default="all", description="which rows of this table stay")
    several: Literal["first", "each"] = Field(
        default="first", description="of several matches the first, or a row each"
    )

    loosely: bool = Field(default=False, description="whether “007” and 7, and “A” and “a”, match")

    def words(self) -> list[Word]:
        """bring in price of Fares where sailing is sailing_id, class is “car”."""
        where: list[Word] = []
        for at, one in enumerate(self.match):
            where += [", " if at else "", f"{one.theirs} is ", Chip(one.ours if one.ours else said(one.value), "match")]
        if self.rows == "unmatched":
            return [
                "keep rows that ",
                Chip(self.table.source.name, "table"),
                " has ",
                Chip("not", "rows"),
                " where ",
                *where,
            ]
        names = [one.title for one in self.columns]
        told: list[Word] = []
        for at, name in enumerate(names[:3]):
            told += [", " if at else "", Chip(name, "columns")]
        told += maybe(len(names) > 3, " and ", Chip(f"{len(names) - 3} more", "columns"))
        what: list[Word] = (
            ["bring in ", *told, " of "]
            if names
            else ["look for matches in " if self.rows == "all" else "keep rows that match "]
        )
        out = [*what, Chip(self.table.source.name, "table"), " where ", *where]
        if self.rows == "matching" and names:
            out += [", rows that ", Chip("match", "rows"), " alone"]
        out += maybe(self.loosely, ", ", Chip("loosely", "loosely"))
        return [*out, *maybe(self.several == "each", ", a row for ", Chip("each", "several"), " match")]

    def plan(self, shape: Shape) -> Step:
        """Columns of another table, and which rows stay."""
        match = []
        for one in self.match:
            if one.ours is None and one.value is None:
                raise fail(
                    "match-missing",
                    f"Nothing says what “{one.theirs[:100]}” is equal to.",
                    where="columns that match",
                    do="Choose a column of this table, or write a value.",
                )
            ours = shape.column(one.ours).name if one.ours is not None else None
            match.append(Match(one.theirs, ours, one.value))
        columns = [] if self.rows == "unmatched" else [(one.column, one.title) for one in self.columns]
        seen: list[str] = []
        for _, title in columns:
            shape.check_new(title)
            if title in seen:
                raise fail(
                    "column-twice",
                    f"Two columns would be named “{title[:200]}”.",
                    where="columns",
                    do="Rename one of them.",
                )
            seen.append(title)
        several = "first" if self.rows == "unmatched" else self.several
        return BringStep(self.table.source, match, columns, self.rows, several, self.loosely)

    def sources(self) -> list[Source]:
        """The other table."""
        return [self.table.source]

    def with_names(self, names: dict[str, str]) -> LineModel:
        """The line with the new name of the query."""
        return self.model_copy(update={"table": self.table.renamed(names)})


LINE = LineKind(
    key="bring",
    model=Bring,
    label="columns of another table",
    hint="Bring in columns of another query or sheet, by columns that match.",
    finds=("join", "merge", "lookup", "look up", "combine tables", "match", "price of", "name of"),
    heading="Bring in by this…",
    starts="match",
    fields=(
        FormField("table", "From", "table", required=True),
        FormField("match", "Where", "match", required=True, wide=True),
        FormField("columns", "Bring in", "bring", wide=True),
        FormField("rows", "Rows", "text", options=(
            Option("all", "all of this table"), Option("matching", "only matching"),
            Option("unmatched", "only unmatched"))),
        FormField("several", "Of several matches", "text", options=(
            Option("first", "the first"), Option("each", "a row for each"))),
        FormField("loosely", "“007” and 7, A and a match", "yes"),
    ),
)  # fmt: skip
