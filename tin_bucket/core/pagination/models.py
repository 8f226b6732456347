"""How a question turns pages: the part of the query format that says so."""

from __future__ import annotations

import re
from typing import Annotated, Literal

from pydantic import Field, field_validator, model_validator

from tin_bucket.core.base import Part
from tin_bucket.core.formats.durations import parse_duration
from tin_bucket.core.formats.jsonpath import Wildcard, known_path, known_source, parse_place
from tin_bucket.core.request.edit import ParameterLocation

MOST_PAGES = 100_000


_STATED = "JSONPath in the answer, or header:NAME: "


class _Paged(Part):
    total: str | None = Field(default=None, description=_STATED + "the number of rows that the API states")
    most: int = Field(default=1000, ge=1, le=MOST_PAGES, description="safety limit on the number of pages")
    most_rows: int | None = Field(default=None, ge=1, description="stop when so many rows are here, to have a look")

    _total = field_validator("total")(known_source)


class _Placed(_Paged):
    at: ParameterLocation = Field(default="address", description="where the parameter goes")
    parameter: str = Field(min_length=1, description="its name; in a JSON body its place, such as $.page.number")
    size_parameter: str | None = Field(default=None, description="the parameter with the size, at the same place")
    size: int | None = Field(default=None, ge=1, description="rows a page to ask for")

    @field_validator("parameter", "size_parameter")
    @classmethod
    def _names_a_place(cls, value: str | None) -> str | None:
        if value is not None and value.startswith("$"):
            place = parse_place(value)
            if not place or any(isinstance(step, Wildcard | int) for step in place):
                raise ValueError(f"“{value}” is not a place of one member, such as $.page.number")
        return value


class NoPagination(Part):
    """The answer to one call is all there is."""

    by: Literal["none"] = "none"
    total: str | None = Field(default=None, description=_STATED + "the number of rows that the API states")

    _total = field_validator("total")(known_source)


class NumberPagination(_Placed):
    """Pages are asked for by their number."""

    by: Literal["number"] = "number"
    parameter: str = Field(default="page", min_length=1)
    first: int = Field(default=1, ge=0)
    last_page: str | None = Field(default=None, description=_STATED + "the number of the last page")

    _last = field_validator("last_page")(known_source)


class OffsetPagination(_Placed):
    """Pages are asked for by the number of rows before them."""

    by: Literal["offset"] = "offset"
    parameter: str = Field(default="offset", min_length=1)
    first: int = Field(default=0, ge=0)


class CursorPagination(_Placed):
    """Each answer holds a mark that asks for the next page; the first call is without one."""

    by: Literal["cursor"] = "cursor"
    parameter: str = Field(default="cursor", min_length=1)
    cursor: str = Field(description=_STATED + "the mark; null, empty, false or missing on the last page")
    more: str | None = Field(default=None, description=_STATED + "whether there is more")
    first: str | None = Field(default=None, description="the mark of the first page; none when absent")

    _sources = field_validator("cursor", "more")(known_source)


class NextUrlPagination(_Paged):
    """Each answer holds the address of the next page, whole or relative."""

    by: Literal["next"] = "next"
    next: str = Field(description=_STATED + "the next address; null, empty or missing on the last page")

    _next = field_validator("next")(known_source)


class LinkPagination(_Paged):
    """The Link header holds the address of the next page (RFC 8288)."""

    by: Literal["link"] = "link"
    relation: str = Field(default="next", min_length=1)


class LastRowPagination(_Placed):
    """The next page is asked for with a value of the last row."""

    by: Literal["last row"] = "last row"
    parameter: str = Field(default="after", min_length=1)
    value: str = Field(description="plain JSONPath in the record, such as $.id")
    more: str | None = Field(default=None, description=_STATED + "whether there is more")

    _more = field_validator("more")(known_source)

    @field_validator("value")
    @classmethod
    def _one_place(cls, value: str) -> str:
        place = parse_place(value)
        if place is None or any(isinstance(step, Wildcard) for step in place):
            raise ValueError(f"“{value}” is not one place in the record, such as $.id")
        return value


class DatePagination(_Paged):
    """A long range of dates is asked for piece by piece. The question holds the whole range."""

    by: Literal["dates"] = "dates"
    at: ParameterLocation = "address"
    start: str = Field(default="from", min_length=1, description="the parameter with the first date of the range")
    end: str = Field(default="to", min_length=1, description="the parameter with its last date")
    step: str = Field(default="P7D", description="length of a piece, an ISO 8601 duration")
    ends: Literal["included", "excluded"] = Field(
        default="included", description="whether the end belongs to what the API gives for a range"
    )

    @field_validator("step")
    @classmethod
    def _goes_on(cls, value: str) -> str:
        step = parse_duration(value)
        if min(step.months, step.days, step.seconds) < 0 or not (step.months or step.days or step.seconds):
            raise ValueError("a piece is at least a second long")
        return value


Listing = Annotated[
    NoPagination
    | NumberPagination
    | OffsetPagination
    | CursorPagination
    | NextUrlPagination
    | LinkPagination
    | LastRowPagination,
    Field(discriminator="by"),
]


class IdPagination(_Paged):
    """The question gives ids; the rows are the answers to further calls, each for some of the ids."""

    by: Literal["ids"] = "ids"
    ids: str = Field(description="JSONPath to the ids in the answers of the question")
    path: str = Field(description="RFC 6570 template with {id}, or {?id} for several, below the service's base address")
    batch: int = Field(default=1, ge=1, le=10_000, description="ids a call")
    place: str | None = Field(
        default=None, description="place in a JSON body, such as $.ids; the ids go there by POST, as a list"
    )
    listing: Listing = Field(default=NoPagination(), description="how the pages of the ids are turned")

    _ids = field_validator("ids")(known_path)

    @field_validator("path")
    @classmethod
    def _holds_an_id(cls, value: str) -> str:
        if not value:
            raise ValueError("the path of the further calls is missing")
        return value

    @model_validator(mode="after")
    def _ids_go_somewhere(self) -> IdPagination:
        if self.place is None and not re.search(r"\{[^}]*\bid\b[^}]*\}", self.path):
            raise ValueError("the path does not hold {id}")
        return self


Pagination = Annotated[
    NoPagination
    | NumberPagination
    | OffsetPagination
    | CursorPagination
    | NextUrlPagination
    | LinkPagination
    | LastRowPagination
    | DatePagination
    | IdPagination,
    Field(discriminator="by"),
]
