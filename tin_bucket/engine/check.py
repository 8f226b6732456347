"""Checking a service: how far does a call to its base address get?"""

from __future__ import annotations

from dataclasses import dataclass

from tin_bucket.core.calls import Call, origin
from tin_bucket.core.service import Service
from tin_bucket.core.verdict import judge

from .engine import Engine


@dataclass(frozen=True, slots=True)
class Check:
    """What a check found. `reading` is ``reached``, ``key-refused`` or ``not-reached``."""

    reading: str
    what: str
    do: str = ""


async def check_service(engine: Engine, service: Service) -> Check:
    """Make one call to the service's base address, key and all.

    Raises:
        ProblemError: ``key-missing`` or ``vault-closed``.
    """
    sender = await engine.sender_of(service)
    answer = await sender.send(Call("GET", service.base + "/", tuple(service.fixed_headers())))
    if answer.failure is not None:
        return Check("not-reached", answer.failure.what, answer.failure.do)
    problem = judge(answer).problem
    if answer.status in (401, 403) and problem is not None:
        words = f" It says: “{problem.words}”." if problem.words else ""
        return Check("key-refused", f"Reached, but not let in: {problem.what}{words}", problem.do)
    key = "the key was sent and not refused" if service.key is not None else "it was asked without a key"
    tail = "" if answer.status < 400 else " This address alone gives no data, which is usual."
    milliseconds = answer.seconds * 1000
    return Check(
        "reached",
        f"Reached: {origin(service.base)} answered in {milliseconds:.0f} ms with status {answer.status}; {key}.{tail}",
    )
