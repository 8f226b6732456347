"""A key as a piece of the address's path, such as the second one of ``/v1/KEY/sailings``."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal
from urllib.parse import quote, unquote

from pydantic import Field

from tin_bucket.core.auth.place import CALLS, SECRET_FIELD, FieldName, KeyPlaceModel, Placement, Secret
from tin_bucket.core.choice import FormField
from tin_bucket.core.request.call import Call

_MASKS = "*•"  # What stands for a key in the next address that an answer gave.


class PathPlace(KeyPlaceModel):
    """A segment of the path (RFC 3986 §3.3), counted from the host."""

    at: Literal["path"] = "path"
    segment: int = Field(default=1, ge=1, le=50, description="which segment of the path the key becomes, from 1")
    field: FieldName = "key"

    def put(self, call: Call, secret: Secret, key: str) -> Call:
        """A copy of the call that carries the key here: what follows moves on by one. An address that an answer gave
        may carry it already, masked or not."""
        address, question, query = call.address.partition("?")
        scheme, _, rest = address.partition("://")
        host, *segments = rest.split("/")
        text = quote(secret[self.field], safe="")
        # A path that is shorter ends with the key.
        at = min(self.segment, len(segments)) - 1
        if segments and (segments[at] == text or _is_masked(segments[at])):
            segments[at] = text
        else:
            segments.insert(self.segment - 1, text)
        return replace(call, address=f"{scheme}://{'/'.join([host, *segments])}{question}{query}")


def _is_masked(segment: str) -> bool:
    return bool(segment) and not unquote(segment).strip(_MASKS)


PLACEMENT = Placement(
    key="path",
    model=PathPlace,
    label="a piece of the path",
    way="a key in the path",
    fields=(FormField("segment", "Which piece of the path, from 1", "number", least=1), CALLS, SECRET_FIELD),
    phrase="in the path{calls}",
    shown="piece {segment}: ••••",
)
