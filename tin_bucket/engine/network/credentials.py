"""Keeps the credentials of calls: opens stored keys, gets tokens once for all runs, waits for a new key."""

from __future__ import annotations

import asyncio
from collections.abc import Callable
from datetime import datetime, timedelta

from tin_bucket.core.auth.place import Secret
from tin_bucket.core.auth.sign import check_bound
from tin_bucket.core.auth.tokens import Token, get_token, sign_in_shown, stated_end
from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.durations import parse_duration
from tin_bucket.core.masking.looks import hidden
from tin_bucket.core.problem import fail
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.masked import masked_answer
from tin_bucket.core.response.response import Answer
from tin_bucket.engine.clock import Clock
from tin_bucket.store.vault import OpenKey
from tin_bucket.store.workspace import Workspace

from .http import Fetcher

OnSignIn = Callable[[Call, Answer, str], None]


class CredentialStore:
    """The secrets of one engine, in memory."""

    def __init__(self, workspace: Workspace, clock: Clock, fetcher: Fetcher) -> None:
        self._workspace = workspace
        self._clock = clock
        self._fetcher = fetcher
        self._opened: dict[str, OpenKey] = {}
        self._tokens: dict[str, Token] = {}
        self._locks: dict[str, asyncio.Lock] = {}
        self._changed: dict[str, asyncio.Event] = {}
        self._seen: dict[str, set[str]] = {}
        self._versions: dict[str, int] = {}

    async def secret(
        self, service: Service, refused: Secret | None = None, on_sign_in: OnSignIn | None = None
    ) -> Secret:
        """The credentials of a call to a service.

        Args:
            refused: a token that the service did not take; another one is got, unless another run has done so already.
            on_sign_in: called with a sign-in call that had to be made, its answer, and when it was sent.

        Raises:
            ProblemError: ``key-missing``, ``token-wanted``, ``key-bound-elsewhere``, ``vault-closed``, or why signing
                in failed.
        """
        key = service.key
        assert key is not None
        if key.source.stored:
            return await self._open(service)
        async with self._locks.setdefault(service.id, asyncio.Lock()):
            token = self._tokens.get(service.id)
            tried = refused is not None and token is not None and token.text == refused.get("key")
            if token is not None and token.fresh(self._clock.now()) and not tried:
                return {"key": token.text}
            if key.source.pasted:
                self._tokens.pop(service.id, None)
                raise fail(
                    "token-wanted",
                    f"{service.name} needs a fresh token for “{key.name}”.",
                    where=f"service {service.name}",
                    do="Paste a token; it is kept in memory until it ends.",
                )
            version = self.version(service.id)
            token = await self._sign_in(service, await self._open(service), on_sign_in)
            if self.version(service.id) == version:
                self._tokens[service.id] = token
            self._note(service.id, {"key": token.text})
            return {"key": token.text}

    async def _open(self, service: Service) -> Secret:
        opened = self._opened.get(service.id)
        while opened is None:
            version = self.version(service.id)
            opened = await asyncio.to_thread(self._workspace.vault.open, service.id)
            if version == self.version(service.id):
                break
            # It was replaced while it was being opened: the old one would be used from now on.
            opened = None
        key = service.key
        assert key is not None
        missing = opened is None or not set(key.required_fields()) <= set(opened.secret)
        if opened is None or missing:
            raise fail(
                "key-missing",
                f"The key “{key.name}” of {service.name} is not stored.",
                where=f"service {service.name}",
                do="Enter the key on the page Services and keys, then try again.",
            )
        check_bound(key, service.base, opened.origin)
        self._opened[service.id] = opened
        self._note(service.id, opened.secret)
        return opened.secret

    async def _sign_in(self, service: Service, secret: Secret, on_sign_in: OnSignIn | None) -> Token:
        key = service.key
        assert key is not None
        getting = get_token(key, service.base, secret, self._clock.now())
        call = next(getting)
        sent = self._clock.now().isoformat(timespec="milliseconds")
        answer = await self._fetcher.fetch(call, service.timeout, service.connect)
        secrets = hidden(secret)
        try:
            getting.send(answer)
        except StopIteration as done:
            token: Token = done.value
            secrets.append(token.text)
            return token
        finally:
            if on_sign_in is not None:
                on_sign_in(sign_in_shown(key, service.base), masked_answer(answer, secrets), sent)
        raise AssertionError("a sign-in makes one call")

    def _note(self, service_id: str, secret: Secret) -> None:
        """Remember what must be masked in answers, old tokens too: a late answer may echo one."""
        known = self._seen.setdefault(service_id, set())
        known.update(hidden(secret))

    def to_mask(self, service_id: str) -> set[str]:
        """Every secret of a service that was sent since the program began."""
        return set(self._seen.get(service_id, ()))  # A copy, for other threads.

    # The life of a key -----------------------------------------------------------------------------------------

    def take_token(self, service: Service, text: str) -> datetime:
        """Take a token that was pasted; returns its end.

        Raises:
            ProblemError: ``key-empty``, or ``token-ended``.
        """
        text = text.strip()
        if not text:
            raise fail("key-empty", "The token is empty.", where=f"key of {service.name}", do="Paste the token.")
        assert service.key is not None
        now = self._clock.now()
        source = service.key.source
        span = parse_duration(source.life_when_unknown or "PT1H")
        ends = stated_end(text) or now + timedelta(days=span.days + 30 * span.months, seconds=span.seconds)
        if ends <= now:
            raise fail(
                "token-ended",
                f"This token ended on {ends:%d %B %Y at %H:%M} UTC.",
                where=f"key of {service.name}",
                do="Paste a fresh one.",
            )
        self._tokens[service.id] = Token(text, ends)
        self._note(service.id, {"key": text})
        self.tell(service.id, keep_token=True)
        return ends

    def token_ends(self, service_id: str) -> datetime | None:
        """When the token in memory ends; ``None`` when there is none, or it has no end."""
        token = self._tokens.get(service_id)
        return token.ends if token is not None else None

    def has_token(self, service_id: str) -> bool:
        """Whether a token that is still good is in memory."""
        token = self._tokens.get(service_id)
        return token is not None and token.fresh(self._clock.now())

    def tell(self, service_id: str, *, keep_token: bool = False) -> None:
        """A key or its service was changed: forget what was opened, and wake the runs that wait for it."""
        self._versions[service_id] = self.version(service_id) + 1
        self._opened.pop(service_id, None)
        if not keep_token:
            self._tokens.pop(service_id, None)
        event = self._changed.pop(service_id, None)
        if event is not None:
            event.set()

    def used(self, service_id: str) -> None:
        """Note that a key was used just now."""
        self._workspace.vault.used(service_id, self._clock.now())

    def reopen(self, service_id: str) -> None:
        """Open the stored key again at its next use: another program may have replaced it."""
        self._opened.pop(service_id, None)

    def version(self, service_id: str) -> int:
        """How often a service's key was changed since the program began."""
        return self._versions.get(service_id, 0)

    async def changed(self, service_id: str, since: int) -> None:
        """Wait until a service's key is of another version than `since`."""
        while self.version(service_id) == since:
            await self._changed.setdefault(service_id, asyncio.Event()).wait()
