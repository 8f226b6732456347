"""A service that misbehaves in every way that is known of APIs, each at an address of its own."""

from __future__ import annotations

import asyncio
import gzip
import json
import time
import zlib
from collections import Counter
from collections.abc import Awaitable, Callable
from datetime import UTC, date, datetime, timedelta
from email.utils import format_datetime
from html import escape
from typing import Any

from aiohttp import web

from .echoes import ECHOES, log_in
from .quiet import QUIET
from .simulated import Calendar, Simulated

ROWS = 118
_PAGE = 25
Way = Callable[["Awkward", web.Request, int], Awaitable[web.StreamResponse]]
WAYS: dict[str, tuple[str, Way]] = {**ECHOES, **QUIET}


def _way(name: str, words: str) -> Callable[[Way], Way]:
    def keep(handler: Way) -> Way:
        WAYS[name] = (words, handler)
        return handler

    return keep


class Awkward(Simulated):
    """The service. It wants no key; `asked` counts the calls of each way."""

    name = "Skerrywick Awkward"
    page = "awkward.html"

    def __init__(self, today: date | Calendar, pause: float = 0.0) -> None:
        super().__init__(today, pause)
        self.asked: Counter[str] = Counter()

    def routes(self) -> list[web.RouteDef]:
        """What it answers."""
        return [
            web.get("/ways/{way}", self._answer),
            web.post("/ways/{way}", self._answer),
            web.get("/keyed/{key}/ways/{way}", self._answer),
            web.get("/signin", self._sign_in),
            web.route("*", "/login", log_in),
        ]

    def refusal(self, request: web.Request) -> web.Response | None:
        """No key is wanted."""
        return None

    async def _answer(self, request: web.Request) -> web.StreamResponse:
        name = request.match_info["way"]
        if name not in WAYS:
            return self.error(404, "no_such_way", f"There is no way “{name}”; the docs page has them all.")
        self.asked[name] += 1
        return await WAYS[name][1](self, request, self.asked[name])

    async def _sign_in(self, request: web.Request) -> web.Response:
        page = "<!doctype html><html><head><title>Sign in to Skerrywick</title></head><body>Who are you?</body></html>"
        return web.Response(text=page, content_type="text/html")

    def docs(self, base: str) -> dict[str, str]:
        """The places of its docs page."""
        rows = "".join(
            f"<tr><td><code>{name}</code></td><td>{escape(words)}</td></tr>" for name, (words, _) in WAYS.items()
        )
        return {
            "INTRO": "For trying out what happens when an API misbehaves. Everything here is made up.",
            "DAYWORDS": "It matters little here.",
            "WAYS": rows,
        }


def _row(number: int) -> dict[str, Any]:
    return {"id": number, "name": f"crate {number}", "weight": number * 3 % 41}


def _rows(request: web.Request, rows: int = ROWS) -> tuple[int, list[dict[str, Any]]]:
    page = int(request.query.get("page", "1"))
    return page, [_row(number) for number in range((page - 1) * _PAGE, min(page * _PAGE, rows))]


def _json(document: Any, status: int = 200, **options: Any) -> web.Response:
    return web.json_response(document, status=status, **options)


def _fine() -> dict[str, Any]:
    return {"rows": [_row(0), _row(1)]}


@_way("well", "118 rows in pages of 25, as it should be")
async def _well(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    page, rows = _rows(request)
    return _json({"page": page, "pages": -(-ROWS // _PAGE), "total": ROWS, "rows": rows})


@_way("lies-about-total", "it states 130 rows and has 118")
async def _lies(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    page, rows = _rows(request)
    return _json({"page": page, "pages": -(-ROWS // _PAGE), "total": 130, "rows": rows})


@_way("rows-move", "a row is put in at the front after each page")
async def _rows_move(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    page = int(request.query.get("page", "1"))
    new = page - 1
    everything = [_row(number) for number in range(-new, ROWS)]
    total = len(everything)
    return _json({"page": page, "total": total, "rows": everything[(page - 1) * _PAGE : page * _PAGE]})


@_way("repeats-cursor", "its cursor leads back to the page before")
async def _repeats_cursor(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    at = int(request.query.get("cursor", "0"))
    rows = [_row(number) for number in range(at, at + _PAGE)]
    return _json({"rows": rows, "next_cursor": str(at + _PAGE if at < 2 * _PAGE else _PAGE)})


@_way("repeats-page", "it takes no notice of the page that is asked for")
async def _repeats_page(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    return _json({"total": ROWS, "rows": [_row(number) for number in range(_PAGE)]})


@_way("caps-size", "it gives 25 rows however many are asked for, and states no total")
async def _caps(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    offset = int(request.query.get("offset", "0"))
    return _json({"rows": [_row(number) for number in range(offset, min(offset + _PAGE, ROWS))]})


@_way("one-page-fails", "page 3 fails with status 501 until it was asked for three times")
async def _one_page(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    page, rows = _rows(request)
    if page == 3:
        service.asked["page 3"] += 1
        if service.asked["page 3"] < 3:
            return _json({"message": "the crane is stuck"}, 501)
    return _json({"page": page, "pages": -(-ROWS // _PAGE), "total": ROWS, "rows": rows})


@_way("busy-first", "the first two calls are answered with 503")
async def _busy(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    return _json({"message": "all hands at lunch"}, 503) if times <= 2 else _json(_fine())


@_way("too-many-seconds", "every other call: 429, and Retry-After in seconds")
async def _many(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    if times % 2:
        return _json({"message": "not so fast"}, 429, headers={"Retry-After": "1"})
    return _json(_fine())


@_way("too-many-date", "every other call: 429, and Retry-After as a date")
async def _many_date(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    if times % 2:
        until = datetime.now(UTC) + timedelta(seconds=2)
        return _json({}, 429, headers={"Retry-After": format_datetime(until, usegmt=True)})
    return _json(_fine())


@_way("none-left", "every other answer says that no call is left for a second")
async def _none_left(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    told = {"X-RateLimit-Limit": "2", "X-RateLimit-Remaining": str(times % 2), "X-RateLimit-Reset": "1"}
    _, rows = _rows(request, 100)
    return _json({"pages": 4, "rows": rows}, headers=told)


@_way("breaks-off", "every other call: the connection breaks off in the middle of the answer")
async def _breaks(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    if times % 2 == 0:
        return _json(_fine())
    response = web.StreamResponse(headers={"Content-Type": "application/json", "Content-Length": "5000"})
    await response.prepare(request)
    await response.write(b'{"rows": [{"id": 1')
    assert request.transport is not None
    request.transport.abort()
    return response


@_way("cut-off", "JSON that ends in the middle, each time")
async def _cut(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    return web.Response(body=b'{"rows": [{"id": 1, "name": "cra', content_type="application/json")


@_way("slow", "each answer takes a minute")
async def _slow(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    await asyncio.sleep(60)
    return _json(_fine())


@_way("error-inside", "status 200, with an error inside")
async def _inside(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    return _json({"errors": [{"code": "E42", "message": "the hold is locked"}], "data": None})


@_way("problem", "problem details (RFC 9457)")
async def _problem(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    document = {"type": "/errors/hold", "title": "Locked", "status": 409, "detail": "The hold is locked until noon."}
    return _json(document, 409, content_type="application/problem+json")


@_way("empty-list", "an empty list, which is a true answer")
async def _empty(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    return _json({"total": 0, "rows": []})


@_way("no-content", "status 204")
async def _nothing(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    return web.Response(status=204)


@_way("web-page", "a web page where data is wanted")
async def _page_instead(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    return await service._sign_in(request)


@_way("to-sign-in", "a redirect to a sign-in page")
async def _to_sign_in(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    raise web.HTTPFound("/signin")


@_way("redirect-loop", "redirects without end")
async def _loop(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    raise web.HTTPFound(f"/ways/redirect-loop?again={time.monotonic_ns()}")


@_way("wrong-charset", "Latin-1 text that says that it is UTF-8")
async def _wrong_charset(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    body = '{"rows": [{"name": "Skjær"}]}'.encode("latin-1")
    return web.Response(body=body, headers={"Content-Type": "application/json; charset=utf-8"})


@_way("latin-1", "Latin-1 text that says so")
async def _latin(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    body = '{"rows": [{"name": "Skjær"}]}'.encode("latin-1")
    return web.Response(body=body, headers={"Content-Type": "application/json; charset=iso-8859-1"})


@_way("byte-order-mark", "UTF-8 with a byte order mark")
async def _mark(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    return web.Response(body=b"\xef\xbb\xbf" + json.dumps(_fine()).encode(), content_type="application/json")


@_way("not-a-number", "NaN and Infinity for numbers")
async def _nan(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    body = b'{"rows": [{"id": 1, "weight": NaN}, {"id": 2, "weight": -Infinity}, {"id": 3, "weight": 4}]}'
    return web.Response(body=body, content_type="application/json")


@_way("doubled-keys", "a name that stands twice in an object")
async def _doubled(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    return web.Response(body=b'{"rows": [{"id": 1, "id": 2, "name": "crate"}]}', content_type="application/json")


@_way("swells", "700 megabytes of blanks, compressed")
async def _swells(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    headers = {"Content-Type": "application/json", "Content-Encoding": "gzip"}
    response = web.StreamResponse(headers=headers)
    await response.prepare(request)
    packer = zlib.compressobj(9, zlib.DEFLATED, 31)
    blank = b" " * 2**20
    await response.write(packer.compress(b'{"rows": ['))
    for _ in range(700):
        await response.write(packer.compress(blank))
        await asyncio.sleep(0)
    await response.write(packer.compress(b"]}") + packer.flush())
    return response


@_way("not-compressed", "it says gzip, and is not")
async def _not_gzip(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    headers = {"Content-Type": "application/json", "Content-Encoding": "gzip"}
    return web.Response(body=json.dumps(_fine()).encode(), headers=headers)


@_way("compressed", "gzip, as it should be")
async def _gzip(service: Awkward, request: web.Request, times: int) -> web.StreamResponse:
    headers = {"Content-Type": "application/json", "Content-Encoding": "gzip"}
    return web.Response(body=gzip.compress(json.dumps(_fine()).encode()), headers=headers)
