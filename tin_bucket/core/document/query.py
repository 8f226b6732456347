"""The brief: one query as a document that a person can read.

The models here are the query format; their JSON Schema (draft 2020-12) is published in ``docs/``.
"""

from __future__ import annotations

from datetime import date
from typing import Any, Literal

from pydantic import Field, ValidationError, model_validator

from tin_bucket.core.alike.registry import Alike
from tin_bucket.core.base import Part
from tin_bucket.core.chart.registry import Chart
from tin_bucket.core.hand_over.registry import Feed
from tin_bucket.core.pagination.base import PagedModel
from tin_bucket.core.pagination.registry import Pagination
from tin_bucket.core.pagination.ways.single import NoPagination
from tin_bucket.core.problem import Problem, ProblemError
from tin_bucket.core.request.ask import Ask, SheetRows
from tin_bucket.core.request.fan_out import FanOut
from tin_bucket.core.request.parameters.models import Parameter
from tin_bucket.core.schedule.models import Schedule
from tin_bucket.core.work_out.registry import WorkOutLine

from .extraction import Extraction
from .faults import validation_problem
from .look_up import LookUp
from .retention import KeptSnapshots
from .start import StartTables

FORMAT_VERSION = 1


class KeptAnswers(Part):
    """How long the answers of refreshes are kept, for reading them in other ways."""

    runs: int = Field(default=3, ge=1, le=100_000, description="of how many of the newest refreshes")
    days: int | None = Field(default=None, ge=1, le=100_000, description="and no longer than so many days")


class RenamedColumn(Part):
    """A column that older snapshots have under another name, as people say."""

    then: str = Field(min_length=1, max_length=500)
    now: str = Field(min_length=1, max_length=500)


class Keep(Part):
    """What is kept of a refresh, and when it is made."""

    answers: KeptAnswers = KeptAnswers()
    snapshots: KeptSnapshots | None = Field(default=None, description="how long snapshots stay; all of them if absent")
    match: list[str] = Field(default=[], description="columns whose values say which row is which")
    alike: list[Alike] = Field(
        default=[], max_length=100, description="what counts as the same where two dates are compared"
    )
    renamed: list[RenamedColumn] = Field(
        default=[], max_length=500, description="columns that older snapshots have under another name"
    )
    schedule: Schedule | None = None
    paused: bool = False
    paused_until: date | None = Field(default=None, description="the day on which a pause ends by itself")


class Brief(Part):
    """A whole query: ask (or read a sheet), for each, turn pages, take, look up, work out, keep, hand over."""

    tin_bucket: Literal[1] = Field(default=1, description="version of this format")
    name: str = Field(min_length=1, max_length=200)
    note: str = ""
    parameters: list[Parameter] = []
    ask: Ask | None = None
    sheet: SheetRows | None = None
    start: StartTables | None = Field(default=None, description="the tables that it starts from, where it asks nothing")
    each: list[FanOut] = Field(default=[], description="the question is asked for every combination of these values")
    pages: Pagination = NoPagination()
    take: Extraction = Extraction()
    look_up: list[LookUp] = []
    work_out: list[WorkOutLine] = Field(
        default=[], max_length=200, description="lines that are done to the table of any date, in order"
    )
    show: list[Chart] = Field(default=[], max_length=20, description="its charts")
    keep: Keep = Keep()
    hand_over: list[Feed] = Field(default=[], max_length=100, description="where its table is handed on to")

    @model_validator(mode="before")
    @classmethod
    def _rows_of_pages(cls, value: Any) -> Any:
        """A limit on rows was said of pages once; it holds for every table."""
        pages = value.get("pages") if isinstance(value, dict) else None
        if not isinstance(pages, dict) or "most_rows" not in pages:
            return value
        take = value.get("take") or {}
        moved = {**take, "most_rows": take.get("most_rows") or pages["most_rows"]} if isinstance(take, dict) else take
        return {**value, "pages": {key: pages[key] for key in pages if key != "most_rows"}, "take": moved}

    @model_validator(mode="after")
    def _asks_or_reads(self) -> Brief:
        if [self.ask, self.sheet, self.start].count(None) != 2:
            raise ValueError("a query either asks a service, reads a sheet, or starts from tables")
        if self.start is not None and (self.each or self.look_up or isinstance(self.pages, PagedModel)):
            raise ValueError("a query that starts from tables asks nothing: it has no pages, lookups or “for each”")
        if self.sheet is not None and any(look_up.service is None for look_up in self.look_up):
            raise ValueError("a query that reads a sheet names the service of each lookup")
        if self.sheet is not None and (self.each or isinstance(self.pages, PagedModel)):
            raise ValueError("a sheet is read as it is: without pages, and without “for each”")
        return self

    @model_validator(mode="after")
    def _feeds_differ(self) -> Brief:
        keys = [feed.key for feed in self.hand_over]
        twice = next((feed for feed in self.hand_over if keys.count(feed.key) > 1), None)
        if twice is not None:
            raise ValueError(f"two feeds go to {twice.place()}; give them different ids, or remove one")
        return self

    @model_validator(mode="after")
    def _parameters_differ(self) -> Brief:
        names = [parameter.name for parameter in self.parameters]
        twice = sorted({name for name in names if names.count(name) > 1})
        if twice:
            raise ValueError(f"two parameters are named “{twice[0]}”")
        return self

    def services(self) -> list[str]:
        """The ids of the services that it asks, each once; that of the question first."""
        asked = [self.ask.service] if self.ask is not None else []
        return list(dict.fromkeys([*asked, *(one.service for one in self.look_up if one.service)]))


def load_brief(document: Any, where: str = "the brief") -> Brief:
    """Check a parsed JSON document and make it a :class:`Brief`.

    Raises:
        ProblemError: with kind ``brief-unreadable`` or ``brief-newer``, naming the first place that is wrong.
    """
    version = document.get("tin_bucket", 1) if isinstance(document, dict) else 1
    if isinstance(version, int) and not isinstance(version, bool) and version > FORMAT_VERSION:
        raise ProblemError(
            Problem(
                "brief-newer",
                f"This brief is of format {version}; this program reads formats up to {FORMAT_VERSION}.",
                where,
                "Use a newer Tin Bucket, or write the brief in the older format.",
            )
        )
    try:
        return Brief.model_validate(document)
    except ValidationError as error:
        raise ProblemError(validation_problem(error, where, document)) from error


def brief_schema() -> dict[str, Any]:
    """The query format as a JSON Schema (draft 2020-12)."""
    either = [{"required": [name], "properties": {name: {"type": "object"}}} for name in ("ask", "sheet", "start")]
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **Brief.model_json_schema(by_alias=True),
        "title": "Tin Bucket brief",
        "oneOf": either,
    }
