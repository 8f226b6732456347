"""A key as a service describes it: what it is made of, where its secret comes from, and where it goes on a call.

The secret itself is nowhere here.
"""

from __future__ import annotations

from typing import Annotated, Literal
from urllib.parse import urljoin

from pydantic import Field, field_validator, model_validator

from tin_bucket.core.base import Name, Pair, Part
from tin_bucket.core.formats.durations import parse_duration
from tin_bucket.core.formats.http import HEADER_NAME, origin
from tin_bucket.core.formats.jsonpath import known_path, parse_place
from tin_bucket.core.request.bodies import Body, JsonBody

Which = Annotated[
    Literal["all", "with body", "without body"],
    Field(description="the calls that carry the key here; a key can go elsewhere when there is a body"),
]
FieldName = Annotated[Name, Field(description="which field of the secret goes here")]


class HeaderPlace(Part):
    """A header of any name, with any text before the key."""

    at: Literal["header"] = "header"
    name: str = Field(default="X-Api-Key", min_length=1)
    prefix: str = ""
    field: FieldName = "key"
    calls: Which = "all"

    @field_validator("name")
    @classmethod
    def _is_header_name(cls, value: str) -> str:
        if not HEADER_NAME.match(value):
            raise ValueError(f"“{value}” cannot be the name of a header")
        return value


class BearerPlace(Part):
    """The Authorization header, as a bearer token (RFC 6750 §2.1)."""

    at: Literal["bearer"] = "bearer"
    field: FieldName = "key"
    calls: Which = "all"


class AddressPlace(Part):
    """An address parameter (RFC 6750 §2.3 calls it a URI query parameter)."""

    at: Literal["address"] = "address"
    name: str = Field(default="key", min_length=1)
    field: FieldName = "key"
    calls: Which = "all"


class BodyPlace(Part):
    """A field of the JSON body, or of a form."""

    at: Literal["body"] = "body"
    place: str = Field(default="$.key", description="plain JSONPath of member names, such as $.auth.key")
    field: FieldName = "key"
    calls: Which = "with body"

    @field_validator("place")
    @classmethod
    def _names_members(cls, value: str) -> str:
        place = parse_place(value)
        if not place or not all(isinstance(segment, str) for segment in place):
            raise ValueError(f"“{value}” is not a place of member names such as $.auth.key")
        return value


class BasicPlace(Part):
    """User and password in the Authorization header (RFC 7617)."""

    at: Literal["user and password"] = "user and password"
    calls: Which = "all"


KeyPlace = Annotated[
    HeaderPlace | BearerPlace | AddressPlace | BodyPlace | BasicPlace,
    Field(discriminator="at"),
]


class Stored(Part):
    """The secret is stored, and goes on the call as it is."""

    by: Literal["stored"] = "stored"


class Asked(Part):
    """A token that a person pastes when asked; it is kept in memory until it ends, and never stored."""

    by: Literal["asked"] = "asked"
    lasts: str = Field(default="PT1H", description="ISO 8601 duration, when the token itself does not say")

    @field_validator("lasts")
    @classmethod
    def _is_duration(cls, value: str) -> str:
        parse_duration(value)
        return value


class ClientCredentials(Part):
    """OAuth 2 client credentials (RFC 6749 §4.4): an id and a secret are exchanged for a token."""

    by: Literal["client credentials"] = "client credentials"
    address: str = Field(min_length=1, description="the token address, absolute or below the base address")
    send: Literal["header", "body"] = Field(default="header", description="where id and secret go (RFC 6749 §2.3.1)")
    scope: str = ""
    fields: list[Pair] = Field(default=[], description="further fields of the token call, such as audience")


class SignIn(Part):
    """A sign-in call of one's own description; the answer holds a token for some time."""

    by: Literal["sign-in"] = "sign-in"
    wants: list[Name] = Field(default=["user", "password"], min_length=1, description="the fields of the secret")
    method: Literal["GET", "POST", "PUT"] = "POST"
    address: str = Field(min_length=1, description="absolute or below the base address; may hold {field}")
    headers: list[Pair] = []
    body: Body | None = JsonBody(value={"user": "{user}", "password": "{password}"})
    token: str = Field(default="$.token", description="JSONPath to the token")
    life: str | None = Field(default=None, description="JSONPath to its life in seconds, or to the moment of its end")
    lasts: str = Field(default="PT10M", description="ISO 8601 duration, when the answer does not say")

    _paths = field_validator("token", "life")(known_path)

    @field_validator("lasts")
    @classmethod
    def _is_duration(cls, value: str) -> str:
        parse_duration(value)
        return value


KeySource = Annotated[Stored | Asked | ClientCredentials | SignIn, Field(discriminator="by")]


class Key(Part):
    """A service's key."""

    name: str = Field(min_length=1, max_length=120, description="what people call the key")
    source: KeySource = Stored()
    places: list[KeyPlace] = Field(default=[HeaderPlace()], min_length=1)

    @model_validator(mode="after")
    def _one_token(self) -> Key:
        if self.source.by != "stored" and any(getattr(place, "field", "") != "key" for place in self.places):
            raise ValueError("a token is one text: it goes into a header, the address or the body")
        return self

    def wants(self) -> list[str]:
        """The fields of the secret that a person puts in."""
        if self.source.by == "client credentials":
            return ["client_id", "client_secret"]
        if self.source.by == "sign-in":
            return list(self.source.wants)
        if self.source.by == "asked":
            return ["token"]
        fields: list[str] = []
        for place in self.places:
            fields.extend(["user", "password"] if place.at == "user and password" else [place.field])
        return list(dict.fromkeys(fields))

    def token_address(self, base: str) -> str | None:
        """Where a token is got, if it is got at all."""
        if self.source.by not in ("client credentials", "sign-in"):
            return None
        address = self.source.address
        return address if "://" in address else urljoin(base.rstrip("/") + "/", address.lstrip("/"))

    def bound_to(self, base: str) -> str:
        """The origins that the secret may go to (RFC 6454 §4): the service's, and the token address's."""
        token = self.token_address(base)
        return " ".join(sorted({origin(base), *([origin(token)] if token else [])}))
