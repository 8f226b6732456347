"""To a web hook."""

from __future__ import annotations

from typing import Literal
from urllib.parse import urlsplit

from pydantic import Field, field_validator

from tin_bucket.core.choice import FormField
from tin_bucket.core.notices.channel import Channel, ChannelKind


class HookChannel(Channel):
    """JSON to an address, signed with a secret that both sides know."""

    by: Literal["hook"] = "hook"
    address: str = Field(min_length=1, max_length=2_000)

    @field_validator("address")
    @classmethod
    def _address(cls, value: str) -> str:
        parts = urlsplit(value.strip())
        if parts.scheme not in ("http", "https") or not parts.hostname:
            raise ValueError("the address of a web hook begins with https:// or http://")
        if parts.username or parts.password:
            raise ValueError("the address of a web hook has no password; it is signed with a secret")
        return value.strip()

    def place(self) -> str:
        """Its address, without what may be a key."""
        return self.address.split("?")[0]


KIND = ChannelKind(
    key="hook", model=HookChannel, label="Web hook", phrase="to {address}",
    fields=(FormField("address", "Address", "code", placeholder="https://example.org/hook", required=True),),
)  # fmt: skip
