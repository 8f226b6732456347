"""What the commands say on standard error: plain lines, which are never markup and never broken by width."""

from __future__ import annotations

import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TYPE_CHECKING

from tin_bucket.core.problem import Problem

if TYPE_CHECKING:
    from rich.progress import Progress

_BOLD, _PLAIN = "\x1b[1m", "\x1b[0m"


def tell(text: str) -> None:
    """Say a line. A terminal breaks it where it likes; a file or a pipe has it whole."""
    print(_printable(text), file=sys.stderr, flush=True)


def tell_problem(problem: Problem) -> None:
    """Say what went wrong: its kind, what, the service's own words, where, and what to do."""
    kind = f"{_BOLD}{problem.kind}{_PLAIN}" if sys.stderr.isatty() else problem.kind
    print(f"{kind}: {_printable(problem.what)}", file=sys.stderr)
    for label, text in (("It says", problem.words), ("Where", problem.where), ("What to do", problem.do)):
        if text:
            tell(f"  {label}: {text}")


def _printable(text: str) -> str:
    """A text without characters that a terminal takes for commands (ECMA-48): a service's words may hold any."""
    return "".join(char if char in "\n\t" or char.isprintable() else "\ufffd" for char in text)


class Bar:
    """How far something is, on a terminal; elsewhere it says nothing."""

    def __init__(self, bar: Progress | None, doing: str, total: int | None) -> None:
        self._bar = bar
        self._task = bar.add_task(doing, total=total) if bar is not None else None

    def update(self, completed: int, total: int | None = None, doing: str | None = None) -> None:
        """Say how far it is, of how much, and what is being done where that changed."""
        if self._bar is not None and self._task is not None:
            self._bar.update(self._task, completed=completed, total=total, description=doing)


@contextmanager
def progress_bar(doing: str, total: int | None = None) -> Iterator[Bar]:
    """A bar on a terminal; nothing elsewhere."""
    if not sys.stderr.isatty():
        yield Bar(None, doing, total)
        return
    from rich.console import Console
    from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeElapsedColumn

    columns = (
        TextColumn("{task.description}", markup=False),
        BarColumn(),
        MofNCompleteColumn(separator=" of "),
        TimeElapsedColumn(),
    )
    console = Console(stderr=True, highlight=False)
    with Progress(*columns, console=console, transient=True, redirect_stdout=False) as bar:
        yield Bar(bar, doing, total)
