"""Services, keys and the vault."""

from __future__ import annotations

from pydantic import BaseModel, Field

from tin_bucket.core.document.service import Service
from tin_bucket.core.traffic.rate_window import Window


class KeyInfo(BaseModel):
    """What is known of a service's key; nothing of its text but the last characters."""

    stored: str | None = Field(description="when it was stored, or its token was pasted")
    ready: bool = Field(description="whether calls can carry it now")
    last_used: str | None
    bound_to: str | None
    fits: bool = Field(description="whether it is bound to the addresses as they are now")
    expires: str | None
    fingerprint: str
    required_fields: list[str] = Field(description="the fields that a person enters")
    token_ends: str | None


class AllowanceInfo(BaseModel):
    """What is left of a window."""

    words: str
    left: int
    calls: int
    resets: str | None = Field(description="when more is free again")


class AdvertisedLimitsInfo(BaseModel):
    """What the service's answers say of its limits."""

    words: str
    windows: list[Window]


class ServiceInfo(BaseModel):
    allowances: list[AllowanceInfo]
    advertised: AdvertisedLimitsInfo | None
    service: Service
    key: KeyInfo | None
    used_by: list[str]
    waiting: list[str] = Field(description="the queries whose runs wait for this key")


class ServiceIn(BaseModel):
    service: Service


class KeyIn(BaseModel):
    secret: dict[str, str] = Field(repr=False, description="field → text")
    expires: str | None = Field(default=None, description="when it ends, ISO 8601")


class ExpiresIn(BaseModel):
    expires: str | None


class PassphraseIn(BaseModel):
    passphrase: str | None = Field(default=None, max_length=1000, repr=False)
    old: str | None = Field(default=None, max_length=1000, repr=False, description="the one to be replaced")


class About(BaseModel):
    """What holds for the whole program."""

    caller: str = Field(description="how calls identify their caller, for a new service")
    reach: str
    folder: str
    vault: str = Field(description="key file, passphrase, or closed")


class CheckOut(BaseModel):
    reading: str
    what: str
    do: str
