"""Compresses what readers of live addresses take, where they can unpack it (RFC 9110 §8.4)."""

from __future__ import annotations

from collections.abc import Callable

from starlette.middleware.gzip import GZipMiddleware
from starlette.types import ASGIApp, Receive, Scope, Send

_LEVEL = 3  # Fast: text of tables shrinks to a fifth all the same.
_LEAST = 1_000


class GZipOf:
    """Compresses the answers of some addresses alone: those of the interface stay on this machine."""

    def __init__(self, app: ASGIApp, paths: Callable[[str], bool]) -> None:
        self._app, self._paths = app, paths
        self._packed = GZipMiddleware(app, _LEAST, _LEVEL)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on."""
        app = self._packed if scope["type"] == "http" and self._paths(scope["path"]) else self._app
        await app(scope, receive, send)
