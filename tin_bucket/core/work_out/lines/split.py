"""A text in parts, which become columns or rows."""

from __future__ import annotations

import json
from typing import Literal

import regex
from pydantic import Field, field_validator, model_validator

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.problem import fail
from tin_bucket.core.work_out.line import Chip, ColumnName, LineKind, LineModel, Word, chips
from tin_bucket.core.work_out.shape import Shape
from tin_bucket.core.work_out.sql import Col, Sql, literal, sql
from tin_bucket.core.work_out.steps import Columns, Made, Step, Unfold

_ESCAPES = set('\\"/bfnrtu0123456789abcdef')  # What a text in JSON may have where the text itself has something else.


class Split(LineModel):
    """A text in parts, by a separator, by lengths or by a pattern."""

    do: Literal["split"] = "split"
    column: ColumnName
    by: Literal["separator", "lengths", "pattern"] = "separator"
    separator: str = Field(default=", ", min_length=1, max_length=100)
    lengths: list[int] = Field(default=[], max_length=200, description="characters of each part, for “lengths”")
    pattern: str = Field(
        default="", max_length=500, description="a regular expression: the text between what it finds is a part"
    )
    into: Literal["columns", "rows"] = "columns"
    names: list[str] = Field(default=[], max_length=200, description="of the new columns; the last takes what is left")

    @field_validator("pattern")
    @classmethod
    def _pattern_is_one(cls, value: str) -> str:
        check_pattern(value)
        return value

    @model_validator(mode="after")
    def _has_what_it_takes(self) -> Split:
        if self.by == "lengths" and (not self.lengths or min(self.lengths) < 1):
            raise ValueError("say how many characters each part has, such as 2, 5")
        if self.by == "pattern" and not self.pattern:
            raise ValueError("say the pattern that parts the text")
        if self.into == "columns" and (not self.names or not all(self.names)):
            raise ValueError("name the columns that the parts become")
        return self

    def words(self) -> list[Word]:
        """split route by “ – ” into from and to."""
        lengths = ", ".join(map(str, self.lengths))
        how = {"separator": f"at “{self.separator}”", "lengths": f"after {lengths} characters", "pattern": "at"}
        out: list[Word] = ["split ", Chip(self.column, "column"), " ", Chip(how[self.by], self.by)]
        out += [" ", Chip(self.pattern, "pattern")] if self.by == "pattern" else []
        return [*out, " into ", *(chips(self.names, "names") if self.into == "columns" else [Chip("rows", "into")])]

    def plan(self, shape: Shape) -> Step:
        """Columns behind the one that is split, or a row a part."""
        column = shape.column(self.column)
        items = self._items(column.name)
        if self.into == "rows":
            return Unfold(items, column.name)
        for at, name in enumerate(self.names):
            shape.check_new(name)
            if name in self.names[:at]:
                raise fail(
                    "column-twice", f"Two parts are named “{name[:200]}”.", where="names", do="Rename one of them."
                )
        made = [
            Made(name, self._part(column.name, items, at), "text", chooses=True) for at, name in enumerate(self.names)
        ]
        return Columns(made, after=column.name)

    def _items(self, name: str) -> Sql:
        """The parts as a JSON array; NULL of a blank."""
        cell = sql("nullif(", Col(name), ", '')")
        if self.by == "lengths":
            return sql("parts_by_length(", cell, f", {literal(json.dumps(self.lengths))})")
        if self.by == "pattern":
            return sql("parts_by_pattern(", cell, f", {literal(self.pattern)})")
        if set(self.separator) & _ESCAPES:
            return sql("parts_by_pattern(", cell, f", {literal(regex.escape(self.separator))})")
        # The text as JSON, with its separators turned into what separates the texts of an array.
        mark = literal(json.dumps(self.separator, ensure_ascii=False)[1:-1])
        return sql("'[' || replace(json_quote(", cell, f" || ''), {mark}, '\",\"') || ']'")

    def _part(self, name: str, items: Sql, at: int) -> Sql:
        """One part; the last column takes all that is left of a text that is split at a separator."""
        if self.by != "separator":
            return sql("json_extract(", items, f", '$[{at}]')")
        cell: Sql = sql("(nullif(", Col(name), ", '') || '')")
        mark, length = literal(self.separator), len(self.separator)
        if at == len(self.names) - 1:
            return self._rest(cell, at, mark, length)
        return sql("json_extract(", items, f", '$[{at}]')")

    def _rest(self, cell: Sql, at: int, mark: str, length: int) -> Sql:
        rest = cell
        for _ in range(at):
            rest = sql(
                "CASE WHEN instr(",
                rest,
                f", {mark}) THEN substr(",
                rest,
                ", instr(",
                rest,
                f", {mark}) + {length}) END",
            )
        return rest


def check_pattern(value: str) -> None:
    """Check a regular expression.

    Raises:
        ValueError: it is none.
    """
    try:
        regex.compile(value)
    except regex.error as error:
        place = f" at character {error.pos + 1}" if error.pos is not None else ""
        raise ValueError(
            f"“{value[:80]}” is not a pattern{place}: close its brackets, and put \\ before . ( ) + *"
        ) from error


LINE = LineKind(
    key="split",
    model=Split,
    label="a text split into parts",
    hint="By a separator, lengths or a pattern, into columns or rows.",
    finds=("separate", "parts", "explode", "comma", "delimiter", "first name", "substring", "rows for list", "tags"),
    heading="Split…",
    of="texts",
    starts="column",
    fields=(
        FormField("column", "Column", "column", required=True),
        FormField("by", "By", "text", options=(
            Option("separator", "a separator"), Option("lengths", "lengths"), Option("pattern", "a pattern"))),
        FormField("separator", "Separator", "code", with_field="by", with_values=("separator",)),
        FormField("lengths", "Characters of each part", "numbers", placeholder="2, 5",
            with_field="by", with_values=("lengths",)),
        FormField("pattern", "Pattern between the parts", "code", placeholder=r"\s*[,;]\s*",
            with_field="by", with_values=("pattern",)),
        FormField("into", "Into", "text", options=(Option("columns", "columns"), Option("rows", "rows"))),
        FormField("names", "Names of the columns", "names", wide=True, placeholder="from, to",
            with_field="into", with_values=("columns",)),
    ),
)  # fmt: skip
