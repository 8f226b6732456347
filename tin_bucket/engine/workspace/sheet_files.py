"""Reads files that come from outside, in processes of their own that are bounded in memory and time."""

from __future__ import annotations

import atexit
import json
import os
import subprocess
import sys
import threading
from contextlib import suppress
from dataclasses import asdict
from pathlib import Path
from typing import IO

from tin_bucket.core.formats.json import parse_json
from tin_bucket.core.interchange.spreadsheet import SheetSettings, SheetTable
from tin_bucket.core.problem import Problem, ProblemError, fail
from tin_bucket.engine.tuning import USUAL, EngineTuning

from .sheet_worker import DAMAGED, TOO_MUCH

_MODULE = "tin_bucket.engine.workspace.sheet_worker"
_KEPT = 2  # Idle processes that wait for the next file.


class SheetReader:
    """Processes that read sheets. Any thread may use it; each file is read by one process at a time."""

    def __init__(self, tuning: EngineTuning = USUAL) -> None:
        self._tuning = tuning
        self._idle: list[subprocess.Popen[bytes]] = []
        self._lock = threading.Lock()

    def read(self, name: str, data: bytes, settings: SheetSettings) -> SheetTable:
        """As :func:`tin_bucket.core.interchange.workbook.read_sheet`, whatever the file does to its reader.

        Raises:
            ProblemError: ``sheet-unreadable``, ``format-unknown``, or ``sheet-too-large`` where it needs too much
                memory or time.
        """
        told = self._told(name, data, settings)
        found = parse_json(told)
        if "problem" in found:
            raise ProblemError(Problem(**found["problem"]))
        return SheetTable(**found)

    def read_file(self, path: Path, settings: SheetSettings) -> SheetTable:
        """As :meth:`read`, of a file.

        Raises:
            OSError: the file cannot be read.
        """
        size = path.stat().st_size
        if size > self._tuning.most_sheet:
            raise fail(
                "sheet-too-large",
                f"The file is larger than {self._tuning.most_sheet // 2**20:,} MB.",
                where="the file",
                do="Divide it into several files; a pattern can name them all.",
            )
        return self.read(path.name, path.read_bytes(), settings)

    def close(self) -> None:
        """End the processes that wait."""
        with self._lock:
            idle, self._idle = self._idle, []
        for process in idle:
            _end(process)

    def _told(self, name: str, data: bytes, settings: SheetSettings) -> bytes:
        """What a process says of a file. One that was ended while it waited is replaced."""
        with self._lock:
            process = self._idle.pop() if self._idle else None
        waited = process is not None
        process = process or self._start()
        try:
            told = self._ask(process, name, data, settings)
        except BaseException:
            _end(process)
            raise
        if told is None:
            _end(process)
            if waited:
                return self._told(name, data, settings)
            # A reader that cannot get memory ends its process.
            raise ProblemError(TOO_MUCH if process.returncode else DAMAGED)
        self._give_back(process, len(told))
        return told

    def _start(self) -> subprocess.Popen[bytes]:
        # One thread for numbers: more would only take memory.
        env = {**os.environ, "OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}
        command = [sys.executable, "-m", _MODULE, str(self._tuning.sheet_memory)]
        return subprocess.Popen(
            command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, env=env
        )

    def _give_back(self, process: subprocess.Popen[bytes], told: int) -> None:
        with self._lock:
            # What a large file took is not given back to the system.
            if len(self._idle) < _KEPT and told < self._tuning.sheet_memory // 16:
                self._idle.append(process)
                return
        _end(process)

    def _ask(self, process: subprocess.Popen[bytes], name: str, data: bytes, settings: SheetSettings) -> bytes | None:
        assert process.stdin is not None
        assert process.stdout is not None
        late = threading.Event()

        def give_up() -> None:
            late.set()
            process.kill()

        timer = threading.Timer(self._tuning.sheet_seconds, give_up)
        timer.start()
        try:
            request = {"name": name, "settings": asdict(settings), "length": len(data), "most": self._tuning.most_sheet}
            process.stdin.write(json.dumps(request).encode() + b"\n")
            process.stdin.write(data)
            process.stdin.flush()
            told = _read_answer(process.stdout)
        except OSError:
            told = None
        finally:
            timer.cancel()
        if told is None and late.is_set():
            raise fail(
                "sheet-too-large",
                f"The file was not read within {self._tuning.sheet_seconds:g} seconds.",
                where="the file",
                do=TOO_MUCH.do,
            )
        return told


# One for the process: its readers start once.
READER = SheetReader()
atexit.register(READER.close)


def _read_answer(stream: IO[bytes]) -> bytes | None:
    line = stream.readline()
    if not line.endswith(b"\n"):
        return None
    length = int(line)
    told = stream.read(length)
    return told if len(told) == length else None


def _end(process: subprocess.Popen[bytes]) -> None:
    if process.poll() is None:
        process.kill()
    process.wait(timeout=10)
    for stream in (process.stdin, process.stdout):
        if stream is not None:
            with suppress(OSError):
                stream.close()
