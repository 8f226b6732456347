"""A key as a field of the body."""

from __future__ import annotations

from dataclasses import replace
from typing import Any, Literal
from urllib.parse import parse_qsl, urlencode

from pydantic import Field, field_validator

from tin_bucket.core.auth.place import SECRET_FIELD, FieldName, KeyPlaceModel, Placement, Secret, Which, unfit
from tin_bucket.core.choice import FormField
from tin_bucket.core.formats.json import json_text, parse_json
from tin_bucket.core.formats.jsonpath import parse_place
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.request.bodies import FORM
from tin_bucket.core.request.call import Call

NO_BODY = "Give the question a body, or the key of the service one more place, for calls without a body."


class BodyPlace(KeyPlaceModel):
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

    @field_validator("calls")
    @classmethod
    def _there_is_a_body(cls, value: str) -> str:
        if value == "without body":
            raise ValueError("a key in the body is for calls with a body; give calls without one another place")
        return value

    def put(self, call: Call, secret: Secret, key: str) -> Call:
        """A copy of the call that carries the key here."""
        segments = [str(segment) for segment in parse_place(self.place) or ()]
        if call.body is None:
            raise unfit(key, "it goes into the body, and this call has none", NO_BODY)
        if call.media_type() == FORM:
            fields = [pair for pair in parse_qsl(call.body.decode(), keep_blank_values=True) if pair[0] != segments[-1]]
            return replace(call, body=urlencode([*fields, (segments[-1], secret[self.field])]).encode())
        try:
            document = parse_json(call.body) if call.media_type().endswith("json") else None
        except ProblemError:
            document = None
        if not isinstance(document, dict):
            raise unfit(key, "it goes into a JSON object or a form, and the body is neither", "Change the body's kind.")
        inner: dict[str, Any] = document
        for segment in segments[:-1]:
            found = inner.setdefault(segment, {})
            if not isinstance(found, dict):
                raise unfit(key, f"“{segment}” in the body is not an object", "Change the place of the key.")
            inner = found
        inner[segments[-1]] = secret[self.field]
        return replace(call, body=json_text(document).encode())


PLACEMENT = Placement(
    key="body",
    model=BodyPlace,
    label="a field of the body",
    way="a key in the body",
    fields=(FormField("place", "Place in the body", required=True), SECRET_FIELD),
    phrase="in the body",
    shown="{place}: ••••",
)
