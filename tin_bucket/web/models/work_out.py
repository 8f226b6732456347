"""Work-out lines and what became of them."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, Field

from tin_bucket.core.document.start import StartTables

from .common import ProblemInfo
from .table import ColumnInfo


class WorkOutIn(BaseModel):
    """Lines to be done to a table. They are as they were typed: one that cannot be read fails at its place."""

    snapshot: int | None = None
    preview: int | None = None
    query_id: int | None = None
    starts_from: StartTables | None = None
    lines: list[dict[str, Any]] = Field(default=[], max_length=200)


class WordInfo(BaseModel):
    """A word of a line's sentence."""

    text: str
    field: str = Field(description="the field of its form that says it; empty for words between")


class NoteInfo(BaseModel):
    """What a line says of what it did."""

    text: str
    look: str = Field(description="which rows it speaks of, as they can be looked at; empty for none")
    odd: bool


class OfferInfo(BaseModel):
    """A line that the values of a table suggest. It is offered, and never done unasked."""

    line: dict[str, Any]
    label: str
    evidence: str = Field(description="what was seen in the values")
    column: str = Field(description="the column that it is offered for; empty for the whole table")


class LineInfo(BaseModel):
    """What became of a line."""

    state: str = Field(description="done, off, failed, or waiting behind one that failed")
    words: list[WordInfo]
    rows_before: int
    rows: int
    notes: list[NoteInfo]
    lit: list[str] = Field(description="the columns that are new or changed")
    columns: list[ColumnInfo] = Field(description="of the table after it")
    totals: bool = Field(description="whether its last row is of all others")
    problem: ProblemInfo | None
    start: int | None = Field(description="where a mistake of its expression begins, in characters")
    end: int | None


class WorkOutInfo(BaseModel):
    """A table with lines done to it."""

    columns: list[ColumnInfo] = Field(description="of the table that the first line begins from")
    rows: int
    lines: list[LineInfo]
    statement: str = Field(description="all that was done, as one SQL statement")
    own_functions: list[str] = Field(description="functions in it that SQLite elsewhere does not have")


class SampleIn(WorkOutIn):
    """An expression to be tried on the first rows of a table with lines done to it."""

    expression: str = Field(max_length=20_000)


class SampleInfo(BaseModel):
    """The first values of an expression."""

    values: list[Any]
    inputs: list[str] = Field(description="the columns that it reads")
    rows: list[list[Any]] = Field(description="for each value those of its inputs")
    problem: ProblemInfo | None
    start: int | None
    end: int | None


class FunctionInfo(BaseModel):
    """A function that an expression may call."""

    name: str
    takes: str
    does: str
    group: str
    ours: bool


class TestInfo(BaseModel):
    """A test of a value."""

    key: str
    words: str
    takes: str = Field(description="value, order, text, list or nothing")


class FigureInfo(BaseModel):
    """A figure of a group."""

    key: str
    label: str
    words: str = Field(description="in a sentence; {} stands for the column")
    column: bool = Field(description="whether it is of a column")
    numbers: bool = Field(description="whether it is of numbers alone")
    over_time: Literal["", "count", "number"] = Field(
        description="how it is told of the table of every date; empty where it is not"
    )


class TableNameInfo(BaseModel):
    """A table that can be brought in."""

    query: str | None
    query_id: int | None
    sheet: str | None
    rows: int
    taken: str | None = Field(description="of its newest snapshot; nothing for a sheet")


class OtherIn(WorkOutIn):
    """Another table, beside one with lines done to it."""

    query: str | None = None
    sheet: str | None = None


class MatchInfo(BaseModel):
    """Two columns whose values match."""

    theirs: str
    ours: str
    rows: int = Field(description="how many of the rows that were looked at match")
    of: int
    unique: bool = Field(description="whether each value comes once in the other table")


class OtherInfo(BaseModel):
    """Another table: its columns, and which of them match."""

    columns: list[ColumnInfo]
    rows: int
    matches: list[MatchInfo]
    problem: ProblemInfo | None
