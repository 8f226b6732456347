"""The fares service of Skerrywick Ferries: a token that lives ten minutes, a search by POST, a cursor in its body."""

from __future__ import annotations

import base64
import hmac
import json
import secrets
import time
from datetime import date, timedelta
from typing import Any
from urllib.parse import parse_qs, unquote_plus

from aiohttp import web

from tin_bucket.demo import timetable

from .simulated import Calendar, Simulated, day_of, dumps, route_rows

CLIENT = "harbour-desk"
CLIENT_SECRET = "fares-demo-71c0a9d4e2b8"
LIFE = 600
MOST = 200


class Fares(Simulated):
    """The service. `life` is how many seconds a token lives; `tokens` counts those that were given."""

    name = "Skerrywick Fares"
    page = "fares.html"

    def __init__(self, today: date | Calendar, pause: float = 0.0, life: float = LIFE) -> None:
        """
        Args:
            today: the simulated day.
            pause: seconds that each answer takes.
            life: seconds that a token lives.
        """
        super().__init__(today, pause)
        self.life = life
        self.secret = CLIENT_SECRET
        self.tokens = 0
        self._given: dict[str, float] = {}

    def routes(self) -> list[web.RouteDef]:
        """What it answers."""
        return [web.post("/oauth/token", self._token), web.post("/fares/search", self._search)]

    def is_open(self, request: web.Request) -> bool:
        """A token is asked for without one."""
        return super().is_open(request) or request.path == "/oauth/token"

    def withdraw(self) -> None:
        """End every token at once, as after a restart of the service."""
        self._given.clear()

    def error(self, status: int, code: str, message: str) -> web.Response:
        """Errors as problem details (RFC 9457)."""
        document = {"type": f"/errors/{code}", "title": code.replace("_", " "), "status": status, "detail": message}
        return web.json_response(document, status=status, content_type="application/problem+json")

    def refusal(self, request: web.Request) -> web.Response | None:
        """A bearer token is wanted (RFC 6750)."""
        scheme, _, token = request.headers.get("Authorization", "").partition(" ")
        if scheme.lower() != "bearer" or not token:
            return self.error(401, "no_token", "Send a bearer token; get one from /oauth/token.")
        ends = self._given.get(token)
        if ends is None or ends < time.monotonic():
            return self.error(401, "token_ended", "This token is not known, or has ended. Get another one.")
        return None

    async def _token(self, request: web.Request) -> web.Response:
        """Client credentials (RFC 6749 §4.4), in the header or in the body."""
        fields = {name: values[0] for name, values in parse_qs(await request.text()).items()}
        client, secret = fields.get("client_id", ""), fields.get("client_secret", "")
        scheme, _, credential = request.headers.get("Authorization", "").partition(" ")
        if scheme.lower() == "basic":
            try:
                user, _, password = base64.b64decode(credential).decode().partition(":")
                client, secret = unquote_plus(user), unquote_plus(password)
            except ValueError:
                client = ""
        if fields.get("grant_type") != "client_credentials":
            return _refused(400, "unsupported_grant_type", "Only client_credentials is spoken here.")
        if client != CLIENT or not hmac.compare_digest(secret.encode(), self.secret.encode()):
            return _refused(401, "invalid_client", "The client id or its secret is not right.")
        token = f"ft-{secrets.token_hex(16)}"
        self._given[token] = time.monotonic() + self.life
        self.tokens += 1
        return web.json_response({"access_token": token, "token_type": "Bearer", "expires_in": self.life})

    async def _search(self, request: web.Request) -> web.Response:
        try:
            wanted = json.loads(await request.text() or "{}")
        except ValueError as error:
            raise ValueError("The body is not JSON.") from error
        if not isinstance(wanted, dict):
            raise ValueError("The body is an object.")
        day = day_of(str(wanted.get("day", "")), "day")
        classes = wanted.get("classes") or list(timetable.CLASSES)
        if not isinstance(classes, list) or not set(classes) <= set(timetable.CLASSES):
            raise ValueError(f"classes is a list of some of {', '.join(timetable.CLASSES)}.")
        route = wanted.get("route") or "all"
        if route != "all" and route not in {known.code for known in timetable.ROUTES}:
            raise ValueError(f"route '{route}' is not one of ours; see the table of routes.")
        limit = wanted.get("limit", 50)
        if not isinstance(limit, int) or not 1 <= limit <= MOST:
            raise ValueError(f"limit is a whole number up to {MOST}.")
        found = self._fares(day, None if route == "all" else route, classes)
        start = _position(wanted.get("cursor"))
        following = start + limit
        return web.json_response(
            {
                "result": {"items": found[start:following], "count": len(found)},
                "next_cursor": _cursor(following) if following < len(found) else None,
            },
            dumps=dumps,
        )

    def _fares(self, day: date, route: str | None, classes: list[str]) -> list[dict[str, Any]]:
        return [
            {
                "fareId": f"{sailing['sailing_id']}-{fare['class']}",
                "sailing": sailing["sailing_id"],
                "route": sailing["route"]["code"],
                "departs": sailing["departs"] * 1000,
                "class": fare["class"],
                "price": {"amount": f"{fare['amount']:.2f}", "currency": fare["currency"]},
            }
            for sailing in timetable.sailings(self.today, day, day, route)
            for fare in sailing["fares"]
            if fare["class"] in classes
        ]

    def docs(self, base: str) -> dict[str, str]:
        """The places of its docs page."""
        return {
            "INTRO": "What each class pays on each sailing, day by day. Everything here is made up.",
            "DAYWORDS": "Fares are as they are known on that day.",
            "CLIENT": CLIENT,
            "SECRET": self.secret,
            "FROM": (self.today + timedelta(days=1)).isoformat(),
            "CLASSES": ", ".join(timetable.CLASSES),
            "ROUTES": route_rows(timetable.ROUTES),
        }


def _refused(status: int, error: str, words: str) -> web.Response:
    """An error of a token address (RFC 6749 §5.2)."""
    return web.json_response({"error": error, "error_description": words}, status=status)


def _cursor(position: int) -> str:
    return base64.urlsafe_b64encode(f"at:{position}".encode()).decode()


def _position(cursor: Any) -> int:
    if cursor is None or cursor == "":
        return 0
    try:
        return int(base64.urlsafe_b64decode(str(cursor)).decode().removeprefix("at:"))
    except ValueError as error:
        raise ValueError("This cursor is not one of ours.") from error
