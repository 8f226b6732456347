"""The bookings of Skerrywick Ferries: the next address stands in the body, calls are limited, errors come as 200."""

from __future__ import annotations

import hmac
import math
import time
from collections import deque
from collections.abc import Callable
from datetime import UTC, date, datetime, timedelta
from typing import Any

from aiohttp import web

from tin_bucket.demo import timetable

from .simulated import Calendar, Simulated, day_of, dumps, route_rows, whole_of

KEY = "bkg-demo-93ac61e2d7f8"
WINDOWS = ((12, 1.0), (90, 10.0))  # Calls in seconds, all of them kept.
MOST = 100
_NAMES = ("Ferrow", "Lindle", "Oxtern", "Marl", "Pellow", "Quayle", "Tarrant", "Wend", "Harl", "Brae")


class Bookings(Simulated):
    """The service. `refused` counts the calls that came too fast; with `limited` false none does."""

    name = "Skerrywick Bookings"
    page = "bookings.html"

    def __init__(self, today: date | Calendar, pause: float = 0.0) -> None:
        super().__init__(today, pause)
        self.key = KEY
        self.windows = WINDOWS
        self.limited = True
        self.elapsed: Callable[[], float] = time.monotonic
        self.refused = 0
        self._seen: deque[float] = deque(maxlen=100_000)

    def routes(self) -> list[web.RouteDef]:
        """What it answers."""
        return [web.get("/bookings", self._bookings)]

    def error(self, status: int, code: str, message: str) -> web.Response:
        """Errors inside an answer whose status says that all is well."""
        return web.json_response({"ok": False, "error": {"code": code, "message": message}}, status=200)

    def refusal(self, request: web.Request) -> web.Response | None:
        """The limits first, then the key."""
        now = self.elapsed()
        waits = [
            self._seen[-calls] + seconds - now
            for calls, seconds in self.windows
            if self.limited and len(self._seen) >= calls and self._seen[-calls] + seconds > now
        ]
        if waits:
            self.refused += 1
            document = {"ok": False, "error": {"code": "slow_down", "message": "Too many calls; see Retry-After."}}
            return web.json_response(document, status=429, headers={"Retry-After": str(math.ceil(max(waits)))})
        self._seen.append(now)
        scheme, _, given = request.headers.get("Authorization", "").partition(" ")
        if scheme.lower() != "bearer" or not hmac.compare_digest(given.encode(), self.key.encode()):
            return self.error(401, "bad_key", "This key opens nothing here.")
        return None

    async def _bookings(self, request: web.Request) -> web.Response:
        start = day_of(request.query.get("from", ""), "from")
        end = day_of(request.query.get("to", ""), "to")
        if not 0 <= (end - start).days <= 31:
            raise ValueError("to lies at most 31 days after from, and not before it.")
        size = min(whole_of(request.query.get("size", "25"), "size"), MOST)
        after = request.query.get("after", "")
        found = bookings(self.today, start, end)
        ids = [one["booking"] for one in found]
        at = ids.index(after) + 1 if after in ids else 0
        page = found[at : at + size]
        more = at + size < len(found)
        following = request.rel_url.update_query(after=page[-1]["booking"]) if more else None
        document = {"ok": True, "bookings": page, "next": str(following) if following else None}
        return web.json_response(document, dumps=dumps, headers=self._told())

    def _told(self) -> dict[str, str]:
        """The limits and what is left of them, in the fields that the IETF drafts."""
        if not self.limited:
            return {}
        now = self.elapsed()
        policies, left = [], []
        for name, (calls, seconds) in zip(("burst", "steady"), self.windows, strict=False):
            used = [one for one in list(self._seen)[-calls:] if one > now - seconds]
            policies.append(f'"{name}";q={calls};w={math.ceil(seconds)}')
            resets = math.ceil(used[0] + seconds - now) if used else 0
            left.append(f'"{name}";r={max(0, calls - len(used))};t={resets}')
        return {"RateLimit-Policy": ", ".join(policies), "RateLimit": ", ".join(left)}

    def docs(self, base: str) -> dict[str, str]:
        """The places of its docs page."""
        return {
            "INTRO": "Who has booked on which sailing. Everything here is made up.",
            "DAYWORDS": "Bookings are those that were made by that day.",
            "KEY": self.key,
            "FROM": self.today.isoformat(),
            "TO": (self.today + timedelta(days=2)).isoformat(),
            "ROUTES": route_rows(timetable.ROUTES),
        }


def bookings(today: date, start: date, end: date) -> list[dict[str, Any]]:
    """The bookings for the days `start` to `end` that were made by `today`, by sailing and number."""
    found = []
    for sailing in timetable.sailings(today, start, end):
        chance = timetable.chance("bookings", sailing["sailing_id"])
        for number in range(int(chance * 4)):
            own = timetable.chance("booking", sailing["sailing_id"], number)
            departs = datetime.fromtimestamp(sailing["departs"], UTC).date()
            if departs - timedelta(days=int(own * 20)) > today:
                continue  # It is made later.
            name = _NAMES[int(own * 997) % len(_NAMES)]
            found.append(
                {
                    "booking": f"B{sailing['sailing_id'][3:]}-{number}",
                    "sailing": sailing["sailing_id"],
                    "route": sailing["route"]["code"],
                    "departs": sailing["departs"],
                    "party": {"name": name, "people": 1 + int(own * 31) % 5},
                    "car": int(own * 7) % 2 == 0,
                    "paid": round(8 + own * 90, 2),
                }
            )
    return found
