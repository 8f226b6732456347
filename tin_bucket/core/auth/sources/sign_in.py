"""A sign-in call of one's own description, which gives a token for some time."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from pydantic import Field, field_validator

from tin_bucket.core.auth.place import KeyPlaceModel, Secret
from tin_bucket.core.auth.source import LASTS, SIGN_IN, KeySourceModel, SecretSource
from tin_bucket.core.base import Name, Pair
from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.formats.durations import parse_duration
from tin_bucket.core.formats.jsonpath import known_path
from tin_bucket.core.request.bodies import Body, JsonBody, encode_body
from tin_bucket.core.request.build import build_address
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.fields import fill_pairs
from tin_bucket.core.request.variables import one_text


class SignIn(KeySourceModel):
    """A sign-in call of one's own description; the answer holds a token for some time."""

    by: Literal["sign-in"] = "sign-in"
    inputs: list[Name] = Field(default=["user", "password"], min_length=1, description="the fields of the secret")
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

    @property
    def token_path(self) -> str | None:
        """The address of the sign-in."""
        return self.address

    @property
    def token_place(self) -> str:
        """As it was described."""
        return self.token

    @property
    def life_place(self) -> str | None:
        """As it was described."""
        return self.life

    @property
    def life_when_unknown(self) -> str | None:
        """As it was set."""
        return self.lasts

    def required_fields(self, places: Sequence[KeyPlaceModel]) -> list[str]:
        """The fields that the call names."""
        return list(self.inputs)

    def token_call(self, name: str, address: str, secret: Secret) -> Call:
        """The call, with the secret's fields in it."""
        scope = {field: one_text(secret[field]) for field in self.inputs}
        headers = [(header, value or "") for header, value in fill_pairs(self.headers, scope, "sign-in header")]
        body = None
        if self.body is not None and self.method != "GET":
            body, media_type = encode_body(self.body, scope)
            headers.append(("Content-Type", media_type))
        root, _, path = address.partition("://")
        host, slash, rest = path.partition("/")
        address = build_address(f"{root}://{host}", slash + rest, [], scope, "field of the key")
        return Call(self.method, address, tuple(headers), SIGN_IN, name, body)


SOURCE = SecretSource(
    key="sign-in",
    model=SignIn,
    label="a sign-in call that gives a token",
    fields=(
        FormField("method", "Method", options=tuple(Option(one, one) for one in ("POST", "GET", "PUT"))),
        FormField("address", "Address of the sign-in", "code", required=True, start="/login"),
        FormField("inputs", "Fields that you enter, separated by commas", "names", required=True),
        FormField("body", "Body as JSON, with fields in braces", "json", wide=True),
        FormField("token", "Place of the token in the answer", required=True),
        FormField("life", "Place of its lifetime", placeholder="none"),
        LASTS,
    ),
    phrase="a token by signing in at {address}",
)
