"""What the commands have in common: the application, exit codes, how problems end a command, the workspace.

What takes time to import is imported by the command that needs it: ``--help`` and a wrong option answer at once.
"""

from __future__ import annotations

import json
import os
import signal
import sys
from collections.abc import Callable
from contextlib import suppress
from functools import wraps
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Any

import typer

from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.gc_pause import collect_rarely

from .advice import fitting
from .telling import tell_problem

if TYPE_CHECKING:
    from tin_bucket.store.workspace import Workspace

app = typer.Typer(
    help="Asks web APIs, turns the answers into tables, keeps a dated copy of every table.",
    epilog="Exit codes: 0 done and complete, 1 failed, 2 wrong command line, 3 incomplete, 4 unverified, 5 would wait,"
    " 6 differs, 130 and 143 stopped by a signal. docs/command-line.md says more.",
    add_completion=False,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
)
Home = Annotated[Path | None, typer.Option(help="The workspace's folder.")]
PASSPHRASE = "TIN_BUCKET_PASSPHRASE"
Passphrase = Annotated[bool, typer.Option("--passphrase", help=f"Ask for the vault's passphrase; or set {PASSPHRASE}.")]
AsJson = Annotated[bool, typer.Option("--json", help="For machines: JSON, one object a line, on standard output.")]
FAILED, WOULD_WAIT, DIFFERS = 1, 5, 6
EXIT_CODES = {"complete": 0, "incomplete": 3, "unverified": 4}  # By the state of the table.


def say(command: Callable[..., Any]) -> Callable[..., Any]:
    """Say a problem on standard error, in words, and end with exit code 1; a signal ends with 128 and its number (POSIX
    2.8.2), after all that must be cleared away."""

    @wraps(command)
    def run(*args: Any, **options: Any) -> Any:
        # Before the packages are imported that most commands need: looking for plug-ins takes longer than all it finds.
        collect_rarely()
        os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
        with suppress(ValueError):  # In another thread than the main one there are no signals.
            signal.signal(signal.SIGTERM, _stopped)
        try:
            return command(*args, **options)
        except ProblemError as error:
            tell_problem(fitting(error.problem, str(options.get("query") or "")))
            raise typer.Exit(FAILED) from error
        except KeyboardInterrupt:
            raise typer.Exit(128 + signal.SIGINT) from None
        except BrokenPipeError:
            # Whoever reads has read enough, as head does.
            os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
            raise typer.Exit(128 + signal.SIGPIPE) from None

    return run


def _stopped(number: int, _: object) -> None:
    raise SystemExit(128 + number)


def open_workspace(home: Path | None, create: bool = False) -> Workspace:
    """The workspace of a folder, else the usual one.

    Raises:
        ProblemError: it is not there, or cannot be read.
    """
    from tin_bucket.store.workspace import Workspace, default_home

    return Workspace(home or default_home(), create=create)


def unlock(workspace: Workspace, ask: bool) -> None:
    """Open the vault with the passphrase: typed in, or from the environment. Never from the command line itself."""
    if not workspace.vault.wants_passphrase:
        return
    given = os.environ.get(PASSPHRASE)
    if ask:
        given = typer.prompt("Passphrase of the vault", hide_input=True, err=True)
    if given:
        workspace.vault.unlock(given)


def print_json(document: object) -> None:
    """One object on a line of standard output."""
    print(json.dumps(document, ensure_ascii=False))


def counted(count: int, one: str, many: str = "") -> str:
    """A number with what it counts."""
    return f"{count:,} {one if count == 1 else many or f'{one}s'}"


def read_json(path: Path) -> Any:
    """
    Raises:
        ProblemError: ``file-unreadable``.
    """
    try:
        return json.loads(path.read_text())
    except OSError as error:
        raise fail(
            "file-unreadable", f"The file cannot be read: {error.strerror}.", where=str(path), do="Check its path."
        ) from error
    except ValueError as error:
        at = f" in line {error.lineno}" if isinstance(error, json.JSONDecodeError) else ""
        raise fail("file-unreadable", f"The file is not JSON{at}.", where=str(path), do="Correct it there.") from error
