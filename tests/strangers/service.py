"""Serves all made-up APIs, each below the number of its seed."""

from __future__ import annotations

import json
from collections import Counter
from typing import Any

from aiohttp import web

from .style import Style, make_style


class Strangers:
    """The application; `asked` counts the calls of each API."""

    def __init__(self) -> None:
        self.asked: Counter[int] = Counter()

    def app(self) -> web.Application:
        """What answers."""
        made = web.Application()
        made.router.add_get("/{seed}/sailings", self._answer)
        return made

    async def _answer(self, request: web.Request) -> web.Response:
        style = make_style(int(request.match_info["seed"]))
        self.asked[style.seed] += 1
        try:
            start, size = _window(style, request.query)
        except ValueError as error:
            return web.json_response({"error": str(error)}, status=400)
        rows = style.all_rows()
        part = rows[start : start + size]
        if not part and start and style.beyond == "404":
            return web.json_response({"error": "There is no such page."}, status=404)
        after = start + len(part)
        return _told(style, request, part, after if after < style.rows else None, size)


def _window(style: Style, query: Any) -> tuple[int, int]:
    """The first row and the size that a call asks for; what the API does not know it ignores."""
    size = min(int(query.get(style.size_name, style.size)), style.size) if style.size_name else style.size
    if size < 1:
        raise ValueError(f"{style.size_name} must be positive")
    given = query.get(style.parameter) if style.parameter else None
    if style.way in ("none", "link", "next"):
        return (int(query["from_row"]) if "from_row" in query and style.way != "none" else 0), size
    if given in (None, ""):
        return 0, size
    if style.way == "number":
        if int(given) < style.first:
            raise ValueError(f"{style.parameter} starts with {style.first}")
        return (int(given) - style.first) * size, size
    if style.way == "last row":
        return max(0, int(given) - 1000 + 1), size
    if style.way == "cursor":
        if not given.startswith("c"):
            raise ValueError(f"{style.parameter} is not a mark of ours")
        return int(given[1:]), size
    return int(given), size


def _told(style: Style, request: web.Request, part: list[Any], after: int | None, size: int) -> web.Response:
    stated: dict[str, Any] = {}
    if style.total is not None:
        stated[style.total] = len(part) if style.own else style.rows
    if style.more is not None and style.way != "none":
        stated[style.more] = str(after is not None).lower() if style.more_as_text else after is not None
    headers = {}
    if style.way == "cursor":
        stated[style.cursor] = None if after is None else f"c{after}"
    if style.way == "next":
        stated["next"] = None if after is None else str(request.url.update_query({"from_row": str(after)}))
    if style.way == "link" and after is not None:
        headers["Link"] = f'<{request.url.update_query({"from_row": str(after)})}>; rel="next"'
    if not style.place:
        return web.Response(text=json.dumps(part), content_type="application/json", headers=headers)
    document: dict[str, Any] = {}
    _put(document, (*style.meta, ""), stated)
    _put(document, style.place, part)
    return web.Response(text=json.dumps(document), content_type="application/json", headers=headers)


def _put(document: dict[str, Any], place: tuple[str, ...], value: Any) -> None:
    *outer, last = place
    for name in outer:
        document = document.setdefault(name, {})
    if last:
        document[last] = value
    else:
        document.update(value)
