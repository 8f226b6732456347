"""Notices, the mail server, and what was sent."""

from __future__ import annotations

from pydantic import BaseModel, Field

from tin_bucket.core.notices.model import Notice
from tin_bucket.engine.telling.mail import MailServer

from .common import ProblemInfo


class NoticeIn(BaseModel):
    """A notice as it is filled in."""

    notice: Notice


class HookState(BaseModel):
    """A web hook of a notice."""

    address: str
    has_secret: bool


class NoticeInfo(BaseModel):
    """A notice."""

    id: int
    notice: Notice
    words: str = Field(description="when somebody is told")
    told: int = Field(description="how many things are told and not over")
    hooks: list[HookState]


class SecretIn(BaseModel):
    address: str = Field(max_length=2_000)


class SecretOut(BaseModel):
    """The secret of a web hook, which is told this once."""

    address: str
    secret: str


class NoticeMade(BaseModel):
    """A notice that was kept, with the secrets that were made for its web hooks: they are told this once."""

    notice: NoticeInfo
    secrets: list[SecretOut]


class MessageInfo(BaseModel):
    """A message that was sent, or waits to be."""

    id: int
    notice_id: int | None
    notice: str
    by: str
    place: str
    title: str
    text: str
    made: str
    state: str
    next_try: str | None
    tries: int
    sent: str | None
    problem: ProblemInfo | None


class MailServerIn(BaseModel):
    """The mail server, or none."""

    server: MailServer | None
    password: str | None = Field(default=None, max_length=1_000, description="that which is kept stays if absent")


class MailServerInfo(BaseModel):
    server: MailServer | None
    has_password: bool


class NoticesOut(BaseModel):
    """All notices, what was sent, and the mail server."""

    notices: list[NoticeInfo]
    messages: list[MessageInfo]
    mail: MailServerInfo


class NoticePreview(BaseModel):
    """What a message says."""

    title: str
    text: str
