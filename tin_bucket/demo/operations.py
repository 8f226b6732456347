"""The operations service of Skerrywick Ferries: a simulated web API on loopback, over real HTTP (aiohttp)."""

from __future__ import annotations

import asyncio
import hmac
import json
import threading
from collections.abc import Awaitable, Callable
from datetime import date, timedelta
from importlib import resources
from typing import Any

from aiohttp import web

from . import timetable

KEY_HEADER = "X-Skerrywick-Key"
KEY = "skw-demo-4b7e21f09c5d"
MOST_PER_PAGE = 100


class Operations:
    """The service. `today` is the simulated day; `calls` counts what was asked of its data."""

    def __init__(self, today: date, pause: float = 0.0, key: str = KEY) -> None:
        """
        Args:
            today: the simulated day.
            pause: seconds that each answer takes, to be like a service that is far away.
            key: the key that it accepts.
        """
        self.today = today
        self.pause = pause
        self.key = key
        self.calls = 0

    def app(self) -> web.Application:
        """The service as a web application."""
        app = web.Application(middlewares=[self._wants_key])
        app.add_routes(
            [
                web.get("/", self._docs),
                web.get("/simulation/day", self._day),
                web.post("/simulation/day", self._move),
                web.get("/sailings", self._sailings),
                web.get("/ports", self._ports),
                web.get("/ports/{code}", self._port),
                web.get("/vessels", self._vessels),
            ]
        )
        return app

    @web.middleware
    async def _wants_key(
        self, request: web.Request, handler: Callable[[web.Request], Awaitable[web.StreamResponse]]
    ) -> web.StreamResponse:
        if request.path == "/" or request.path.startswith("/simulation/"):
            return await handler(request)
        self.calls += 1
        if self.pause:
            await asyncio.sleep(self.pause)
        given = request.headers.get(KEY_HEADER, "")
        if not given:
            return _error(401, "no_key", f"Send your key in the header {KEY_HEADER}.")
        if not hmac.compare_digest(given.encode(), self.key.encode()):
            return _error(401, "bad_key", "This key is not known here, or has been withdrawn.")
        try:
            return await handler(request)
        except web.HTTPNotFound:
            return _error(404, "no_such_address", f"There is nothing at {request.path}.")

    async def _docs(self, request: web.Request) -> web.Response:
        if "text/html" not in request.headers.get("Accept", ""):
            return web.json_response({"service": "Skerrywick Operations", "docs": "open this address in a browser"})
        page = resources.files("tin_bucket.demo").joinpath("operations.html").read_text()
        values = {
            "DAY": self.today.strftime("%A %d %B %Y"),
            "BASE": f"http://{request.host}",
            "HEADER": KEY_HEADER,
            "KEY": self.key,
            "FROM": (self.today - timedelta(days=7)).isoformat(),
            "TO": (self.today + timedelta(days=7)).isoformat(),
            "ROUTES": "".join(f"<tr><td><code>{r.code}</code></td><td>{r.name}</td></tr>" for r in timetable.ROUTES),
        }
        for name, value in values.items():
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
            return _error(422, "bad_value", "days is a whole number.")
        if not -400 <= days <= 400:
            return _error(422, "bad_value", "days lies between -400 and 400.")
        self.today += timedelta(days=days)
        if request.content_type == "application/x-www-form-urlencoded":
            raise web.HTTPSeeOther("/")
        return web.json_response({"day": self.today.isoformat()})

    async def _sailings(self, request: web.Request) -> web.Response:
        try:
            start, end = (_date(request, name) for name in ("from", "to"))
            page, size = _whole(request, "page", 1), min(_whole(request, "per_page", 25), MOST_PER_PAGE)
        except ValueError as error:
            return _error(422, "bad_value", str(error))
        route = request.query.get("route") or "all"
        if route != "all" and route not in {known.code for known in timetable.ROUTES}:
            return _error(422, "bad_value", f"route '{route}' is not one of ours; see the table of routes.")
        if end < start or (end - start).days > 62:
            return _error(422, "bad_value", "to lies on or after from, and at most 62 days after it.")
        found = timetable.sailings(self.today, start, end, None if route == "all" else route)
        status = request.query.get("status") or "any"
        if status != "any":
            found = [sailing for sailing in found if sailing["status"] == status]
        pages = max(1, -(-len(found) // size))
        return web.json_response(
            {
                "meta": {"page": page, "per_page": size, "total_pages": pages, "total": len(found)},
                "data": found[(page - 1) * size : page * size],
            },
            dumps=_dumps,
        )

    async def _ports(self, request: web.Request) -> web.Response:
        data = [timetable.port(code) for code in timetable.PORTS]
        return web.json_response({"meta": {"total": len(data)}, "data": data}, dumps=_dumps)

    async def _port(self, request: web.Request) -> web.Response:
        found = timetable.port(request.match_info["code"])
        if found is None:
            return _error(404, "no_such_port", f"The register has no port {request.match_info['code']}.")
        return web.json_response(found, dumps=_dumps)

    async def _vessels(self, request: web.Request) -> web.Response:
        return web.json_response({"data": timetable.vessels(self.today)}, dumps=_dumps)


def _dumps(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, separators=(",", ":"))


def _error(status: int, code: str, message: str) -> web.Response:
    return web.json_response({"error": {"code": code, "message": message}}, status=status)


def _date(request: web.Request, name: str) -> date:
    try:
        return date.fromisoformat(request.query.get(name, ""))
    except ValueError as error:
        raise ValueError(f"{name} is wanted, as YYYY-MM-DD.") from error


def _whole(request: web.Request, name: str, default: int) -> int:
    text = request.query.get(name, str(default))
    if not text.isdigit() or int(text) < 1:
        raise ValueError(f"{name} is a whole number from 1.")
    return int(text)


class Running:
    """A web application that runs in a thread of its own, on loopback. Use it as a context."""

    def __init__(self, app: web.Application, port: int = 0) -> None:
        """Prepare to serve; port 0 takes any free one."""
        self._app = app
        self.port = port
        self._loop = asyncio.new_event_loop()
        self._ready = threading.Event()
        self._error: OSError | None = None
        self._thread = threading.Thread(target=self._run, daemon=True)

    @property
    def base(self) -> str:
        """The address that it serves."""
        return f"http://127.0.0.1:{self.port}"

    def __enter__(self) -> Running:
        self._thread.start()
        self._ready.wait()
        if self._error is not None:
            raise self._error
        return self

    def __exit__(self, *_: object) -> None:
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(timeout=10)

    def _run(self) -> None:
        asyncio.set_event_loop(self._loop)
        runner = web.AppRunner(self._app, access_log=None, shutdown_timeout=0.2)
        try:
            self._loop.run_until_complete(runner.setup())
            site = web.TCPSite(runner, "127.0.0.1", self.port)
            self._loop.run_until_complete(site.start())
            server = site._server
            assert server is not None
            self.port = server.sockets[0].getsockname()[1]  # type: ignore[attr-defined]
        except OSError as error:
            self._error = error
            self._ready.set()
            return
        self._ready.set()
        self._loop.run_forever()
        self._loop.run_until_complete(runner.cleanup())
        self._loop.close()
