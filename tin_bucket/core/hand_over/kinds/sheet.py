"""A sheet of a workbook that others keep."""

from __future__ import annotations

import re
from typing import Literal

from pydantic import Field, field_validator, model_validator

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.hand_over.feed import COMMON, FeedKind, FeedModel, FilePath
from tin_bucket.core.work_out.line import Chip, Word

_CELL = re.compile(r"[A-Z]{1,3}[1-9][0-9]{0,6}")
_WAYS = {"replace": "replacing its rows", "add": "adding below", "update": "updating matching rows"}


def _as_cell(value: str) -> str:
    cell = value.strip().upper()
    if cell and not _CELL.fullmatch(cell):
        raise ValueError(f"“{value[:20]}” is no cell; one is named as A1")
    return cell


class SheetFeed(FeedModel):
    """A sheet of a workbook, changed in place; all else in the workbook stays as it is."""

    to: Literal["sheet"] = "sheet"
    path: FilePath = Field(description="the workbook: in the workspace's folder, or in one that may be written")
    sheet: str = Field(default="", max_length=31, description="the sheet; the query's name where none is said")
    cell: str = Field(default="A1", description="the first heading's cell")
    table: str = Field(default="", max_length=255, description="a named table, in place of sheet and cell")
    way: Literal["replace", "add", "update"] = "replace"
    gone: Literal["mark", "remove"] = Field(
        default="mark", description="what becomes of rows that the table has no more, where rows are updated"
    )
    new_columns: Literal["add", "leave out"] = "add"
    notes: Literal["stop", "let go"] = Field(
        default="stop", description="whether notes beside rows that are replaced or taken out may go"
    )
    missing: Literal["make", "stop"] = Field(default="make", description="a workbook or a sheet that is not there")
    long_texts: Literal["stop", "cut"] = Field(default="stop", description="texts longer than a cell holds")
    moments: Literal["zone", "text"] = Field(
        default="zone",
        description="times with an offset: in the zone of the column's first one, which it keeps, or as texts",
    )
    stamp: str = Field(default="", description="a cell that says as of when the table is, and whether it is complete")

    _cells = field_validator("cell", "stamp")(_as_cell)

    @field_validator("path")
    @classmethod
    def _a_workbook(cls, value: str) -> str:
        if not value.lower().endswith((".xlsx", ".xlsm")):
            raise ValueError(f"“{value[-40:]}” is no workbook: its name ends in .xlsx or .xlsm")
        return value

    @model_validator(mode="after")
    def _marked(self) -> SheetFeed:
        if self.when == "any" and not self.stamp:
            raise ValueError(
                "an incomplete table is marked: name the cell that says as of when it is, and whether it is complete"
            )
        return self

    def place(self) -> str:
        """harbour.xlsx, sheet Sailings"""
        where = f"table {self.table}" if self.table else f"sheet {self.sheet}" if self.sheet else ""
        return f"{self.path}, {where}" if where else self.path

    def destination(self) -> list[Word]:
        """to sheet “Sailings” of harbour.xlsx, updating matching rows"""
        name: Word = Chip(self.path.replace("\\", "/").rpartition("/")[2], "path")
        where: list[Word] = ["to a sheet of ", name]
        if self.table:
            where = ["to the table ", Chip(f"“{self.table}”", "table"), " of ", name]
        elif self.sheet:
            where = ["to sheet ", Chip(f"“{self.sheet}”", "sheet"), " of ", name]
        return [*where, ", ", Chip(_WAYS[self.way], "way")]


KIND = FeedKind(
    key="sheet",
    model=SheetFeed,
    label="a sheet of a workbook",
    hint="Keeps a sheet up to date in a workbook that people format. All else in it stays as it is.",
    fields=(
        FormField("path", "Workbook", "code", placeholder="harbour.xlsx", required=True, start="", wide=True),
        FormField("sheet", "Sheet", "text", placeholder="the query’s name"),
        FormField("cell", "First heading in cell", "code", placeholder="A1"),
        FormField("way", "How", "text", options=(
            Option("replace", "replace the rows"), Option("update", "update matching rows"),
            Option("add", "add below, with the date"))),
        FormField("gone", "Rows that are gone", "text", with_field="way", with_values=("update",), options=(
            Option("mark", "stay, marked"), Option("remove", "are taken out"))),
        FormField("stamp", "Cell that says as of when", "code", placeholder="none"),
        FormField("table", "Or a named table", "code", placeholder="none", more=True),
        FormField("new_columns", "New columns", "text", more=True, options=(
            Option("add", "come at the right"), Option("leave out", "are left out"))),
        FormField("notes", "Notes beside rows that go", "text", more=True, options=(
            Option("stop", "stop the feed"), Option("let go", "may go"))),
        FormField("missing", "If workbook or sheet is missing", "text", more=True, options=(
            Option("make", "make it"), Option("stop", "stop"))),
        FormField("moments", "Times with an offset", "text", more=True, options=(
            Option("zone", "in one zone a column"), Option("text", "as texts, as they came"))),
        FormField("long_texts", "Texts longer than a cell holds", "text", more=True, options=(
            Option("stop", "stop the feed"), Option("cut", "are cut"))),
        *COMMON,
    ),
)  # fmt: skip
