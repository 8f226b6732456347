"""Lets in whoever has the workspace's access token: other accounts of this machine reach the port too."""

from __future__ import annotations

import html
from collections.abc import Callable
from datetime import datetime
from importlib import resources
from urllib.parse import parse_qs, urlsplit

from starlette.datastructures import Headers
from starlette.requests import cookie_parser
from starlette.responses import HTMLResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Receive, Scope, Send

from tin_bucket.core.problem import Problem
from tin_bucket.store.access import Access
from tin_bucket.store.readers import Readers

from .problems import respond
from .reader_door import ReaderDoor, is_live
from .report_door import ReportDoor, is_report

# Browsers keep a cookie 400 days at most, counted from its last renewal (RFC 6265bis §5.5).
_KEPT = 400 * 24 * 3600
_LOCKED = "This browser has no access to the workspace yet."
_WRONG = "This is not the workspace's access token, or it was replaced by a newer one."


class Door:
    """Admits requests with the workspace's cookie, or with its token as a bearer token (RFC 6750 §2.1). The token in
    the printed address gives the cookie and is taken out of the address at once."""

    def __init__(self, app: ASGIApp, access: Access, readers: Readers, now: Callable[[], datetime]) -> None:
        self._app = app
        self._access = access
        self._readers = ReaderDoor(app, readers, now)
        self._reports = ReportDoor(app, readers, now)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, or say what is missing."""
        if scope["type"] == "lifespan":
            await self._app(scope, receive, send)
            return
        if is_live(scope["path"]):
            await self._readers(scope, receive, send)
            return
        if is_report(scope["path"]):
            await self._reports(scope, receive, send)
            return
        given = _token_in(scope)
        if given is not None:
            answer = self._with_cookie(given)
        elif self._admitted(Headers(scope=scope)):
            await self._app(scope, receive, send)
            return
        else:
            answer = _refused(scope)
        await answer(scope, receive, send)

    def _admitted(self, headers: Headers) -> bool:
        scheme, _, bearer = headers.get("authorization", "").partition(" ")
        if scheme.lower() == "bearer":
            return self._access.opens(bearer.strip())
        return self._access.admits(cookie_parser(headers.get("cookie", "")))

    def _with_cookie(self, token: str) -> Response:
        if not self._access.opens(token):
            return _page(_WRONG)
        answer = RedirectResponse("/", 303)
        name, value = self._access.cookie()
        # Lax, not strict: a click on the address in a mail or a note is a visit from elsewhere.
        answer.set_cookie(name, value, max_age=_KEPT, httponly=True, samesite="lax")
        return _uncached(answer)


def _token_in(scope: Scope) -> str | None:
    """The token in the address of the page: alone, or the whole printed address as somebody pasted it."""
    if scope["path"] != "/":
        return None
    try:
        query: str = scope["query_string"].decode("ascii", "replace")
        given = parse_qs(query).get("access")
        if given is None:
            return None
        text = given[-1].strip()
        within = parse_qs(urlsplit(text).query).get("access")
    except ValueError:
        return ""
    return text if within is None else within[-1]


def _refused(scope: Scope) -> Response:
    if scope["path"] == "/":
        return _page(_LOCKED)
    do = "Open the address that Tin Bucket printed when it started, or that “tin-bucket address” prints."
    answer = respond(Problem("access-missing", _LOCKED, "this browser", do), 401)
    answer.headers["WWW-Authenticate"] = 'Bearer realm="Tin Bucket"'
    return _uncached(answer)


def _page(what: str) -> Response:
    text = resources.files("tin_bucket.web").joinpath("door.html").read_text(encoding="utf-8")
    return _uncached(HTMLResponse(text.replace("{what}", html.escape(what)), 401))


def _uncached(answer: Response) -> Response:
    answer.headers["Cache-Control"] = "no-store"
    return answer
