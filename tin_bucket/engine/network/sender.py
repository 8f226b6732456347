"""Sends a service's calls: within its limits, again where that helps, with the key put on at the last moment and
masked in whatever comes back."""

from __future__ import annotations

import asyncio
import random
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import UTC, datetime

from tin_bucket.core.auth.exchange import SecretRequest, exchange
from tin_bucket.core.auth.place import Secret
from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.http import origin
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.masking.scrub import longest_trace, scrub
from tin_bucket.core.problem import Problem
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.classify import classify
from tin_bucket.core.response.masked import masked_answer
from tin_bucket.core.response.response import Answer, LargeBody
from tin_bucket.core.response.retry import Pause, pause_before

from .credentials import CredentialStore, OnSignIn
from .http import Fetcher
from .pacer import Lane, Pacer, Waits

# Told of an answer after which the call is made again, and of the pause before that.
Tried = Callable[[Call, Answer, str, Pause], None]
_LONG = 500_000  # Bytes: a longer answer is masked in a thread, so that the interface answers meanwhile.
_LIKELY_CUT = 20_000_000  # Bytes up to which an answer is looked at for a broken end.


@dataclass(frozen=True, slots=True)
class Connections:
    """What every sender needs: connections, keys and the limits' lanes."""

    fetcher: Fetcher
    credentials: CredentialStore
    pacer: Pacer


class Sender:
    """Makes calls to one service with its key."""

    def __init__(
        self,
        connections: Connections,
        service: Service,
        on_sign_in: OnSignIn | None = None,
        tried: Tried | None = None,
        waits: Waits | None = None,
        owner: object = None,
        tries: int | None = None,
    ) -> None:
        """Prepare to send.

        Args:
            on_sign_in: called with each sign-in call that had to be made on the way.
            tried: called with each answer after which the call is made again.
            waits: called when a call has to wait for the limits, and when it waits no more.
            owner: whose calls they are; owners take turns.
            tries: how many times a call is made; as the service says when absent.
        """
        self._connections = connections
        self.service = service
        self._on_sign_in = on_sign_in
        self._tried = tried
        self._waits = waits
        self._owner = owner if owner is not None else self
        self._tries = tries or service.tries

    @property
    def lane(self) -> Lane:
        """The lane to the service."""
        return self._connections.pacer.lane(self.service, self._connections.credentials.version(self.service.id))

    async def send(self, call: Call, spools: bool = False) -> Answer:
        """Make a call. The answer holds the key nowhere, even if the service echoes it.

        Args:
            spools: whether an answer that is too large to hold may come as a file.

        Raises:
            ProblemError: why no call could be made: ``key-missing``, ``key-bound-elsewhere``, ``key-unfit`` and such.
        """
        attempt = 0
        while True:
            attempt += 1
            sent = self.lane.now()
            answer = await self._exchange(call, spools)
            lane = self.lane
            now = lane.now()
            # Where a call is made once, to look, no rule makes it again.
            rules = self.service.again if self._tries > 1 else ()
            pause = pause_before(call, answer, attempt, self._tries, now, random.random(), _cut_off(answer), rules)
            if answer.status == 414:
                lane.refused_as_too_long(len(call.address))
            if pause is None:
                return answer
            if self._tried is not None:
                self._tried(call, answer, _iso(sent), pause)
            if pause.for_all:
                lane.hold(now + pause.seconds, pause.why)
            else:
                await self._rest(lane, pause)

    async def _rest(self, lane: Lane, pause: Pause) -> None:
        if self._waits is not None:
            self._waits((lane.now() + pause.seconds, f"to retry, {pause.why}"))
        try:
            await lane.rest(pause.seconds)
        finally:
            if self._waits is not None:
                self._waits(None)

    async def _exchange(self, call: Call, spools: bool) -> Answer:
        service = self.service
        going = exchange(call, service.key, service.base)
        started = time.perf_counter()
        waited = 0.0
        reply: Secret | Answer | None = None
        try:
            while True:
                step = next(going) if reply is None else going.send(reply)
                if isinstance(step, SecretRequest):
                    reply = await self._connections.credentials.secret(service, step.refused, self._on_sign_in)
                else:
                    before = time.perf_counter()
                    reply = await self._fetch(step, spools)
                    waited += time.perf_counter() - before - reply.seconds
        except StopIteration as done:
            answer = replace(done.value, seconds=time.perf_counter() - started - waited)
        if call.method == "HEAD" and answer.failure is None and answer.status < 400:
            answer = _headers_as_body(answer)
        secrets = self._connections.credentials.to_mask(service.id)
        if answer.length < _LONG:
            return _masked(answer, secrets)
        return await asyncio.to_thread(_masked, answer, secrets)

    async def _fetch(self, call: Call, spools: bool) -> Answer:
        """One call over the network; those to the service's own origin keep to its limits."""
        service, lane = self.service, self.lane
        if origin(call.address) != origin(service.base):
            return await self._connections.fetcher.fetch(call, service.timeout, service.connect)
        await lane.enter(self._owner, self._waits)
        answer: Answer | None = None
        try:
            answer = await self._connections.fetcher.fetch(call, service.timeout, service.connect, spools)
        finally:
            seconds = answer.seconds if answer is not None else 0.0
            refused = answer is not None and (answer.failure is not None or answer.status in (408, 429, 502, 503, 504))
            lane.leave(seconds, answer, refused)
        return answer


def _masked(answer: Answer, secrets: set[str]) -> Answer:
    if not secrets:
        return answer
    if answer.spool is not None and _holds_any(answer.spool, secrets):
        answer.spool.close()
        what = "The answer is too large to hold, and repeats the key, which is kept nowhere."
        return Answer(0, failure=Problem("too-large", what, do="Ask for fewer rows a page."))
    return masked_answer(answer, secrets)


def _holds_any(body: LargeBody, secrets: set[str]) -> bool:
    """Whether a large body holds one of the secrets."""
    tail = b""
    longest = longest_trace(secrets)
    for part in body.parts():
        text = tail + part
        if scrub(text, secrets) != text:  # What would be masked; a secret too short for that may be data.
            return True
        tail = text[-longest:]
    return False


def _cut_off(answer: Answer) -> bool:
    """Whether an answer is JSON that is cut off."""
    tail = answer.body[-64:].rstrip()
    if answer.status != 200 or not tail or len(answer.body) > _LIKELY_CUT or tail.endswith((b"}", b"]")):
        return False
    if answer.body.lstrip()[:1] not in (b"{", b"["):
        return False
    problem = classify(answer).problem
    return problem is not None and problem.kind == "cut-off"


def _iso(seconds: float) -> str:
    return datetime.fromtimestamp(seconds, UTC).isoformat(timespec="milliseconds")


def _headers_as_body(answer: Answer) -> Answer:
    """A HEAD call is answered without a body (RFC 9110 §9.3.2): its headers are what there is to read."""
    body = json_text({"status": answer.status, "headers": answer.headers}).encode()
    return replace(answer, body=body, headers={**answer.headers, "content-type": "application/json"})
