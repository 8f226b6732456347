"""A key as a bearer token (RFC 6750)."""

from __future__ import annotations

from typing import Literal

from tin_bucket.core.auth.place import CALLS, SECRET_FIELD, FieldName, KeyPlaceModel, Placement, Secret, set_header
from tin_bucket.core.request.call import Call


class BearerPlace(KeyPlaceModel):
    """The Authorization header, as a bearer token (RFC 6750 §2.1)."""

    at: Literal["bearer"] = "bearer"
    field: FieldName = "key"

    def put(self, call: Call, secret: Secret, key: str) -> Call:
        """A copy of the call that carries the key here."""
        return set_header(call, "Authorization", f"Bearer {secret[self.field]}", key)


PLACEMENT = Placement(
    key="bearer",
    model=BearerPlace,
    label="a bearer token",
    way="a bearer token",
    fields=(CALLS, SECRET_FIELD),
    phrase="as a bearer token{calls}",
    shown="Authorization: Bearer ••••",
)
