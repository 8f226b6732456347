"""Comparisons of two tables."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field

from tin_bucket.core.alike.registry import Alike

from .table import ColumnInfo, SnapshotInfo


class ColumnChangeInfo(BaseModel):
    name: str
    unit: str
    cells: int
    rose: int
    fell: int
    mean: float | None


class OtherValue(BaseModel):
    name: str
    then: str | list[str] | None
    now: str | list[str] | None


class SideInfo(BaseModel):
    """One of the two tables of a comparison."""

    ref: str = Field(description="how it is asked for")
    name: str = Field(description="of its query, or of the sheet")
    query_id: int | None
    snapshot: SnapshotInfo | None = Field(description="of which date it is, where it has one")
    rows: int = Field(description="of the table that is compared, behind its lines")
    columns: list[str]


class RenamedInfo(BaseModel):
    """A column that has another name in the later table."""

    then: str
    now: str


class RenamedNow(RenamedInfo):
    """The same, as it was found."""

    by_hand: bool = Field(description="whether people paired the two; else they are of one place in the answers")


class OtherKind(BaseModel):
    """A column that is of another kind in the later table."""

    name: str
    then: str
    now: str


class ComparingIn(BaseModel):
    """How two tables are compared, where that is not as the query says."""

    match: list[str] | None = Field(default=None, max_length=100)
    alike: list[Alike] | None = Field(default=None, max_length=100)
    pairs: list[RenamedInfo] | None = Field(default=None, max_length=500, description="columns that are paired by hand")


class MatchProposalInfo(BaseModel):
    """Columns that tell the rows apart."""

    columns: list[str]
    evidence: str = Field(description="why, in a sentence")


class LikelyPairInfo(BaseModel):
    """A column that went and one that came, which hold the same values."""

    then: str
    now: str
    equal: int = Field(description="rows in which they are equal")
    compared: int = Field(description="rows of both tables in which one of them has a value, of those looked at")
    in_rows: bool = Field(description="whether rows were laid beside each other; else values were looked for")


class ProposalsInfo(BaseModel):
    match: MatchProposalInfo | None
    renamed: list[LikelyPairInfo]
    other_key: int = Field(description="rows that are gone and new again under another key, all else being the same")


class ComparisonInfo(BaseModel):
    then: SideInfo
    now: SideInfo
    match: list[str] = Field(description="the columns that said which row is which; none: the rows' whole content")
    lacking: list[str] = Field(description="match columns that one of the tables lacks")
    alike: list[Alike] = Field(description="what counted as the same")
    alike_cells: dict[str, int] = Field(description="by column: rows that differ in it only in what counts as the same")
    renamed: list[RenamedNow]
    other_kinds: list[OtherKind]
    counts: dict[str, int]
    columns: list[ColumnChangeInfo]
    new_columns: list[str]
    gone_columns: list[str]
    repeated_keys: int
    repeated_rows: int = Field(description="rows of match values that stand for several")
    asked_otherwise: list[OtherValue] = Field(description="parameters, dates left out, that differ between the two")
    headings: list[ColumnInfo]


class MergedRow(BaseModel):
    state: str
    now: list[Any] | None
    then: list[Any] | None
    changed: list[int] = Field(description="indices of the columns that changed")
    alike: list[int] = Field(description="indices of those that differ only in what counts as the same")


class MergedWindow(BaseModel):
    start: int
    total: int
    rows: list[MergedRow]


class DifferenceTotalsInfo(BaseModel):
    """The sum of a column then and now: ``then - went + changed + came = now``. A sum that no number holds is null."""

    then: float | None
    now: float | None
    came: float | None = Field(description="what the new rows have")
    went: float | None = Field(description="what the gone rows had")
    changed: float | None = Field(description="by how much the rows of both changed")
    others: int = Field(description="cells of both tables whose value is no number")
    edges: list[float] = Field(description="where the steps of the differences begin and end; one more than `counts`")
    counts: list[int] = Field(description="how many changed numbers differ by so much")


class DifferenceGroupInfo(BaseModel):
    """The rows of one value that differ."""

    value: str = Field(description="as text; empty for rows without one")
    new: int
    gone: int
    changed: int


class DifferenceGroupsInfo(BaseModel):
    groups: list[DifferenceGroupInfo] = Field(description="the largest first")
    values: int = Field(description="how many different values there are; those that are not told are the smallest")
