"""What a query asks: the method, the path, the address parameters, the headers and the body; or a sheet to read."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import Field, field_validator

from tin_bucket.core.base import Pair, Part
from tin_bucket.core.masking.looks import looks_secret

from .bodies import Body

Method = Literal["GET", "HEAD", "POST", "PUT", "PATCH", "DELETE"]


def no_key_in_the_clear(value: list[Pair]) -> list[Pair]:
    """Check that no header is one that holds a key.

    Raises:
        ValueError: one is.
    """
    for pair in value:
        if looks_secret(pair.name):
            raise ValueError(f"the header {pair.name} holds a key; store it as the service's key instead")
    return value


class Ask(Part):
    """Which call is made."""

    service: str = Field(min_length=1, description="the id of the service")
    method: Method = "GET"
    path: str = Field(default="/", description="an RFC 6570 template below the service's base address")
    query: list[Pair] = []
    headers: list[Pair] = []
    body: Body | None = None

    _headers = field_validator("headers")(no_key_in_the_clear)

    @property
    def only_reads(self) -> bool:
        """Whether its calls change nothing and can be made again at any time (RFC 9110 §9.2.1)."""
        return self.method in ("GET", "HEAD")


class SheetRows(Part):
    """Rows that come from a sheet or from files, and not from a call."""

    sheet: str | None = Field(default=None, description="the name of a sheet that is kept in the workspace")
    files: str | None = Field(default=None, description="files of the workspace's folder, such as counts/*.csv")

    @field_validator("files")
    @classmethod
    def _stays_inside(cls, value: str | None) -> str | None:
        if value is not None and (value.startswith(("/", "~", "\\")) or ".." in value.replace("\\", "/").split("/")):
            raise ValueError("files are named from the allowed folder on, without .. and without a leading /")
        return value

    def model_post_init(self, context: Any) -> None:
        """One of the two is named."""
        if (self.sheet is None) == (self.files is None):
            raise ValueError("name either a sheet or files")
