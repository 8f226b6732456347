"""What the simulated services have in common: the simulated day, the docs page, how they say an error."""

from __future__ import annotations

import asyncio
import hashlib
import json
from collections.abc import Awaitable, Callable
from datetime import date, timedelta
from html import escape
from importlib import resources
from typing import Any

from aiohttp import web

Handler = Callable[[web.Request], Awaitable[web.StreamResponse]]


class Calendar:
    """The simulated day, which the services of one company share."""

    def __init__(self, today: date) -> None:
        self.today = today


class Simulated:
    """A simulated service. `calls` counts what was asked of its data, `pause` is how many seconds an answer takes.

    With `versioned` its answers have an ETag, and what a caller has already is answered 304 (RFC 9110 §13).
    """

    name = ""
    page = ""
    versioned = False

    def __init__(self, today: date | Calendar, pause: float = 0.0) -> None:
        """
        Args:
            today: the simulated day, or the calendar that is shared with other services.
            pause: seconds that each answer takes, to be like a service that is far away.
        """
        self.calendar = today if isinstance(today, Calendar) else Calendar(today)
        self.pause = pause
        self.calls = 0

    @property
    def today(self) -> date:
        """The simulated day."""
        return self.calendar.today

    @today.setter
    def today(self, day: date) -> None:
        self.calendar.today = day

    def routes(self) -> list[web.RouteDef]:
        """What it answers, besides its docs page and its simulated day."""
        raise NotImplementedError

    def is_open(self, request: web.Request) -> bool:
        """Whether an address needs no key."""
        return request.path == "/" or request.path.startswith("/simulation/")

    def refusal(self, request: web.Request) -> web.Response | None:
        """Why a call is not let in, or ``None``. Called before each call of an address that wants a key."""
        raise NotImplementedError

    def docs(self, base: str) -> dict[str, str]:
        """What stands in the places of its docs page; each is HTML."""
        raise NotImplementedError

    def app(self) -> web.Application:
        """The service as a web application."""
        app = web.Application(middlewares=[self._guard])
        own = [
            web.get("/", self._docs),
            web.get("/simulation/day", self._day),
            web.post("/simulation/day", self._move),
        ]
        app.add_routes([*own, *self.routes()])
        return app

    @web.middleware
    async def _guard(self, request: web.Request, handler: Handler) -> web.StreamResponse:
        if not self.is_open(request):
            self.calls += 1
            if self.pause:
                await asyncio.sleep(self.pause)
            refused = self.refusal(request)
            if refused is not None:
                return refused
        try:
            answer = await handler(request)
            return _version(request, answer) if self.versioned and not self.is_open(request) else answer
        except web.HTTPNotFound:
            return self.error(404, "no_such_address", f"There is nothing at {request.path}.")
        except web.HTTPMethodNotAllowed as wrong:
            allowed = ", ".join(sorted(wrong.allowed_methods))
            return self.error(405, "method", f"{request.path} takes {allowed}.")
        except ValueError as wrong:
            return self.error(422, "bad_value", str(wrong))

    def error(self, status: int, code: str, message: str) -> web.Response:
        """An error in this service's own shape."""
        return web.json_response({"error": {"code": code, "message": message}}, status=status)

    async def _docs(self, request: web.Request) -> web.Response:
        if "text/html" not in request.headers.get("Accept", ""):
            return web.json_response({"service": self.name, "docs": "open this address in a browser"})
        folder = resources.files("tin_bucket.demo").joinpath("docs")
        page = folder.joinpath("page.html").read_text().replace("%BODY%", folder.joinpath(self.page).read_text())
        base = f"http://{request.host}"
        common = {"NAME": escape(self.name), "DAY": self.today.strftime("%A %d %B %Y"), "BASE": base}
        for name, value in {**common, **self.docs(base)}.items():
            page = page.replace(f"%{name}%", value)
        return web.Response(text=page, content_type="text/html")

    async def _day(self, request: web.Request) -> web.Response:
        return web.json_response({"day": self.today.isoformat()})

    async def _move(self, request: web.Request) -> web.Response:
        """Move the simulated day; the docs page has a button for it."""
        raw = await request.read()
        try:
            days = int(json.loads(raw).get("days", 1)) if raw.startswith(b"{") else 1
        except (ValueError, AttributeError, TypeError):
            return self.error(422, "bad_value", "days is a whole number.")
        if not -400 <= days <= 400:
            return self.error(422, "bad_value", "days lies between -400 and 400.")
        self.today += timedelta(days=days)
        if request.content_type == "application/x-www-form-urlencoded":
            raise web.HTTPSeeOther("/")
        return web.json_response({"day": self.today.isoformat()})


def _version(request: web.Request, answer: web.StreamResponse) -> web.StreamResponse:
    """The answer with its ETag, or 304 where the caller has it."""
    if not isinstance(answer, web.Response) or answer.status != 200 or not isinstance(answer.body, bytes):
        return answer
    tag = hashlib.blake2b(answer.body, digest_size=8).hexdigest()
    answer.etag = tag
    if request.method != "GET" or tag not in {one.value for one in request.if_none_match or ()}:
        return answer
    return web.Response(status=304, headers={"ETag": answer.headers["ETag"]})


def dumps(value: Any) -> str:
    """JSON as these services write it."""
    return json.dumps(value, ensure_ascii=False, separators=(",", ":"))


def day_of(text: str, name: str) -> date:
    """A day that was asked for.

    Raises:
        ValueError: it is none, in words.
    """
    try:
        return date.fromisoformat(text)
    except ValueError as error:
        raise ValueError(f"{name} is wanted, as YYYY-MM-DD.") from error


def whole_of(text: str, name: str) -> int:
    """A whole number from 1 that was asked for.

    Raises:
        ValueError: it is none, in words.
    """
    if not text.isdigit() or int(text) < 1:
        raise ValueError(f"{name} is a whole number from 1.")
    return int(text)


def route_rows(routes: Any) -> str:
    """The table of routes of a docs page."""
    return "".join(f"<tr><td><code>{route.code}</code></td><td>{escape(route.name)}</td></tr>" for route in routes)
