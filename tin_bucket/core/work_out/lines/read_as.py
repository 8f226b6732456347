"""Texts and numbers read as another kind."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, model_validator

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.columns.kind_registry import KINDS, Kind, kind_of
from tin_bucket.core.columns.reads import Reads
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, Word, maybe
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import Col, literal, sql
from tin_bucket.core.work_out.steps import Columns, Made, Step

_OFFERED = tuple(kind for kind in KINDS if kind.name != "json")


class ReadAs(LineModel):
    """The values of a column read as another kind. What cannot be read is blank, and is counted."""

    do: Literal["read"] = "read"
    column: ColumnName
    kind: Kind = Field(description="what the values become")
    comma: bool = Field(default=False, description="decimals have a comma; full stops and spaces group digits")
    dates: str = Field(
        default="",
        max_length=100,
        description="strftime pattern (POSIX.1-2017), or “seconds” or “milliseconds” since 1970; ISO 8601 when empty",
    )
    zone: str = Field(default="", max_length=100, description="IANA time zone of dates without an offset, and of days")
    empty: list[str] = Field(default=[], max_length=50, description="texts that mean that there is no value")

    @model_validator(mode="after")
    def _can_be_read(self) -> ReadAs:
        self.reads()
        if self.kind == "json":
            raise ValueError("choose text, a number, yes/no or a date")
        return self

    def reads(self) -> Reads:
        """How the values are read."""
        kind = kind_of(self.kind)
        return Reads(
            comma=self.comma and "comma" in kind.read_with,
            dates=(self.dates or None) if "dates" in kind.read_with else None,
            zone=(self.zone or None) if "zone" in kind.read_with else None,
            empty=self.empty,
        )

    def words(self) -> list[Word]:
        """read fare as decimal."""
        reads = self.reads()
        texts = " or ".join(f"“{text}”" for text in reads.empty[:3]) + ("…" if len(reads.empty) > 3 else "")
        return [
            "read ", Chip(self.column, "column"), " as ", Chip(kind_of(self.kind).label, "kind"),
            *maybe(reads.comma, " with a ", Chip("decimal comma", "comma")),
            *maybe(reads.dates, " written as ", Chip(reads.dates or "", "dates")),
            *maybe(reads.zone, " in ", Chip(reads.zone or "", "zone")),
            *maybe(reads.empty, ", blank where ", Chip(texts, "empty")),
        ]  # fmt: skip

    def plan(self, shape: Shape) -> Step:
        """The column, with its values as what they are."""
        column = shape.column(self.column)
        reads = self.reads()
        how = reads.model_copy(update={"empty": []}).model_dump_json(exclude_defaults=True)
        made = sql("read_as(", Col(column.name), f", {literal(self.kind)}, {literal(how)})")
        if reads.empty:
            texts = ", ".join(literal(text) for text in reads.empty)
            made = sql("CASE WHEN trim(", Col(column.name), f") IN ({texts}) THEN NULL ELSE ", made, " END")
        return Columns(
            [
                Made(
                    column.name, made, self.kind, column.unit,
                    fails=_FAILS[self.kind], nothing=frozenset(reads.empty),
                )
            ]
        )  # fmt: skip


_FAILS = {
    "text": "no text",
    "whole number": "no whole number",
    "decimal": "no number",
    "yes/no": "neither yes nor no",
    "date": "no date",
    "date and time": "no date and time",
}


LINE = LineKind(
    key="read",
    model=ReadAs,
    label="texts read as numbers or dates",
    hint="Texts of a sheet become numbers, dates or yes and no.",
    finds=(
        "number", "to number", "parse", "type", "cast", "decimal comma", "text to number", "to date", "as date",
    ),
    heading="Read as a number or date…",
    starts="column",
    fields=(
        FormField("column", "Values of", "column", required=True),
        FormField("kind", "Read as", "text", required=True, start="decimal", options=tuple(
            Option(kind.name, kind.label) for kind in _OFFERED)),
        FormField("comma", "Decimal comma", "yes", options=(
            Option("", "no, 1,234.5"), Option("yes", "yes, 1.234,5"))),
        FormField("dates", "Written as", "dates", placeholder="ISO 8601"),
        FormField("zone", "Times without a zone are in", "zone", placeholder="as written"),
        FormField("empty", "Texts that mean there is no value", "names", placeholder="-, n/a", wide=True),
    ),
)  # fmt: skip
