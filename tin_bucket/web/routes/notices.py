"""Notices: what somebody is told without looking, and what was sent."""

from __future__ import annotations

import asyncio

from fastapi import APIRouter

from tin_bucket.core.notices.causes.registry import words_of_cause
from tin_bucket.core.notices.channels.hook import HookChannel
from tin_bucket.store.notices import KeptNotice, Message
from tin_bucket.web.context import Context, Here, problem_info
from tin_bucket.web.models.notice import (
    HookState,
    MailServerIn,
    MailServerInfo,
    MessageInfo,
    NoticeIn,
    NoticeInfo,
    NoticeMade,
    NoticePreview,
    NoticesOut,
    SecretIn,
    SecretOut,
)

router = APIRouter(prefix="/api/notices")


@router.get("")
def notices(here: Here) -> NoticesOut:
    """All notices, what was sent, and the mail server."""
    kept = here.workspace.notices
    return NoticesOut(
        notices=[_info(here, one) for one in kept.all()],
        messages=[_message(one) for one in kept.messages()],
        mail=_mail(here),
    )


def _info(here: Context, kept: KeptNotice) -> NoticeInfo:
    telling = here.engine.telling
    addresses = [one.address for one in kept.notice.to if isinstance(one, HookChannel)]
    return NoticeInfo(
        id=kept.id,
        notice=kept.notice,
        words=_words(here, kept),
        told=0 if kept.notice.cause.happens else len(here.workspace.notices.told(kept.id)),
        hooks=[HookState(address=one, has_secret=telling.has_secret(kept.id, one)) for one in addresses],
    )


def _words(here: Context, kept: KeptNotice) -> str:
    """When somebody is told, in a sentence."""
    cause = kept.notice.cause
    words = words_of_cause(cause)
    query_id = getattr(cause, "query", None)
    if query_id is None:
        return words
    names = here.workspace.queries.names()
    return f"{words}, of “{names.get(query_id, 'a query that is gone')}”"


def _message(one: Message) -> MessageInfo:
    return MessageInfo(
        id=one.id,
        notice_id=one.notice_id,
        notice=one.notice,
        by=one.channel.model_dump()["by"],
        place=one.place,
        title=one.content.title,
        text=one.content.text,
        made=one.made,
        state=one.state,
        next_try=one.next_try,
        tries=one.tries,
        sent=one.sent,
        problem=problem_info(one.problem),
    )


def _mail(here: Context) -> MailServerInfo:
    server = here.engine.telling.server()
    return MailServerInfo(server=server, has_password=server is not None and here.engine.telling.has_password(server))


@router.post("", status_code=201)
async def add(here: Here, body: NoticeIn) -> NoticeMade:
    """Keep a new notice."""
    kept = await asyncio.to_thread(here.workspace.notices.add, body.notice, here.engine.clock.now())
    return await _begun(here, kept)


@router.put("/mail")
def set_mail(here: Here, body: MailServerIn) -> MailServerInfo:
    """Set the mail server, or none."""
    here.engine.telling.set_server(body.server, body.password)
    return _mail(here)


@router.post("/preview")
def preview(here: Here, body: NoticeIn) -> NoticePreview:
    """What a message of a notice says."""
    content = here.engine.telling.preview(body.notice)
    return NoticePreview(title=content.title, text=content.text)


@router.put("/{notice_id}")
async def save(here: Here, notice_id: int, body: NoticeIn) -> NoticeMade:
    """Keep a changed notice."""
    before = await asyncio.to_thread(here.workspace.notices.get, notice_id)
    kept = await asyncio.to_thread(here.workspace.notices.save, notice_id, body.notice, here.engine.clock.now())
    return await _begun(here, kept, before)


async def _begun(here: Context, kept: KeptNotice, before: KeptNotice | None = None) -> NoticeMade:
    """Give web hooks their secrets, and begin with a notice whose cause is new."""
    telling = here.engine.telling
    secrets = []
    for one in kept.notice.to:
        if isinstance(one, HookChannel) and not await asyncio.to_thread(telling.has_secret, kept.id, one.address):
            made = await asyncio.to_thread(telling.new_secret, kept.id, one.address)
            secrets.append(SecretOut(address=one.address, secret=made))
    if before is None or before.notice.cause != kept.notice.cause or (before.notice.off and not kept.notice.off):
        await asyncio.to_thread(telling.begin, kept)
        await telling.send()
    return NoticeMade(notice=await asyncio.to_thread(_info, here, kept), secrets=secrets)


@router.post("/{notice_id}/secret")
def new_secret(here: Here, notice_id: int, body: SecretIn) -> SecretOut:
    """Make the secret of a web hook anew; it is told this once."""
    here.workspace.notices.get(notice_id)
    return SecretOut(address=body.address, secret=here.engine.telling.new_secret(notice_id, body.address))


@router.post("/{notice_id}/trial")
async def trial(here: Here, notice_id: int) -> NoticesOut:
    """Send a message of a notice now, whatever the cause."""
    kept = await asyncio.to_thread(here.workspace.notices.get, notice_id)
    await here.engine.telling.trial(kept)
    return await asyncio.to_thread(notices, here)


@router.delete("/{notice_id}", status_code=204)
def remove(here: Here, notice_id: int) -> None:
    """Delete a notice."""
    here.workspace.notices.remove(notice_id)


@router.post("/messages/{message_id}/again")
async def again(here: Here, message_id: int) -> NoticesOut:
    """Try to send a message once more, now."""
    await asyncio.to_thread(here.workspace.notices.again, message_id, here.engine.clock.now())
    await here.engine.telling.send()
    return await asyncio.to_thread(notices, here)
