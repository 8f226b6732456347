"""Serves all made-up APIs, each below the number of its seed."""

from __future__ import annotations

import json
import random
from collections import Counter
from collections.abc import Mapping
from typing import Any

from aiohttp import web

from .style import Style, make_style

Sent = Mapping[str, str]


class Refused(Exception):
    """A call that the API does not take, with its status."""

    def __init__(self, words: str, status: int = 400) -> None:
        super().__init__(words)
        self.status = status


class Strangers:
    """The application; `asked` counts the calls of each API."""

    def __init__(self) -> None:
        self.asked: Counter[int] = Counter()

    def app(self) -> web.Application:
        """What answers."""
        made = web.Application()
        made.router.add_route("*", "/{seed}/sailings", self._answer)
        return made

    async def _answer(self, request: web.Request) -> web.Response:
        style = make_style(int(request.match_info["seed"]))
        self.asked[style.seed] += 1
        try:
            if style.trap == "refuses after three" and 4 <= self.asked[style.seed] <= 5:
                raise Refused("Too many calls for today.", 429)
            sent = await _sent(style, request)
            return self._told(style, request, sent)
        except Refused as error:
            return web.json_response({"error": str(error)}, status=error.status)

    def _told(self, style: Style, request: web.Request, sent: Sent) -> web.Response:
        start, size = _window(style, sent)
        rows = style.all_rows()
        if style.trap == "order that moves":
            random.Random(self.asked[style.seed]).shuffle(rows)
        if start >= len(rows) and start and style.way in ("number", "offset", "last row", "next number"):
            if style.beyond in ("404", "400"):
                raise Refused("There is no such page.", int(style.beyond))
            if style.beyond == "last page":
                start = (len(rows) - 1) // size * size
        part = rows[start : start + size]
        after = start + len(part)
        more = after < style.rows or (
            style.trap == "full last page then an empty one" and len(part) == size and style.way == "cursor"
        )
        return _written(style, request, part, after if more else None, start, size)


async def _sent(style: Style, request: web.Request) -> Sent:
    sent: dict[str, str] = dict(request.query)
    if style.posts:
        if request.method != "POST":
            raise Refused("Send a POST.", 405)
        document = await request.json()
        sent |= {name: str(value) for name, value in document.items() if name != "route"}
    own = {style.parameter, style.size_name, "from_row", "route"} - {""}
    strange = [name for name in sent if name not in own]
    if strange and style.trap == "strict":
        raise Refused(f"Unknown parameter: {strange[0]}")
    if strange and style.trap == "strict, says what it takes":
        takes = ", ".join(sorted({style.parameter, style.size_name, "route"} - {""}))
        raise Refused(f"Unknown parameters {', '.join(strange)}. Allowed parameters: {takes}.")
    return sent


def _number(name: str, value: str, least: int) -> int:
    if not value.lstrip("-").isdigit():
        raise Refused(f"{name} must be a number")
    if int(value) < least:
        raise Refused(f"{name} must be at least {least}")
    return int(value)


def _window(style: Style, sent: Sent) -> tuple[int, int]:
    """The first row and the size that a call asks for; what the API does not know it ignores."""
    size = style.size
    if style.size_name and style.size_name in sent:
        asked = _number(style.size_name, sent[style.size_name], 5 if style.trap == "least size" else 1)
        if style.trap == "told cap" and asked > style.cap:
            raise Refused(f"{style.size_name} must not exceed {style.cap}")
        size = min(asked, style.cap)
    if style.way in ("next", "link"):
        return int(sent.get("from_row", 0)), size
    given = sent.get(style.parameter) if style.parameter else None
    if given in (None, "", "None"):
        return 0, size
    assert given is not None
    if style.way in ("number", "next number"):
        return (_number(style.parameter, given, style.first) - style.first) * size, size
    if style.way == "last row":
        return max(0, _number(style.parameter, given, 0) - 1000 + 1), size
    if style.way in ("cursor", "header mark"):
        mark = given if style.number_marks else given[1:]
        if (not style.number_marks and not given.startswith("c")) or not mark.isdigit():
            raise Refused(f"{style.parameter} is not a mark of ours")
        return int(mark) - (9000 if style.number_marks else 0), size
    return _number(style.parameter, given, style.first) - style.first, size


def _written(
    style: Style, request: web.Request, part: list[Any], after: int | None, start: int, size: int
) -> web.Response:
    headers: dict[str, str] = {}
    stated = _stated(style, part, after, start, size)
    mark = None if after is None else after + 9000 if style.number_marks else f"c{after}"
    address = request.url.update_query({"from_row": str(after)})
    if style.way == "cursor":
        last = part[-1]["id"] if part else 0
        stated[style.cursor] = f"c{last}" if mark is None and style.trap == "marks to the end" and style.more else mark
    if style.way == "next number":
        stated["next_page"] = None if after is None else start // size + 1 + style.first
    if style.way == "next":
        stated["next"] = None if after is None else str(address)
    if style.way == "header mark" and mark is not None:
        headers["X-Next-Cursor"] = str(mark)
    if style.way == "link" and after is not None:
        headers["Link"] = f'<{request.url}>; rel="first", <{address}>; rel="next"'
    if style.total == "header":
        headers["X-Total-Count"] = str(style.rows)
    if not style.place:
        return web.Response(text=json.dumps(part), content_type="application/json", headers=headers)
    document: dict[str, Any] = {}
    _put(document, (*style.meta, ""), stated)
    _put(document, style.place, _shaped(style, part, document))
    return web.Response(text=json.dumps(document), content_type="application/json", headers=headers)


def _stated(style: Style, part: list[Any], after: int | None, start: int, size: int) -> dict[str, Any]:
    stated: dict[str, Any] = {}
    if style.total not in (None, "header"):
        total = {"own count": len(part), "total of pages": -(-style.rows // size), "total of all": style.rows + 500}
        number = total.get(style.trap, style.rows)
        stated[str(style.total)] = str(number) if style.total_as_text else number
    if style.pages is not None:
        stated[style.pages] = -(-style.rows // (style.size * 4 if style.trap == "pages of another size" else size))
    if style.echo and style.way == "number":
        stated |= {"page": start // size + style.first, "per_page": size}
    if style.echo and style.way == "offset":
        stated |= {"offset": start + style.first, "limit": size}
    if style.more is not None:
        more = after is not None
        stated[style.more] = str(more).lower() if style.more_as_text else more
    return stated


def _shaped(style: Style, part: list[Any], document: dict[str, Any]) -> Any:
    if style.shape == "keyed":
        return {f"s{row['id']}": row for row in part}
    names = ["id", "name", "berths"]
    if style.shape == "parallel":
        return {name: [row[name] for row in part] for name in names}
    values = [[row[name] for name in names] for row in part]
    if style.shape == "header row":
        return [names, *values]
    if style.shape == "heads beside":
        inner = document
        for name in style.place[:-1]:
            inner = inner.setdefault(name, {})
        inner["columns"] = names
        return values
    return part


def _put(document: dict[str, Any], place: tuple[str, ...], value: Any) -> None:
    *outer, last = place
    for name in outer:
        document = document.setdefault(name, {})
    if last:
        document[last] = value
    else:
        document.update(value)
