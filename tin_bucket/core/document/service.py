"""A service: one API, set up once. Its key is elsewhere; a service only says where the key goes."""

from __future__ import annotations

import re
from typing import Any
from urllib.parse import urlsplit

from pydantic import Field, field_validator

from tin_bucket.core.auth.credentials import Key
from tin_bucket.core.base import Pair, Part
from tin_bucket.core.formats.http import HEADER_NAME
from tin_bucket.core.masking.looks import looks_like_token, looks_secret
from tin_bucket.core.response.error_rules import ErrorRule
from tin_bucket.core.response.retry import AgainRule
from tin_bucket.core.traffic.rate_window import Window


class Service(Part):
    """One API: base address, fixed headers, time-outs, docs link, and where its key goes."""

    id: str = Field(pattern=r"^[a-z0-9]+(-[a-z0-9]+)*$", max_length=80)
    name: str = Field(min_length=1, max_length=120)
    base: str
    headers: list[Pair] = []
    timeout: float = Field(
        default=30, gt=0, le=600, description="seconds for a whole answer, from the call to its last byte"
    )
    connect: float = Field(default=10, gt=0, le=600, description="seconds to wait for the connection")
    check: str = Field(default="/", description="the path that a check asks for, below the base address")
    docs: str = ""
    note: str = ""
    key: Key | None = None
    limits: list[Window] = Field(default=[], max_length=12, description="how many calls it allows; all are kept")
    at_once: int = Field(default=4, ge=1, le=32, description="calls that may be under way together")
    tries: int = Field(default=5, ge=1, le=20, description="how many times a call is made that fails for a while")
    again: list[AgainRule] = Field(
        default=[], max_length=20, description="statuses that are retried in another way than usual"
    )
    most_address: int | None = Field(
        default=None,
        ge=100,
        le=100_000,
        description="characters of the longest address that it takes; learnt from its refusals (414) if absent",
    )
    conditional: bool = Field(
        default=True,
        description="whether calls name the ETag or Last-Modified of a saved answer, to get only what changed",
    )
    unchanged_counts: bool = Field(
        default=True, description="whether a call that is answered 304 counts against its limits"
    )
    find_out: bool = Field(
        default=False, description="whether to find out by itself, with up to six calls, if there is more than a page"
    )
    error_rules: list[ErrorRule] = Field(
        default=[], max_length=20, description="rules for errors inside answers of status 2xx"
    )

    @field_validator("headers")
    @classmethod
    def _no_key_in_the_clear(cls, value: list[Pair]) -> list[Pair]:
        for pair in value:
            if looks_secret(pair.name) or looks_like_token(pair.value or ""):
                raise ValueError(f"the header {pair.name} holds a key; store it as the service's key instead")
            if not HEADER_NAME.match(pair.name) or re.search(r"[\r\n]", pair.value or ""):
                raise ValueError(f"“{pair.name}” cannot be a header")
        return value

    @field_validator("docs")
    @classmethod
    def _docs_are_an_address(cls, value: str) -> str:
        # It becomes a link: nothing but a web address may stand there.
        if value.strip() and urlsplit(value.strip()).scheme not in ("http", "https"):
            raise ValueError("the address of the docs starts with http:// or https://")
        return value.strip()

    @field_validator("base")
    @classmethod
    def _is_address(cls, value: str) -> str:
        try:
            parts = urlsplit(value.strip())
            port_is_fine = parts.port != 0
        except ValueError as error:
            raise ValueError("the base address has a port that is not a number up to 65535") from error
        if parts.scheme not in ("http", "https") or not parts.hostname or not port_is_fine:
            raise ValueError("the base address starts with http:// or https:// and names a host")
        if parts.username or parts.password:
            raise ValueError("the base address holds a user or a password; store those as a key")
        if parts.query or parts.fragment:
            raise ValueError("the base address ends before ? and #; those belong to the question")
        return value.strip().rstrip("/")

    def fixed_headers(self) -> list[tuple[str, str]]:
        """The headers that go with every call to this service."""
        return [(pair.name, pair.value or "") for pair in self.headers]


def slug(text: str, taken: set[str]) -> str:
    """An id made of a name: lower-case letters, digits and single hyphens, not among those taken."""
    base = re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")[:60].strip("-") or "service"
    name, number = base, 2
    while name in taken:
        name, number = f"{base}-{number}", number + 1
    return name


class ServicesFile(Part):
    """A file of services, which goes with a brief."""

    services: list[Service]


def services_schema() -> dict[str, Any]:
    """A file of services as a JSON Schema (draft 2020-12)."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **ServicesFile.model_json_schema(by_alias=True),
        "title": "Tin Bucket services",
    }
