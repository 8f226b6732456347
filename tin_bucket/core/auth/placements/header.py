"""A key in a header of any name."""

from __future__ import annotations

from typing import Literal

from pydantic import Field, field_validator

from tin_bucket.core.auth.place import CALLS, SECRET_FIELD, FieldName, KeyPlaceModel, Placement, Secret, set_header
from tin_bucket.core.choice import FormField
from tin_bucket.core.formats.http import HEADER_NAME
from tin_bucket.core.request.call import Call


class HeaderPlace(KeyPlaceModel):
    """A header of any name, with any text before the key."""

    at: Literal["header"] = "header"
    name: str = Field(default="X-Api-Key", min_length=1)
    prefix: str = ""
    field: FieldName = "key"

    @field_validator("name")
    @classmethod
    def _is_header_name(cls, value: str) -> str:
        if not HEADER_NAME.match(value):
            raise ValueError(f"“{value}” cannot be the name of a header")
        return value

    def put(self, call: Call, secret: Secret, key: str) -> Call:
        """A copy of the call that carries the key here."""
        return set_header(call, self.name, self.prefix + secret[self.field], key)


PLACEMENT = Placement(
    key="header",
    model=HeaderPlace,
    label="a header",
    way="a key in a header",
    fields=(
        FormField("name", "Name of the header", "code", required=True),
        FormField("prefix", "Text before it", "code", "none"),
        CALLS,
        SECRET_FIELD,
    ),
    phrase="in a header{calls}",
    shown="{name}: {prefix}••••",
)
