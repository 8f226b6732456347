"""Sends a message to a web hook: JSON, signed (RFC 9421)."""

from __future__ import annotations

from datetime import datetime

from tin_bucket.core.notices.channels.hook import HookChannel
from tin_bucket.core.notices.signature import signed
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.request.call import Call
from tin_bucket.engine.network.http import Fetcher
from tin_bucket.store.notices import Content

SECONDS = 20.0  # That a web hook may take.


async def send_hook(
    fetcher: Fetcher, content: Content, channel: HookChannel, secret: str, message_id: int, now: datetime
) -> None:
    """Send a message. The same message has the same ``Idempotency-Key`` each time it is tried.

    Raises:
        ProblemError: ``hook-refused`` where the other side says no, ``hook-unreachable`` where it says nothing.
    """
    body = content.facts.encode("utf-8", "replace")
    fields = [
        ("Content-Type", "application/json"),
        ("Idempotency-Key", f'"{message_id}"'),
        *signed(secret, "POST", channel.address, body, int(now.timestamp())),
    ]
    answer = await fetcher.fetch(Call("POST", channel.address, tuple(fields), body=body), SECONDS)
    if answer.status == 0:
        problem = answer.failure
        what = problem.what if problem is not None else "It does not answer."
        raise _problem(
            channel, "hook-unreachable", f"The web hook does not answer: {what}", "It is tried again by itself."
        )
    if not 200 <= answer.status < 300:
        raise _problem(
            channel, "hook-refused", f"The web hook answers with the status {answer.status}.",
            "Check its address and its secret.",
        )  # fmt: skip


def _problem(channel: HookChannel, kind: str, what: str, do: str) -> ProblemError:
    return fail(kind, what, where=channel.place(), do=do)
