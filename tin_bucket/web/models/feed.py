"""Feeds, what they would do, and what they did."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, Field

from .common import ProblemInfo
from .work_out import WordInfo


class HandOverInfo(BaseModel):
    """One time that a feed ran."""

    id: int
    query_id: int
    query_name: str
    key: str
    place: str
    cause: str
    snapshot_id: int | None
    taken: str | None = Field(description="as of when the table was")
    started: str
    ended: str
    state: str = Field(description="done, nothing, or failed")
    rows: int
    told: list[str]
    problem: ProblemInfo | None


class FeedInfo(BaseModel):
    """A feed of a query, and how it is."""

    query_id: int
    query_name: str
    key: str
    to: str
    place: str
    words: list[WordInfo] = Field(description="its sentence")
    when: str
    live: bool = Field(description="whether readers take the table by themselves")
    off: bool
    last: HandOverInfo | None
    tries: int = Field(description="how often it failed since it worked last")
    next_try: str | None = Field(description="when it is tried again by itself")
    versions: int = Field(description="how many versions of what it replaced are kept")


class FeedIn(BaseModel):
    """A feed that is being written, and the query as it is now."""

    brief: dict[str, Any]
    feed: dict[str, Any]


class FeedsIn(BaseModel):
    """The feeds of a query as they are now."""

    feeds: list[dict[str, Any]] = Field(max_length=100)


class PasswordIn(BaseModel):
    """The password of a feed."""

    feed: dict[str, Any]
    password: str = Field(max_length=10_000)


class AheadInfo(BaseModel):
    """What a feed would do."""

    places: list[str]
    there: str = Field(description="what is there now")
    told: list[str]
    warned: list[str]
    rows: int
    nothing: bool
    has_password: bool = Field(description="whether a password is kept for its account")
    as_of: str
    words: list[WordInfo]
    columns: list[str]
    sample: list[list[Any]] = Field(description="the first rows, as they would be handed over")


class WorkbookInfo(BaseModel):
    """A workbook that feeds may write to."""

    path: str = Field(description="as a feed names it")
    sheets: list[str]
    tables: list[str]


class PlacesInfo(BaseModel):
    """Where feeds may write, and the workbooks that are there."""

    folder: str
    folders: list[str]
    workbooks: list[str]


class VersionInfo(BaseModel):
    """A version of a file that a feed replaced."""

    name: str
    size: int
    kept: str = Field(description="when it was replaced")


class VersionIn(BaseModel):
    """A version that is put back."""

    name: str


class ReaderInfo(BaseModel):
    """A reader of live addresses, without its key."""

    id: int
    name: str
    begins: str = Field(description="how its key begins")
    made: str
    last_used: str | None
    revoked: str | None


class ReadersInfo(BaseModel):
    """All readers, and the names of the tables that they can read."""

    readers: list[ReaderInfo]
    names: list[str]


class ReaderIn(BaseModel):
    """A reader that is made."""

    name: str = Field(min_length=1, max_length=200)


class NewReader(BaseModel):
    """A reader that was made, with its key, which is told this once."""

    reader: ReaderInfo
    key: str
