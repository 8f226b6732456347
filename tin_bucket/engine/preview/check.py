"""Checking a service: how far does a call get, and does the key open anything?"""

from __future__ import annotations

from dataclasses import dataclass

from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.http import origin
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.request.build import build_address
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.classify import classify
from tin_bucket.core.response.response import Answer
from tin_bucket.engine.network.sender import Connections, Sender


@dataclass(frozen=True, slots=True)
class Check:
    """What a check found. `reading` is ``reached``, ``key-accepted``, ``key-refused`` or ``not-reached``."""

    reading: str
    what: str
    do: str = ""


async def check_service(connections: Connections, service: Service) -> Check:
    """Ask the service's check address with its key and without it, and read the two answers together."""
    call = Call("GET", build_address(service.base, service.check, [], {}), tuple(service.fixed_headers()))
    connections.credentials.reopen(service.id)
    try:
        answer = await Sender(connections, service, tries=1).send(call)
    except ProblemError as error:
        problem = error.problem
        words = f" It says: “{problem.words}”." if problem.words else ""
        return Check("key-refused", problem.what + words, problem.do)
    if answer.failure is not None:
        return Check("not-reached", answer.failure.what, answer.failure.do)
    without: Answer | None = None
    if service.key is not None:
        connections.credentials.used(service.id)
        keyless = service.model_copy(update={"key": None})
        without = await Sender(connections, keyless, tries=1).send(call)
    return read_check(service, answer, without)


def read_check(service: Service, answer: Answer, without: Answer | None) -> Check:
    """What the answer with the key and the one without it mean together.

    Args:
        answer: with the key.
        without: without the key; ``None`` when the service needs none.
    """
    problem = classify(answer, service.error_rules).problem
    words = f" It says: “{problem.words}”." if problem is not None and problem.words else ""
    refusal = classify(without, service.error_rules).problem if without is not None else None
    reached = f"Reached: {origin(service.base)} answered in {answer.seconds * 1000:.0f} ms"
    if answer.status in (401, 403) and (problem is None or problem.kind == "key-refused"):
        name = f" “{service.key.name}”" if service.key is not None else ""
        what = f"Reached, but the key{name} was rejected (status {answer.status}).{words}"
        return Check("key-refused", what, problem.do if problem is not None else "")
    if without is None:
        key, reading = "; it was asked without a key", "reached"
    elif service.key is not None and service.key.source.token_path is not None:
        key, reading = ", key accepted: a token was given for it", "key-accepted"
    elif without.status in (401, 403):
        key, reading = f", key accepted: without it the answer is {without.status}", "key-accepted"
    elif refusal is not None and (problem is None or problem.words != refusal.words):
        key, reading = f", key accepted: without it the service says “{refusal.words}”", "key-accepted"
    else:
        key = "; this address answers the same without the key, so it does not show whether the key is valid"
        reading = "reached"
    note = f" {answer.note}" if answer.note else ""
    return Check(reading, f"{reached}{key}{_rest(answer)}.{words}{note}", _advice(service, reading))


def _rest(answer: Answer) -> str:
    if answer.status in (400, 422):
        return f", and this address needs a parameter (status {answer.status})"
    if answer.status == 404:
        return ", and there is nothing at this very address (status 404), which is usual for a base address"
    if answer.status >= 500:
        return f", but it reports an error of its own (status {answer.status})"
    return f" (status {answer.status})" if answer.status >= 300 else ""


def _advice(service: Service, reading: str) -> str:
    if reading == "reached" and service.key is not None:
        return "Give the service a check path that needs the key."
    return ""
