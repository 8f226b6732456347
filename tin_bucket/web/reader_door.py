"""Lets readers of live addresses in: by a key of their own, which opens nothing else.

A key goes as a bearer token (RFC 6750 §2.1), as the password of any user (RFC 7617), or, for programs that can do
neither, in the address as ``key``. That is weaker: addresses are noted in histories and bookmarks.
"""

from __future__ import annotations

import asyncio
import base64
import binascii
from collections.abc import Callable
from datetime import datetime
from urllib.parse import parse_qsl, quote, urlencode

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Receive, Scope, Send

from tin_bucket.core.problem import Problem
from tin_bucket.store.readers import Reader, Readers

from .problems import respond

PATHS = ("/tables/", "/odata/")
KEY = "key"


def is_live(path: str) -> bool:
    """Whether an address is for readers."""
    return path.startswith(PATHS) or path == "/odata"


class ReaderDoor:
    """Passes requests of readers on; a key that stood in the address is taken out of it."""

    def __init__(self, app: ASGIApp, readers: Readers, now: Callable[[], datetime]) -> None:
        self._app, self._readers, self._now = app, readers, now

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, or ask for a key."""
        key, rest, in_address = _key_of(scope)
        reader: Reader | None = None
        if key:
            reader = await asyncio.to_thread(self._readers.opens, key, self._now())
            if reader is not None and reader.report_id is not None:
                reader = None  # It reads a report, and nothing else.
        if reader is None:
            what = "This key opens no table: it is unknown, or was revoked." if key else "A reader’s key is missing."
            do = "Make a key on the page Feeds, and send it as a bearer token, or as the password of any user."
            answer = respond(Problem("reader-key", what, "this address", do), 401)
            answer.headers.append("WWW-Authenticate", 'Basic realm="Tin Bucket tables", charset="UTF-8"')
            answer.headers.append("WWW-Authenticate", 'Bearer realm="Tin Bucket tables"')
            answer.headers["Cache-Control"] = "no-store"
            await answer(scope, receive, send)
            return
        # Links to further pages go with the key where the address has to carry it.
        carried = f"{KEY}={quote(key)}" if in_address else ""
        inner = {**scope, "query_string": rest, "reader": reader, "reader_key": carried}
        await self._app(inner, receive, send)


def _key_of(scope: Scope) -> tuple[str, bytes, bool]:
    """The key, the query of the address without it, and whether it stood there."""
    query: bytes = scope["query_string"]
    scheme, _, given = Headers(scope=scope).get("authorization", "").partition(" ")
    if scheme.lower() == "bearer":
        return given.strip(), query, False
    if scheme.lower() == "basic":
        try:
            decoded = base64.b64decode(given.strip(), validate=True).decode("utf-8", "replace")
        except (binascii.Error, ValueError):
            return "", query, False
        return decoded.partition(":")[2], query, False
    pairs = parse_qsl(query.decode("utf-8", "replace"), keep_blank_values=True)
    key = next((value for name, value in pairs if name == KEY), "")
    if not key:
        return "", query, False
    rest = urlencode([(name, value) for name, value in pairs if name != KEY], safe="$,()'/:@")
    return key, rest.encode(), True
