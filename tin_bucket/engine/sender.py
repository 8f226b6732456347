"""Sends a service's calls: puts the key on at the last moment, and blots it out of whatever comes back."""

from __future__ import annotations

from dataclasses import replace

from tin_bucket.core.calls import Call
from tin_bucket.core.problem import fail
from tin_bucket.core.service import Service
from tin_bucket.core.signing import scrub, scrub_text, sign
from tin_bucket.core.verdict import Answer
from tin_bucket.store.vault import OpenKey

from .http import Fetcher


class Sender:
    """Makes calls to one service with its key."""

    def __init__(self, fetcher: Fetcher, service: Service, key: OpenKey | None) -> None:
        """Prepare to send.

        Raises:
            ProblemError: ``key-missing`` when the service wants a key and none is stored.
        """
        if service.key is not None and key is None:
            raise fail(
                "key-missing",
                f"The key “{service.key.name}” of {service.name} is not stored.",
                where=f"service {service.name}",
                do="Put the key in on the page Services and keys, then ask again.",
            )
        self._fetcher = fetcher
        self._service = service
        self._key = key if service.key is not None else None

    async def send(self, call: Call) -> Answer:
        """Make a call. The answer holds the key nowhere, even if the service echoes it.

        Raises:
            ProblemError: ``key-bound-elsewhere`` or ``key-unfit``.
        """
        place = self._service.key
        if place is None or self._key is None:
            return await self._fetcher.fetch(call, self._service.timeout)
        signed = sign(call, place.placement(), self._key.secret, self._key.origin)
        answer = await self._fetcher.fetch(signed, self._service.timeout)
        secret = self._key.secret
        headers = {name: scrub_text(value, secret) for name, value in answer.headers.items()}
        return replace(answer, headers=headers, body=scrub(answer.body, secret))
