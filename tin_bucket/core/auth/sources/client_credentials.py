"""OAuth 2 client credentials (RFC 6749 §4.4): an id and a secret are exchanged for a token."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal
from urllib.parse import quote_plus, urlencode

from pydantic import Field

from tin_bucket.core.auth.place import KeyPlaceModel, Secret
from tin_bucket.core.auth.placements.basic import basic_text
from tin_bucket.core.auth.source import SIGN_IN, KeySourceModel, SecretSource
from tin_bucket.core.base import Pair
from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.request.bodies import FORM
from tin_bucket.core.request.call import Call


class ClientCredentials(KeySourceModel):
    """OAuth 2 client credentials (RFC 6749 §4.4): an id and a secret are exchanged for a token."""

    by: Literal["client credentials"] = "client credentials"
    address: str = Field(min_length=1, description="the token address, absolute or below the base address")
    send: Literal["header", "body"] = Field(default="header", description="where id and secret go (RFC 6749 §2.3.1)")
    scope: str = ""
    fields: list[Pair] = Field(default=[], description="further fields of the token call, such as audience")

    @property
    def token_path(self) -> str | None:
        """The token address."""
        return self.address

    @property
    def token_place(self) -> str:
        """RFC 6749 §5.1."""
        return "$.access_token"

    @property
    def life_place(self) -> str | None:
        """RFC 6749 §5.1."""
        return "$.expires_in"

    def required_fields(self, places: Sequence[KeyPlaceModel]) -> list[str]:
        """The client's id and its secret."""
        return ["client_id", "client_secret"]

    def token_call(self, name: str, address: str, secret: Secret) -> Call:
        """The access token request (RFC 6749 §4.4.2)."""
        fields = [("grant_type", "client_credentials")]
        if self.scope:
            fields.append(("scope", self.scope))
        fields.extend((pair.name, pair.value or "") for pair in self.fields)
        headers = [("Content-Type", FORM), ("Accept", "application/json")]
        if self.send == "body":
            fields += [("client_id", secret["client_id"]), ("client_secret", secret["client_secret"])]
        else:
            # Both are form-encoded before they are joined (RFC 6749 §2.3.1).
            user, password = quote_plus(secret["client_id"]), quote_plus(secret["client_secret"])
            headers.append(("Authorization", f"Basic {basic_text(user, password)}"))
        return Call("POST", address, tuple(headers), SIGN_IN, name, urlencode(fields).encode())


SOURCE = SecretSource(
    key="client credentials",
    model=ClientCredentials,
    label="OAuth 2, client id and secret",
    fields=(
        FormField(
            "address",
            "Token address, absolute or below the base address",
            "code",
            required=True,
            start="/oauth/token",
        ),
        FormField(
            "send",
            "Id and secret go",
            options=(Option("header", "into the header"), Option("body", "into the body")),
        ),
        FormField("scope", "Scope, if the docs name one", "code", wide=True),
    ),
    phrase="a token for client id and secret, from {address}",
)
