"""A file of a format: CSV, a new workbook, Parquet and others."""

from __future__ import annotations

import re
from typing import Any, Literal

from pydantic import Field, field_validator, model_validator

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.hand_over.feed import COMMON, FeedKind, FeedModel, FilePath
from tin_bucket.core.work_out.line import Chip, Word, maybe

# What a name may hold in braces (RFC 6570, level 1).
NAMES = {
    "date": "the day of the table, 2026-11-25",
    "time": "the time of the table, 0730",
    "query": "the query’s name",
    "value": "the value of the column that parts it",
}
_BRACES = re.compile(r"\{([^{}]*)\}")


class FileFeed(FeedModel):
    """A file that is written anew each time."""

    to: Literal["file"] = "file"
    path: FilePath = Field(description="its name, in which {date}, {time}, {query} and {value} stand for those")
    headings: bool = True
    separator: Literal["comma", "semicolon", "tab"] = "comma"
    decimal: Literal["point", "comma"] = "point"
    encoding: Literal["utf-8", "utf-8-bom", "utf-16"] = "utf-8"
    line_ends: Literal["crlf", "lf"] = "crlf"
    quotes: Literal["needed", "texts", "all"] = "needed"
    formulas_as_text: bool = False
    moments: Literal["zone", "text"] = Field(
        default="zone", description="in a workbook: times in the zone of the first one of their column, or as texts"
    )
    table_schema: bool = Field(default=False, description="whether a Table Schema is written beside it")
    part_by: str = Field(default="", max_length=10_000, description="a column: a file for each of its values")
    also: list[str] = Field(default=[], max_length=50, description="queries that get sheets of their own in a workbook")

    @field_validator("path")
    @classmethod
    def _known_names(cls, value: str) -> str:
        for name in _BRACES.findall(value):
            if name not in NAMES:
                raise ValueError(f"“{{{name[:40]}}}” is unknown: write {', '.join('{' + one + '}' for one in NAMES)}")
        return value

    @model_validator(mode="after")
    def _fits(self) -> FileFeed:
        parted = "{value}" in self.path
        if bool(self.part_by) != parted:
            raise ValueError(
                "a file for each value has {value} in its name, and {value} needs the column that parts the table"
            )
        if self.separator == "comma" and self.decimal == "comma":
            raise ValueError("a comma cannot both separate the fields and part the digits of a number")
        if self.also and not self.path.lower().endswith(".xlsx"):
            raise ValueError("other queries get sheets of their own in a workbook alone")
        return self

    def place(self) -> str:
        """sailings-{date}.csv"""
        return self.path

    def destination(self) -> list[Word]:
        """to the file sailings-{date}.csv"""
        name = Chip(self.path.replace("\\", "/").rpartition("/")[2], "path")
        return [
            "to the file ",
            name,
            *maybe(self.part_by, ", one for each ", Chip(self.part_by, "part_by")),
            *maybe(self.also, ", with ", Chip(" and ".join(self.also), "also")),
        ]


_DELIMITED = (".csv", ".tsv")
_TEXT: Any = {"with_field": "path", "with_values": _DELIMITED}  # What matters to text files alone.
KIND = FeedKind(
    key="file",
    model=FileFeed,
    label="a file",
    hint="Writes CSV, a new workbook, JSON or Parquet. Its name may hold {date}, {time}, {query} and {value}.",
    fields=(
        FormField("path", "File", "code", placeholder="sailings-{date}.csv", required=True, wide=True),
        FormField("separator", "Fields are separated by", "text", with_field="path", with_values=(".csv",), options=(
            Option("comma", "commas"), Option("semicolon", "semicolons"), Option("tab", "tabs"))),
        FormField("decimal", "Decimal mark", "text", options=(Option("point", "1.5"), Option("comma", "1,5")), **_TEXT),
        FormField("encoding", "Encoding", "text", options=(
            Option("utf-8", "UTF-8"), Option("utf-8-bom", "UTF-8 with a byte order mark"), Option("utf-16", "UTF-16")),
            **_TEXT),
        FormField("line_ends", "Lines end with", "text", more=True, options=(
            Option("crlf", "CR LF"), Option("lf", "LF")), **_TEXT),
        FormField("quotes", "Quotes around", "text", more=True, options=(
            Option("needed", "what needs them"), Option("texts", "all texts"), Option("all", "everything")), **_TEXT),
        FormField("headings", "First row holds the headings", "yes", with_field="path",
            with_values=(*_DELIMITED, ".xlsx", ".ods"), more=True),
        FormField("moments", "Times with an offset", "text", with_field="path", with_values=(".xlsx", ".ods"),
            more=True, options=(
            Option("zone", "in one zone, which the heading says"), Option("text", "as texts, as they came"))),
        FormField("formulas_as_text", "Texts that look like formulas stay texts", "yes", more=True, **_TEXT),
        FormField("table_schema", "A Table Schema beside it", "yes", more=True, **_TEXT),
        FormField("part_by", "A file for each value of", "column", placeholder="none: one file", more=True),
        FormField("also", "Further sheets: queries", "names", with_field="path", with_values=(".xlsx",), more=True),
        *COMMON,
    ),
)  # fmt: skip
