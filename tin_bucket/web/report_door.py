"""Lets the readers of a report in: by a key of its own, which opens nothing else.

A key goes as a bearer token (RFC 6750 §2.1), or is typed into the page that asks for it. The address that is sent to
readers carries it behind ``#``: that part is never sent to a server and stands in none of its logs (RFC 3986 §3.5). The
page takes it from there, out of the address too, and gets a cookie that holds for this one report.
"""

from __future__ import annotations

import asyncio
import base64
import hashlib
import html
from collections.abc import Callable
from datetime import datetime
from importlib import resources
from urllib.parse import parse_qs

from starlette.datastructures import Headers
from starlette.requests import Request, cookie_parser
from starlette.responses import HTMLResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Receive, Scope, Send

from tin_bucket.store.readers import Reader, Readers

PATH = "/reports/"
COOKIE = "tin-bucket-report"
_KEPT = 400 * 24 * 3600
_MOST = 4_000  # Bytes of what is typed.
_ASKED = "This report is read with a key."
_WRONG = "This key does not open this report: it is another one's, or was revoked."


def is_report(path: str) -> bool:
    """Whether an address is of a report for readers."""
    return path.startswith(PATH)


class ReportDoor:
    """Passes requests of a report's readers on; whose report it is, the route checks."""

    def __init__(self, app: ASGIApp, readers: Readers, now: Callable[[], datetime]) -> None:
        self._app, self._readers, self._now = app, readers, now

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, or ask for a key."""
        path: str = scope["path"]
        if scope["method"] == "POST":
            answer = await self._enter(Request(scope, receive), path)
            await answer(scope, receive, send)
            return
        headers = Headers(scope=scope)
        scheme, _, bearer = headers.get("authorization", "").partition(" ")
        key = bearer.strip() if scheme.lower() == "bearer" else ""
        key = key or cookie_parser(headers.get("cookie", "")).get(COOKIE, "")
        reader = await self._reader(key)
        if reader is None:
            await asked(_WRONG if key else _ASKED)(scope, receive, send)
            return
        await self._app({**scope, "reader": reader}, receive, send)

    async def _reader(self, key: str) -> Reader | None:
        if not key:
            return None
        reader = await asyncio.to_thread(self._readers.opens, key, self._now())
        return reader if reader is not None and reader.report_id is not None else None

    async def _enter(self, request: Request, path: str) -> Response:
        """The key that somebody typed, or that stood behind the address."""
        body = b""
        async for part in request.stream():
            body += part
            if len(body) > _MOST:
                return asked(_WRONG)
        key = parse_qs(body.decode("utf-8", "replace")).get("key", [""])[-1].strip()
        if await self._reader(key) is None:
            return asked(_WRONG)
        answer = RedirectResponse(path, 303)
        answer.set_cookie(COOKIE, key, max_age=_KEPT, path=path, httponly=True, samesite="lax")
        return private(answer)


def asked(what: str) -> Response:
    """The page that asks for a key."""
    text = resources.files("tin_bucket.web").joinpath("report_door.html").read_text(encoding="utf-8")
    script = text.partition("<script>")[2].partition("</script>")[0]
    digest = base64.b64encode(hashlib.sha256(script.encode()).digest()).decode()
    policy = (
        f"default-src 'none'; style-src 'unsafe-inline'; img-src data:; script-src 'sha256-{digest}'; base-uri 'none';"
        " form-action 'self'; frame-ancestors 'none'"
    )
    page = text.replace("{what}", html.escape(what))
    # The page sends the key to itself, which is told by its origin.
    return private(HTMLResponse(page, 401, {"Content-Security-Policy": policy}), referrer="same-origin")


def wrong() -> Response:
    """The page that asks for another key."""
    return asked(_WRONG)


def private(answer: Response, referrer: str = "no-referrer") -> Response:
    """An answer that no cache keeps, and that sends no address on to others."""
    answer.headers["Cache-Control"] = "no-store"
    answer.headers["Referrer-Policy"] = referrer
    return answer
