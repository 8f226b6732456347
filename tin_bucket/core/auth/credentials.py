"""A key as a service describes it: what it is made of, where its secret comes from, and where a call carries it.

The secret itself is nowhere here.
"""

from __future__ import annotations

from urllib.parse import urljoin

from pydantic import Field, model_validator

from tin_bucket.core.auth.placements.header import HeaderPlace
from tin_bucket.core.auth.sources.stored import Stored
from tin_bucket.core.base import Part
from tin_bucket.core.formats.http import origin

from .registry import KeyPlace, KeySource


class Key(Part):
    """A service's key."""

    name: str = Field(min_length=1, max_length=120, description="what people call the key")
    source: KeySource = Stored()
    places: list[KeyPlace] = Field(default=[HeaderPlace()], min_length=1)

    @model_validator(mode="after")
    def _one_token(self) -> Key:
        if not self.source.stored and any(place.secret_fields() != ["key"] for place in self.places):
            raise ValueError("a token is one text: it goes into a header, the address or the body")
        return self

    def required_fields(self) -> list[str]:
        """The fields of the secret that a person puts in."""
        return self.source.required_fields(self.places)

    def token_address(self, base: str) -> str | None:
        """Where a token is got, if it is got at all."""
        path = self.source.token_path
        if path is None or "://" in path:
            return path
        return urljoin(base.rstrip("/") + "/", path.lstrip("/"))

    def bound_to(self, base: str) -> str:
        """The origins that the secret may go to (RFC 6454 §4): the service's, and the token address's."""
        token = self.token_address(base)
        return " ".join(sorted({origin(base), *([origin(token)] if token else [])}))
