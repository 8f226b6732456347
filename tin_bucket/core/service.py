"""A service: one API, set up once. Its key is elsewhere; a service only says where the key goes."""

from __future__ import annotations

import re
from urllib.parse import urlsplit

from pydantic import BaseModel, ConfigDict, Field, field_validator

from .brief import Pair
from .signing import Placement, looks_secret

_HEADER_NAME = re.compile(r"[!#$%&'*+\-.^_`|~0-9A-Za-z]+\Z")


class KeyPlace(BaseModel):
    """Where a service takes its key: a header of any name, with any text before the key."""

    model_config = ConfigDict(extra="forbid")
    name: str = Field(min_length=1, max_length=120, description="what people call the key")
    header: str = Field(default="X-Api-Key", min_length=1)
    prefix: str = ""

    @field_validator("header")
    @classmethod
    def _is_header_name(cls, value: str) -> str:
        if not _HEADER_NAME.match(value):
            raise ValueError(f"“{value}” cannot be the name of a header")
        return value

    def placement(self) -> Placement:
        """The same for the core's signing."""
        return Placement(self.header, self.prefix, self.name)


class Service(BaseModel):
    """One API: base address, fixed headers, time-out, docs link, and where its key goes."""

    model_config = ConfigDict(extra="forbid")
    id: str = Field(pattern=r"^[a-z0-9]+(-[a-z0-9]+)*$", max_length=80)
    name: str = Field(min_length=1, max_length=120)
    base: str
    headers: list[Pair] = []
    timeout: float = Field(default=30, gt=0, le=600, description="seconds to wait for an answer")
    docs: str = ""
    note: str = ""
    key: KeyPlace | None = None

    @field_validator("headers")
    @classmethod
    def _no_key_in_the_clear(cls, value: list[Pair]) -> list[Pair]:
        for pair in value:
            if looks_secret(pair.name) or pair.name.lower() == "cookie":
                raise ValueError(f"the header {pair.name} holds a key; store it as the service's key instead")
            if not _HEADER_NAME.match(pair.name) or "\n" in pair.value or "\r" in pair.value:
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
        return [(pair.name, pair.value) for pair in self.headers]


def slug(text: str, taken: set[str]) -> str:
    """An id made of a name: lower-case letters, digits and single hyphens, not among those taken."""
    base = re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")[:60].strip("-") or "service"
    name, number = base, 2
    while name in taken:
        name, number = f"{base}-{number}", number + 1
    return name
