"""User and password (RFC 7617)."""

from __future__ import annotations

import base64
from typing import Literal

from tin_bucket.core.auth.place import CALLS, KeyPlaceModel, Placement, Secret, set_header, unfit
from tin_bucket.core.request.call import Call


class BasicPlace(KeyPlaceModel):
    """User and password in the Authorization header (RFC 7617)."""

    at: Literal["user and password"] = "user and password"

    def secret_fields(self) -> list[str]:
        """Both of them."""
        return ["user", "password"]

    def put(self, call: Call, secret: Secret, key: str) -> Call:
        """A copy of the call that carries the key here."""
        if "basic" in secret:
            return set_header(call, "Authorization", f"Basic {secret['basic']}", key)
        if ":" in secret["user"]:
            raise unfit(key, "the user holds a colon (RFC 7617 §2)", "Check the user's name.")
        return set_header(call, "Authorization", f"Basic {basic_text(secret['user'], secret['password'])}", key)


def basic_text(user: str, password: str) -> str:
    """User and password as RFC 7617 §2 sends them, in UTF-8 (§2.1)."""
    return base64.b64encode(f"{user}:{password}".encode()).decode()


PLACEMENT = Placement(
    key="user and password",
    model=BasicPlace,
    label="user and password",
    way="user and password",
    fields=(CALLS,),
    phrase="as user and password{calls}",
    shown="Authorization: Basic ••••",
    for_tokens=False,
)
