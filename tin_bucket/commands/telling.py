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


@contextmanager
def progress_bar() -> Iterator[Progress]:
    """A bar on a terminal; nothing elsewhere."""
    from rich.console import Console
    from rich.progress import BarColumn, MofNCompleteColumn, Progress, TextColumn, TimeElapsedColumn

    columns = (
        TextColumn("{task.description}", markup=False),
        BarColumn(),
        MofNCompleteColumn(separator=" of "),
    )
    console = Console(stderr=True, highlight=False)
    bar = Progress(
        *columns, TimeElapsedColumn(), console=console, transient=True, disable=not sys.stderr.isatty(),
        redirect_stdout=False,
    )  # fmt: skip
    with bar:
        yield bar
