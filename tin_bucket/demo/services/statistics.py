"""The statistics of Skerrywick Ferries: a key in the address, or in the body of a POST; tables and monthly series."""

from __future__ import annotations

import hmac
import json
import math
from datetime import date
from typing import Any

from aiohttp import web

from tin_bucket.demo import timetable

from .simulated import Calendar, Simulated, dumps, whole_of

KEY = "stat0demo1e9b7c5a3d2f"
MOST_SERIES = 10
FIRST_YEAR = 2019


class Statistics(Simulated):
    """The service."""

    name = "Skerrywick Statistics"
    page = "statistics.html"

    def __init__(self, today: date | Calendar, pause: float = 0.0) -> None:
        super().__init__(today, pause)
        self.key = KEY

    def routes(self) -> list[web.RouteDef]:
        """What it answers."""
        return [web.get("/passengers", self._passengers), web.post("/series", self._series)]

    def refusal(self, request: web.Request) -> web.Response | None:
        """A key is wanted in the address; a POST brings it in its body."""
        return None if request.method == "POST" else self._wrong(request.query.get("key", ""))

    def _wrong(self, given: Any) -> web.Response | None:
        if not given:
            return self.error(403, "REQUEST_DENIED", "The key is missing.")
        if not hmac.compare_digest(str(given).encode(), self.key.encode()):
            return self.error(403, "REQUEST_DENIED", "The key is not valid.")
        return None

    def error(self, status: int, code: str, message: str) -> web.Response:
        """Errors with a status of their own and a list of messages."""
        return web.json_response({"status": code, "message": [message]}, status=status)

    async def _passengers(self, request: web.Request) -> web.Response:
        """A list of lists with a header row."""
        year = whole_of(request.query.get("year", str(self.today.year)), "year")
        header = ["month", "route", "passengers", "cars"]
        rows: list[list[Any]] = [header]
        for month in self._months(f"{year}-01", f"{year}-12"):
            for route in timetable.ROUTES:
                rows.append([month, route.code, self._count(route.code, month), self._count(route.code, month) // 4])
        return web.json_response(rows, dumps=dumps)

    async def _series(self, request: web.Request) -> web.Response:
        try:
            wanted = json.loads(await request.text() or "{}")
        except ValueError as error:
            raise ValueError("The body is not JSON.") from error
        if not isinstance(wanted, dict):
            raise ValueError("The body is an object.")
        wrong = self._wrong(wanted.get("key"))
        if wrong is not None:
            return wrong
        codes = wanted.get("series")
        if not isinstance(codes, list) or not 1 <= len(codes) <= MOST_SERIES:
            raise ValueError(f"series is a list of 1 to {MOST_SERIES} codes such as PAX.harl-oxnith.")
        months = self._months(str(wanted.get("from", "")), str(wanted.get("to", "")))
        return web.json_response(
            {"status": "OK", "series": [self._one(str(code), months) for code in codes]}, dumps=dumps
        )

    def _one(self, code: str, months: list[str]) -> dict[str, Any]:
        _, _, route = code.partition(".")
        at = [known.code for known in timetable.ROUTES].index(route) if self._knows(route) else -1
        if not code.startswith("PAX.") or at < 0:
            raise ValueError(f"There is no series {code}; they are called PAX. and a route.")
        # A route that was opened later has fewer months.
        opened = f"{FIRST_YEAR + at % 4}-{1 + at:02}"
        points = [{"month": month, "value": self._count(route, month)} for month in months if month >= opened]
        return {"code": code, "unit": "passengers", "points": points}

    def _knows(self, route: str) -> bool:
        return route in {known.code for known in timetable.ROUTES}

    def _months(self, start: str, end: str) -> list[str]:
        try:
            first, last = date.fromisoformat(f"{start}-01"), date.fromisoformat(f"{end}-01")
        except ValueError as error:
            raise ValueError("from and to are months, YYYY-MM.") from error
        out = []
        while first <= last and first <= self.today.replace(day=1):
            if first.year >= FIRST_YEAR:
                out.append(f"{first:%Y-%m}")
            first = date(first.year + first.month // 12, first.month % 12 + 1, 1)
        return out

    def _count(self, route: str, month: str) -> int:
        at = [known.code for known in timetable.ROUTES].index(route)
        year, number = int(month[:4]), int(month[5:])
        season = 1 + 0.45 * math.sin((number - 4) / 12 * 2 * math.pi)
        return round((5200 - 310 * at) * season * 1.018 ** (year - FIRST_YEAR) + (number * 37 + at * 91) % 140)

    def docs(self, base: str) -> dict[str, str]:
        """The places of its docs page."""
        first = timetable.ROUTES[0].code, timetable.ROUTES[2].code
        return {
            "INTRO": "Passengers a month, by route. Everything here is made up.",
            "DAYWORDS": "The month of that day is the newest one.",
            "KEY": self.key,
            "YEAR": str(self.today.year),
            "SERIES": ", ".join(f'"PAX.{code}"' for code in first),
            "FROM": f"{self.today.year - 1}-01",
            "TO": f"{self.today:%Y-%m}",
        }
