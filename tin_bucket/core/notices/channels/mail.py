"""By mail."""

from __future__ import annotations

import re
from typing import Literal

from pydantic import Field, field_validator

from tin_bucket.core.choice import FormField
from tin_bucket.core.notices.channel import Channel, ChannelKind

_ADDRESS = re.compile(r"[^\s@<>,;:\"()\[\]\\]+@[^\s@<>,;:\"()\[\]\\]+")


class MailChannel(Channel):
    """A mail to some addresses."""

    by: Literal["mail"] = "mail"
    addresses: list[str] = Field(min_length=1, max_length=50)

    @field_validator("addresses")
    @classmethod
    def _addresses(cls, value: list[str]) -> list[str]:
        out = [one.strip() for one in value if one.strip()]
        for one in out:
            # A line break would begin a header of its own (RFC 5322 §2.2).
            if not _ADDRESS.fullmatch(one) or len(one) > 254:
                raise ValueError(f"“{one[:80]}” is no mail address")
        if not out:
            raise ValueError("a mail has at least one address")
        return out

    def place(self) -> str:
        """Its addresses."""
        return ", ".join(self.addresses)


KIND = ChannelKind(
    key="mail", model=MailChannel, label="Mail", phrase="by mail to {addresses}",
    fields=(FormField("addresses", "To", "names", placeholder="desk@example.org, board@example.org", required=True),),
)  # fmt: skip
