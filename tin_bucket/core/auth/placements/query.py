"""A key as a parameter of the address."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal
from urllib.parse import quote

from pydantic import Field

from tin_bucket.core.auth.place import CALLS, SECRET_FIELD, FieldName, KeyPlaceModel, Placement, Secret
from tin_bucket.core.choice import FormField
from tin_bucket.core.request.call import Call


class AddressPlace(KeyPlaceModel):
    """An address parameter (RFC 6750 §2.3 calls it a URI query parameter)."""

    at: Literal["address"] = "address"
    name: str = Field(default="key", min_length=1)
    field: FieldName = "key"

    def put(self, call: Call, secret: Secret, key: str) -> Call:
        """A copy of the call that carries the key here."""
        address, _, query = call.address.partition("?")
        name = quote(self.name, safe="")
        pieces = [piece for piece in query.split("&") if piece and piece.partition("=")[0] not in (name, self.name)]
        pieces.append(f"{name}={quote(secret[self.field], safe='')}")
        return replace(call, address=f"{address}?{'&'.join(pieces)}")


PLACEMENT = Placement(
    key="address",
    model=AddressPlace,
    label="an address parameter",
    way="a key in the address",
    fields=(FormField("name", "Name of the address parameter", "code", required=True), CALLS, SECRET_FIELD),
    phrase="in the address{calls}",
    shown="{name}=••••",
)
