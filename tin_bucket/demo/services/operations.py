"""The operations service of Skerrywick Ferries: sailings, ports, vessels. A key in a header, pages by their number."""

from __future__ import annotations

import hmac
from datetime import date, timedelta

from aiohttp import web

from tin_bucket.demo import timetable

from .simulated import Calendar, Simulated, day_of, dumps, route_rows, whole_of

KEY_HEADER = "X-Skerrywick-Key"
KEY = "skw-demo-4b7e21f09c5d"
MOST_PER_PAGE = 100
MOST_MANIFESTS = 200
MOST_ADDRESS = 2_000


class Operations(Simulated):
    """The service."""

    name = "Skerrywick Operations"
    page = "operations.html"

    def __init__(self, today: date | Calendar, pause: float = 0.0, key: str = KEY) -> None:
        """
        Args:
            today: the simulated day.
            pause: seconds that each answer takes.
            key: the key that it accepts.
        """
        super().__init__(today, pause)
        self.key = key

    def routes(self) -> list[web.RouteDef]:
        """What it answers."""
        return [
            web.get("/sailings", self._sailings),
            web.get("/ports", self._ports),
            web.get("/ports/{code}", self._port),
            web.get("/vessels", self._vessels),
            web.get("/manifests", self._manifests),
        ]

    def refusal(self, request: web.Request) -> web.Response | None:
        """A key is wanted in a header."""
        given = request.headers.get(KEY_HEADER, "")
        if not given:
            return self.error(401, "no_key", f"Send your key in the header {KEY_HEADER}.")
        if not hmac.compare_digest(given.encode(), self.key.encode()):
            return self.error(401, "bad_key", "This key is not known, or has been withdrawn.")
        return None

    def docs(self, base: str) -> dict[str, str]:
        """The places of its docs page."""
        return {
            "INTRO": "Sailings, ports and vessels of Skerrywick Ferries. Everything here is made up.",
            "DAYWORDS": "Fares, statuses and sailings are as they are known on that day.",
            "HEADER": KEY_HEADER,
            "KEY": self.key,
            "FROM": (self.today - timedelta(days=7)).isoformat(),
            "TO": (self.today + timedelta(days=7)).isoformat(),
            "ROUTES": route_rows(timetable.ROUTES),
        }

    async def _sailings(self, request: web.Request) -> web.Response:
        start, end = (day_of(request.query.get(name, ""), name) for name in ("from", "to"))
        page = whole_of(request.query.get("page", "1"), "page")
        size = min(whole_of(request.query.get("per_page", "25"), "per_page"), MOST_PER_PAGE)
        route = request.query.get("route") or "all"
        if route != "all" and route not in {known.code for known in timetable.ROUTES}:
            return self.error(422, "bad_value", f"route '{route}' is not one of ours; see the table of routes.")
        if end < start or (end - start).days > 62:
            return self.error(422, "bad_value", "to lies on or after from, and at most 62 days after it.")
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
            dumps=dumps,
        )

    async def _ports(self, request: web.Request) -> web.Response:
        data = [timetable.port(code) for code in timetable.PORTS]
        return web.json_response({"meta": {"total": len(data)}, "data": data}, dumps=dumps)

    async def _port(self, request: web.Request) -> web.Response:
        found = timetable.port(request.match_info["code"])
        if found is None:
            return self.error(404, "no_such_port", f"The register has no port {request.match_info['code']}.")
        return web.json_response(found, dumps=dumps)

    async def _manifests(self, request: web.Request) -> web.Response:
        ids = [one for one in request.query.get("sailings", "").split(",") if one]
        if len(ids) > MOST_MANIFESTS:
            return self.error(400, "too_many", f"At most {MOST_MANIFESTS} sailings a call; {len(ids)} were sent.")
        if len(str(request.url)) > MOST_ADDRESS:
            return self.error(414, "too_long", f"An address has {MOST_ADDRESS} characters at most.")
        found = [made for one in ids if (made := timetable.manifest(one)) is not None]
        # In no order that anybody asked for.
        found.sort(key=lambda one: str(one["sailing"])[::-1])
        return web.json_response({"manifests": found}, dumps=dumps)

    async def _vessels(self, request: web.Request) -> web.Response:
        return web.json_response({"data": timetable.vessels(self.today)}, dumps=dumps)
