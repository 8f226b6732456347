"""The register of Skerrywick Ferries: user and password, a list of ids, details by id, a Link header."""

from __future__ import annotations

import base64
import hmac
from datetime import date, timedelta
from typing import Any

from aiohttp import web

from tin_bucket.demo import timetable

from .simulated import Calendar, Simulated, dumps, whole_of

USER = "harbour"
PASSWORD = "register-demo:5d3e"
MOST_IDS = 50


class Register(Simulated):
    """The service."""

    name = "Skerrywick Register"
    page = "register.html"
    versioned = True

    def __init__(self, today: date | Calendar, pause: float = 0.0) -> None:
        super().__init__(today, pause)
        self.password = PASSWORD

    def routes(self) -> list[web.RouteDef]:
        """What it answers."""
        return [
            web.get("/v1/vessels", self._vessels),
            web.get("/v1/vessels/{hull_id}", self._vessel),
            web.get("/v1/details", self._details),
            web.get("/v1/inspections/{year}/{month}", self._inspections),
        ]

    def refusal(self, request: web.Request) -> web.Response | None:
        """User and password are wanted (RFC 7617)."""
        scheme, _, credential = request.headers.get("Authorization", "").partition(" ")
        try:
            user, _, password = base64.b64decode(credential).decode().partition(":")
        except ValueError:
            user, password = "", ""
        right = user == USER and hmac.compare_digest(password.encode(), self.password.encode())
        if scheme.lower() == "basic" and right:
            return None
        refused = self.error(401, "unauthorized", "User or password is not right.")
        refused.headers["WWW-Authenticate"] = 'Basic realm="register"'
        return refused

    def error(self, status: int, code: str, message: str) -> web.Response:
        """Errors as a list."""
        return web.json_response({"errors": [{"status": str(status), "code": code, "detail": message}]}, status=status)

    async def _vessels(self, request: web.Request) -> web.Response:
        page = whole_of(request.query.get("page", "1"), "page")
        size = min(whole_of(request.query.get("size", "4"), "size"), 100)
        ids = [hull["hull_id"] for hull in timetable.vessels(self.today)]
        answer = web.json_response([{"hull_id": str(one)} for one in ids[(page - 1) * size : page * size]], dumps=dumps)
        if page * size < len(ids):
            following = request.url.update_query(page=str(page + 1), size=str(size))
            answer.headers["Link"] = f'<{following}>; rel="next"'
        return answer

    async def _vessel(self, request: web.Request) -> web.Response:
        found = self._found(request.match_info["hull_id"])
        if found is None:
            return self.error(404, "no_such_vessel", f"The register has no vessel {request.match_info['hull_id']}.")
        return web.json_response(found, dumps=dumps)

    async def _details(self, request: web.Request) -> web.Response:
        ids = [one for one in request.query.get("ids", "").split(",") if one]
        if not ids or len(ids) > MOST_IDS:
            raise ValueError(f"ids is a list of 1 to {MOST_IDS} hull ids, joined by commas.")
        # Answers come in the register's order and not in the runner's, and leave out what is not known.
        return web.json_response([one for one in map(self._found, sorted(ids)) if one is not None], dumps=dumps)

    async def _inspections(self, request: web.Request) -> web.Response:
        year, month = request.match_info["year"], request.match_info["month"]
        try:
            first = date(int(year), int(month), 1)
        except ValueError as error:
            raise ValueError(f"/v1/inspections/{year}/{month} is no month; write it as /2026/11.") from error
        found = []
        for at, hull in enumerate(timetable.vessels(self.today)):
            day = first + timedelta(days=(at * 5 + first.month * 3) % 27)
            if (first.month + at) % 2 == 0 and day <= self.today:
                verdict = ("passed", "passed", "passed with remarks")[(at + first.month) % 3]
                found.append({"hull_id": str(hull["hull_id"]), "day": day.isoformat(), "verdict": verdict})
        return web.json_response({"month": f"{first:%Y-%m}", "inspections": found}, dumps=dumps)

    def _found(self, hull_id: str) -> dict[str, Any] | None:
        for at, hull in enumerate(timetable.vessels(self.today)):
            if str(hull["hull_id"]) == hull_id:
                built = 1987 + at * 6
                return {
                    "hull_id": hull_id,
                    "name": hull["name"],
                    "built": built,
                    "tonnage": {"gross": 2400 + at * 310, "net": 900 + at * 120},
                    "owner": "Skerrywick Ferries",
                    "certificate": {
                        "number": f"{at:03}-{built}",
                        "until": (self.today + timedelta(days=40 * (at + 1))).isoformat(),
                    },
                }
        return None

    def docs(self, base: str) -> dict[str, str]:
        """The places of its docs page."""
        return {
            "INTRO": "The vessels of Skerrywick Ferries and their inspections. Everything here is made up.",
            "DAYWORDS": "Inspections up to that day are known.",
            "USER": USER,
            "PASSWORD": self.password,
            "HULL": str(timetable.FIRST_HULL),
            "MONTH": self.today.strftime("%Y/%m"),
        }
