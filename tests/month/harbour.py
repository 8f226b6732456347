"""The service of the month: rows of a day in numbered pages, a key that lapses, a quota; every call is noted."""

import hashlib
import time
from contextlib import suppress
from dataclasses import dataclass

from aiohttp import web

PAGES, ROWS = 12, 5


@dataclass
class Asked:
    """A call: when it came, and when it was answered, in seconds that never run backwards."""

    day: str
    page: int
    came: float
    answered: float | None = None
    status: int = 0


def rows_of(day):
    """All rows of a day, as (id, note)."""
    return [
        (f"{day}-{at:02}", hashlib.shake_256(f"{day} {at}".encode()).hexdigest(1_000)) for at in range(PAGES * ROWS)
    ]


class Harbour:
    """The service. `key` is the one that opens it now; `allowance` is how many calls it takes, `None` for any number."""

    def __init__(self):
        self.key = "month-key-1"
        self.allowance = None
        self.asked = []
        self.refused = 0

    def app(self):
        """What answers."""
        made = web.Application()
        made.router.add_get("/rows", self._rows)
        return made

    async def _rows(self, request):
        import asyncio

        if request.headers.get("X-Month") != self.key:
            return web.json_response({"error": {"message": "This key has lapsed."}}, status=401)
        if self.allowance is not None and self.allowance <= 0:
            self.refused += 1
            words = {"error": {"message": "Your quota of today is used up."}}
            return web.json_response(words, status=429, headers={"Retry-After": str(6 * 3600)})
        if self.allowance is not None:
            self.allowance -= 1
        day, page = request.query["day"], int(request.query.get("page", 1))
        call = Asked(day, page, time.monotonic())
        self.asked.append(call)
        await asyncio.sleep(0.03)
        own = rows_of(day)[(page - 1) * ROWS : page * ROWS]
        answer = web.json_response(
            {"pages": PAGES, "total": PAGES * ROWS, "rows": [{"id": one, "note": note} for one, note in own]}
        )
        with suppress(ConnectionResetError):  # Whoever asked was killed.
            await answer.prepare(request)
            await answer.write_eof()
            call.answered, call.status = time.monotonic(), 200
        return answer

    def of(self, day):
        """The calls of a day."""
        return [call for call in self.asked if call.day == day]
