"""Runs a simulated service in a thread of its own, on loopback."""

from __future__ import annotations

import asyncio
import threading

from aiohttp import web


class PortTaken(OSError):
    """A port that a service should listen on and cannot."""

    def __init__(self, port: int) -> None:
        super().__init__(f"port {port} is taken")
        self.port = port


class Running:
    """A web application that runs in a thread of its own, on loopback. Use it as a context."""

    def __init__(self, app: web.Application, port: int = 0) -> None:
        """Prepare to serve; port 0 takes any free one."""
        self._app = app
        self.port = port
        self._loop = asyncio.new_event_loop()
        self._ready = threading.Event()
        self._error: OSError | None = None
        self._thread = threading.Thread(target=self._run, daemon=True)

    @property
    def base(self) -> str:
        """The address that it serves."""
        return f"http://127.0.0.1:{self.port}"

    def __enter__(self) -> Running:
        self._thread.start()
        self._ready.wait()
        if self._error is not None:
            raise PortTaken(self.port) from self._error
        return self

    def __exit__(self, *_: object) -> None:
        self._loop.call_soon_threadsafe(self._loop.stop)
        self._thread.join(timeout=10)

    def _run(self) -> None:
        asyncio.set_event_loop(self._loop)
        runner = web.AppRunner(self._app, access_log=None, shutdown_timeout=0.2)
        try:
            self._loop.run_until_complete(runner.setup())
            site = web.TCPSite(runner, "127.0.0.1", self.port)
            self._loop.run_until_complete(site.start())
            server = site._server
            assert server is not None
            self.port = server.sockets[0].getsockname()[1]  # type: ignore[attr-defined]
        except OSError as error:
            self._error = error
            self._ready.set()
            return
        self._ready.set()
        self._loop.run_forever()
        self._loop.run_until_complete(runner.cleanup())
        rest = asyncio.all_tasks(self._loop)
        for task in rest:
            task.cancel()
        self._loop.run_until_complete(asyncio.gather(*rest, return_exceptions=True))
        self._loop.close()
