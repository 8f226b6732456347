"""Sends a service's calls: puts the key on at the last moment, and blots it out of whatever comes back."""

from __future__ import annotations

import time
from dataclasses import replace

from tin_bucket.core.calls import Call
from tin_bucket.core.exchange import Wanted, exchange
from tin_bucket.core.json_text import json_text
from tin_bucket.core.secrets import scrub, scrub_text
from tin_bucket.core.service import Service
from tin_bucket.core.signing import Secret
from tin_bucket.core.verdict import Answer

from .http import Fetcher
from .keeper import Keeper, Told


class Sender:
    """Makes calls to one service with its key."""

    def __init__(self, fetcher: Fetcher, keeper: Keeper, service: Service, told: Told | None = None) -> None:
        """Prepare to send.

        Args:
            told: called with each sign-in call that had to be made on the way.
        """
        self._fetcher = fetcher
        self._keeper = keeper
        self.service = service
        self._told = told

    async def send(self, call: Call) -> Answer:
        """Make a call. The answer holds the key nowhere, even if the service echoes it.

        Raises:
            ProblemError: why no call could be made: ``key-missing``, ``key-bound-elsewhere``, ``key-unfit`` and such.
        """
        service = self.service
        going = exchange(call, service.key, service.base)
        started = time.perf_counter()
        reply: Secret | Answer | None = None
        try:
            while True:
                step = next(going) if reply is None else going.send(reply)
                if isinstance(step, Wanted):
                    reply = await self._keeper.secret(service, step.refused, self._told)
                else:
                    reply = await self._fetcher.fetch(step, service.timeout, service.connect)
        except StopIteration as done:
            answer = replace(done.value, seconds=time.perf_counter() - started)
        if call.method == "HEAD" and answer.failure is None and answer.status < 400:
            answer = _headers_as_body(answer)
        return self._blotted(answer)

    def _blotted(self, answer: Answer) -> Answer:
        secrets = self._keeper.to_blot(self.service.id)
        if not secrets:
            return answer
        headers = {name: scrub_text(value, secrets) for name, value in answer.headers.items()}
        return replace(answer, headers=headers, body=scrub(answer.body, secrets))


def _headers_as_body(answer: Answer) -> Answer:
    """A HEAD call is answered without a body (RFC 9110 §9.3.2): its headers are what there is to read."""
    body = json_text({"status": answer.status, "headers": answer.headers}).encode()
    return replace(answer, body=body, headers={**answer.headers, "content-type": "application/json"})
