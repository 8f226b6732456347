"""Ways to say nothing, or the wrong thing, of how many rows there are."""

from __future__ import annotations

import random
from collections.abc import Awaitable, Callable
from typing import Any

from aiohttp import web

ROWS, PAGE = 116, 10
Quiet = Callable[[Any, web.Request, int], Awaitable[web.StreamResponse]]


def _row(number: int) -> dict[str, Any]:
    return {"id": 3000 + number, "notice": f"notice {number}", "berth": number * 7 % 12}


def _refused(status: int, words: str) -> web.Response:
    return web.json_response({"error": words}, status=status)


def _whole(request: web.Request, name: str, usual: int) -> int:
    value = request.query.get(name, str(usual))
    if not value.isdigit():
        raise ValueError(f"{name} is a whole number.")
    return int(value)


def _part(start: int, size: int, rows: int = ROWS) -> list[dict[str, Any]]:
    return [_row(number) for number in range(start, min(start + size, rows))]


def _paged(request: web.Request, most: int = 50) -> tuple[int, int]:
    """The page number and the size that are asked for."""
    return _whole(request, "page", 1), max(1, min(_whole(request, "per_page", PAGE), most))


async def _quiet(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    page, size = _paged(request)
    return web.json_response({"rows": _part((page - 1) * size, size)})


async def _seven(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    return web.json_response({"rows": _part(0, 7)})


async def _own_count(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    rows = _part(_whole(request, "skip", 0), PAGE, 45)
    return web.json_response({"count": len(rows), "rows": rows}) if rows else _refused(404, "There is no such page.")


async def _hidden_mark(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    mark = request.query.get("continuation", "m0")
    if not mark.startswith("m") or not mark[1:].isdigit():
        raise ValueError("continuation is a mark of ours.")
    start = int(mark[1:])
    following = f"m{start + PAGE}" if start + PAGE < ROWS else None
    return web.json_response({"rows": _part(start, PAGE), "paging": {"nextPageToken": following}})


async def _strict(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    unknown = sorted(set(request.query) - {"leaf", "rows"})
    if unknown:
        return _refused(400, f"Unknown parameter: {unknown[0]}. Allowed parameters: leaf, rows.")
    leaf, size = _whole(request, "leaf", 1), min(_whole(request, "rows", PAGE), 50)
    return web.json_response({"rows": _part((leaf - 1) * size, size)})


async def _restless(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    rows = _part(0, 30)
    random.Random(times).shuffle(rows)
    return web.json_response({"rows": rows[:PAGE]})


async def _twice(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    if times > 2:
        return _refused(429, "Two calls a day.")
    return await _quiet(service, request, times)


async def _says_more(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    start = max(0, _whole(request, "since_id", 2999) - 2999)
    return web.json_response({"has_more": start + PAGE < ROWS, "rows": _part(start, PAGE)})


async def _proved(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    return web.json_response({"has_more": False, "rows": _part(0, PAGE)})


async def _clamped(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    page, size = _paged(request)
    return web.json_response({"rows": _part((min(page, -(-ROWS // size)) - 1) * size, size)})


async def _other_pages(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    page, size = _paged(request, PAGE)
    return web.json_response({"page": page, "pages": -(-ROWS // 50), "rows": _part((page - 1) * size, size)})


async def _told_cap(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    if _whole(request, "per_page", PAGE) > 40:
        return _refused(400, "per_page must not exceed 40.")
    return await _quiet(service, request, times)


async def _by_post(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    if request.method != "POST":
        return _refused(405, "Send a POST.")
    sent = await request.json()
    start = int(sent.get("offset", 0))
    return web.json_response({"rows": _part(start, PAGE)})


QUIET: dict[str, tuple[str, Quiet]] = {
    "quiet": ("116 rows in pages of 10, and it states nothing of it", _quiet),
    "seven": ("seven rows, and it states nothing", _seven),
    "own-count": ("45 rows in pages of 10, and its count is that of the page", _own_count),
    "hidden-mark": ("116 rows in pages of 10 by a mark, whose parameter is called otherwise", _hidden_mark),
    "strict": ("116 rows in pages of 10, and it refuses parameters that it does not know", _strict),
    "restless": ("ten of thirty rows, in another order each time", _restless),
    "twice": ("as quiet, and it refuses every call after the second", _twice),
    "says-more": ("116 rows in pages of 10 after a row’s id, and it says only whether there is more", _says_more),
    "proved": ("ten rows, and it says that there are no more", _proved),
    "clamped": ("as quiet, and after the last page it gives that one again", _clamped),
    "other-pages": ("116 rows in pages of 10, and it states the number of pages of 50", _other_pages),
    "told-cap": ("as quiet, and it refuses more than 40 rows a page in words", _told_cap),
    "by-post": ("116 rows in pages of 10, asked for with a POST", _by_post),
}
