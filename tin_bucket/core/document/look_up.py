"""Lookups: for each row a call with values of that row in it, or one call for many rows."""

from __future__ import annotations

import re

from pydantic import ConfigDict, Field, field_validator, model_validator

from tin_bucket.core.base import Name, Pair, Part
from tin_bucket.core.formats.durations import parse_duration
from tin_bucket.core.formats.jsonpath import known_path, plain_place
from tin_bucket.core.request.ask import Ask, Method, no_key_in_the_clear
from tin_bucket.core.request.bodies import Body

from .extraction import ColumnSpec


class LookUpBatch(Part):
    """Many values in one call. The answer holds records; each says itself which value it is of."""

    of: Name | None = Field(default=None, description="the name in the template that stands for many; the only one")
    most: int = Field(default=50, ge=1, le=10_000, description="values a call")
    characters: int | None = Field(default=None, ge=100, le=8_000, description="the longest address that is sent")
    records: str = Field(default="$[*]", description="JSONPath to the records in the answer")
    match: str = Field(description="plain JSONPath from a record to the value that it is of, such as $.code")
    place: str | None = Field(
        default=None, description="place of the values in the JSON body, such as $.codes, where they go as a list"
    )

    _records = field_validator("records")(known_path)
    _match = field_validator("match")(plain_place)


class ChosenRecord(Part):
    """The record that is meant, of several in one answer."""

    place: str = Field(description="plain JSONPath from a record")
    value: str = Field(description="what stands there, as text")

    _place = field_validator("place")(plain_place)


class LookUp(Part):
    """For each row, one call with values of that row in it, or one for many rows; chosen fields of the answer become
    columns."""

    name: Name
    service: str | None = Field(default=None, description="the id of the service; that of the question when absent")
    method: Method = "GET"
    path: str = Field(description="an RFC 6570 template; its names are columns or parameters")
    query: list[Pair] = []
    headers: list[Pair] = []
    body: Body | None = None
    with_: dict[Name, str] = Field(alias="with", description="name in the template → column of the row", min_length=1)
    batch: LookUpBatch | None = Field(default=None, description="many values in one call")
    records: str | None = Field(default=None, description="JSONPath to the records, where an answer holds several")
    several: str = Field(
        default="first", pattern="^(first|each)$", description="of several records the first, or a row for each"
    )
    where: ChosenRecord | None = Field(default=None, description="which of several records is meant")
    count: str = Field(default="", max_length=500, description="a column with the number of records")
    take: list[ColumnSpec] = Field(min_length=1)
    missing: list[int] = Field(default=[404], description="statuses that mean there is no such thing")
    keep_for: str | None = Field(
        default=None, description="ISO 8601 duration for which answers are kept, so that only new values are asked for"
    )

    model_config = ConfigDict(extra="forbid", populate_by_name=True)

    _records = field_validator("records")(known_path)
    _headers = field_validator("headers")(no_key_in_the_clear)

    @field_validator("keep_for")
    @classmethod
    def _is_a_span(cls, value: str | None) -> str | None:
        if value is not None:
            span = parse_duration(value)
            if not (span.months or span.days or span.seconds):
                raise ValueError("answers are kept for a while, such as P30D")
        return value

    @model_validator(mode="after")
    def _values_go_somewhere(self) -> LookUp:
        batch = self.batch
        if batch is None:
            return self
        if batch.of is None and len(self.with_) > 1:
            raise ValueError("say which of the names stands for many values")
        if batch.of is not None and batch.of not in self.with_:
            raise ValueError(f"“{batch.of}” is none of the lookup's names")
        if batch.place is None and self.body is None and not self._in_address(self.many):
            raise ValueError(f"neither the path nor the address parameters hold {{{self.many}}}")
        return self

    def _in_address(self, name: str) -> bool:
        texts = [self.path, *(pair.value or "" for pair in self.query)]
        return any(re.search(rf"\{{[^}}]*\b{re.escape(name)}\b[^}}]*\}}", text) for text in texts)

    @property
    def many(self) -> str:
        """The name that stands for many values in one call."""
        return (self.batch.of if self.batch is not None else None) or next(iter(self.with_))

    def ask(self, service: str) -> Ask:
        """The call as a question."""
        return Ask(
            service=service or "-",
            method=self.method,
            path=self.path,
            query=self.query,
            headers=self.headers,
            body=self.body,
        )
