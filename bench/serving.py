"""A Tin Bucket that serves a workspace in a process of its own, as somebody's browser would ask it."""

from __future__ import annotations

import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
import requests


class Served:
    """A client of a running program."""

    def __init__(self, address: str, pid: int) -> None:
        self.entry = address
        self.base, _, token = address.partition("/?access=")
        self.pid = pid
        self._headers = {"Authorization": f"Bearer {token}"}
        self._session = requests.Session()

    def get(self, path: str) -> Any:
        """The JSON of an address."""
        answer = self._session.get(self.base + path, headers=self._headers, timeout=120)
        answer.raise_for_status()
        return answer.json()

    def bytes(self, path: str) -> bytes:
        """What an address gives, as it comes."""
        answer = self._session.get(self.base + path, headers=self._headers, timeout=600)
        answer.raise_for_status()
        return answer.content

    def upload(self, path: str, data: bytes) -> int:
        """Send a file; gives the status, whatever it is."""
        return self._session.post(self.base + path, data=data, headers=self._headers, timeout=600).status_code

    def post(self, path: str, document: object) -> Any:
        """Send a document; gives the answer's JSON."""
        answer = self._session.post(self.base + path, json=document, headers=self._headers, timeout=120)
        answer.raise_for_status()
        return answer.json()

    def posted(self, path: str, document: object) -> tuple[float, bytes]:
        """Send a document; gives how long the answer took, in seconds, and the answer."""
        before = time.perf_counter()
        answer = self._session.post(self.base + path, json=document, headers=self._headers, timeout=120)
        took = time.perf_counter() - before
        answer.raise_for_status()
        return took, answer.content

    def again(self) -> Served:
        """Another client of the same program, for another thread."""
        other = Served(self.base, self.pid)
        other._headers = self._headers
        return other

    def timed(self, *paths: str) -> list[float]:
        """How long each of some addresses takes to answer, in seconds."""
        took = []
        for path in paths:
            before = time.perf_counter()
            self.bytes(path)
            took.append(time.perf_counter() - before)
        return took

    @contextmanager
    def waits_meanwhile(self, *paths: str, pause: float = 0.05) -> Iterator[list[float]]:
        """Ask some addresses in turn while something else goes on; gives a list that fills with the waits, in
        seconds."""
        waits: list[float] = []
        client, stopped = self.again(), threading.Event()

        def look() -> None:
            while not stopped.is_set():
                for path in paths:
                    waits.extend(client.timed(path))
                    stopped.wait(pause)

        thread = threading.Thread(target=look)
        thread.start()
        try:
            yield waits
        finally:
            stopped.set()
            thread.join()


@contextmanager
def served(home: Path) -> Iterator[Served]:
    """Serve a workspace; gives a client of it."""
    command = [sys.executable, "-m", "tin_bucket.cli", "serve", "--home", str(home), "--port", "0"]
    process = subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True)
    try:
        assert process.stdout is not None
        client = Served(process.stdout.readline().rsplit(" ", 1)[-1].strip(), process.pid)
        client.get("/api/desk")
        yield client
    finally:
        process.terminate()
        process.wait()


def ninety_fifth(waits: list[float]) -> float:
    """What 95 % of the waits stay under, in seconds."""
    return float(np.percentile(waits, 95))
