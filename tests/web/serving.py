"""The application over real HTTP, for clients that open connections of their own."""

import socket
import threading
import time
from contextlib import contextmanager

import uvicorn

from tin_bucket.web.app import create_app


@contextmanager
def served(workspace, **options):
    """The address at which a workspace is served."""
    listener = socket.socket()
    listener.bind(("127.0.0.1", 0))
    config = uvicorn.Config(create_app(workspace, **options), log_level="error")
    server = uvicorn.Server(config)
    thread = threading.Thread(target=server.run, kwargs={"sockets": [listener]}, daemon=True)
    thread.start()
    while not server.started:
        time.sleep(0.01)
    try:
        yield f"http://127.0.0.1:{listener.getsockname()[1]}"
    finally:
        server.should_exit = True
        thread.join(10)
        listener.close()
