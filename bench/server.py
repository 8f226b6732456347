"""A local server of numbered pages, in a process of its own: ``python -m bench.server PAGES SIZE PORT_FILE``."""

from __future__ import annotations

import asyncio
import hashlib
import socket
import sys
from pathlib import Path

import orjson
from aiohttp import web

from .records import records


def main() -> None:
    """Serve until the process is ended."""
    pages, size, port_file = int(sys.argv[1]), int(sys.argv[2]), Path(sys.argv[3])
    everything = records(pages * size)
    bodies = [
        orjson.dumps({"meta": {"page": n + 1, "total_pages": pages, "total": pages * size}, "data": part})
        for n, part in enumerate(everything[at : at + size] for at in range(0, pages * size, size))
    ]

    tags = [f'"{hashlib.blake2b(body, digest_size=8).hexdigest()}"' for body in bodies]

    async def page(request: web.Request) -> web.Response:
        at = int(request.query.get("page", "1")) - 1
        if request.headers.get("If-None-Match") == tags[at]:
            return web.Response(status=304, headers={"ETag": tags[at]})
        return web.Response(body=bodies[at], content_type="application/json", headers={"ETag": tags[at]})

    app = web.Application()
    app.router.add_get("/data", page)

    async def told(app: web.Application) -> None:
        port_file.with_suffix(".new").write_text("")

    app.on_startup.append(told)
    sock = socket.socket()
    sock.bind(("127.0.0.1", 0))
    port_file.write_text(str(sock.getsockname()[1]))
    web.run_app(app, sock=sock, print=None, access_log=None, loop=asyncio.new_event_loop())


if __name__ == "__main__":
    main()
