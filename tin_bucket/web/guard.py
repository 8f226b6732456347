"""Keeps other web sites out: any page in the browser could reach a program on one's own machine."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from tin_bucket.core.problem import Problem

from .problems import respond

# Pictures may come from anywhere: a person allows them column by column. Nothing else is fetched from elsewhere.
_POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: http: https:; font-src 'self' data:; "
    "frame-ancestors 'none'; base-uri 'none'; form-action 'self'"
)
_SAFE = (
    (b"content-security-policy", _POLICY.encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"no-referrer"),
)


class Guard:
    """Refuses foreign Host names (DNS rebinding) and changes that another origin asks for; adds safe headers."""

    def __init__(self, app: ASGIApp, hosts: set[str]) -> None:
        self._app = app
        self._hosts = hosts

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, or refuse it."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        host = headers.get("host", "")
        try:
            name = urlsplit(f"//{host}").hostname or ""
        except ValueError:
            name = ""
        foreign = headers.get("origin") not in (None, f"http://{host}", f"https://{host}")
        if name not in self._hosts or (foreign and scope["method"] not in ("GET", "HEAD")):
            problem = Problem(
                "refused",
                "This address is not served to other sites.",
                name,
                "Open the address that Tin Bucket printed.",
            )
            await respond(problem, 403)(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                own = {name.lower() for name, _ in message["headers"]}
                # A page that stands alone has stricter ones of its own.
                message["headers"] = [*message["headers"], *((name, value) for name, value in _SAFE if name not in own)]
            await send(message)

        await self._app(scope, receive, with_headers)
