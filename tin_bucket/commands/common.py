"""What the commands have in common: the application, how problems are said, the workspace's folder and passphrase."""

from __future__ import annotations

import json
import os
import sys
from collections.abc import Callable
from functools import wraps
from pathlib import Path
from typing import Annotated, Any

import typer
from rich.console import Console
from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn

from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.store.workspace import Workspace

app = typer.Typer(
    help="Asks web APIs, turns the answers into tables, keeps a dated copy of every table.", add_completion=False
)
errors = Console(stderr=True, highlight=False)
Home = Annotated[Path | None, typer.Option(help="The workspace's folder.")]
PASSPHRASE = "TIN_BUCKET_PASSPHRASE"
Passphrase = Annotated[bool, typer.Option("--passphrase", help=f"Ask for the vault's passphrase; or set {PASSPHRASE}.")]
FAILED = 1
EXIT_CODES = {"complete": 0, "incomplete": 3, "unverified": 4}  # By the state of the table.


def say(command: Callable[..., Any]) -> Callable[..., Any]:
    """Say a problem on standard error, in words, and end with exit code 1."""

    @wraps(command)
    def run(*args: Any, **options: Any) -> Any:
        try:
            return command(*args, **options)
        except ProblemError as error:
            problem = error.problem
            errors.print(f"[bold]{problem.kind}[/bold]: {problem.what}", markup=True)
            for label, text in (("It says", problem.words), ("Where", problem.where), ("What to do", problem.do)):
                if text:
                    errors.print(f"  {label}: {text}", markup=False)
            raise typer.Exit(FAILED) from error

    return run


def unlock(workspace: Workspace, ask: bool) -> None:
    """Open the vault with the passphrase: typed in, or from the environment. Never from the command line itself."""
    if not workspace.vault.wants_passphrase:
        return
    given = os.environ.get(PASSPHRASE)
    if ask:
        given = typer.prompt("Passphrase of the vault", hide_input=True, err=True)
    if given:
        workspace.vault.unlock(given)


def progress_bar() -> Progress:
    columns = (TextColumn("{task.description}"), BarColumn(), TextColumn("{task.completed} of {task.total}"))
    return Progress(*columns, TimeElapsedColumn(), console=errors, transient=True, disable=not sys.stderr.isatty())


def read_json(path: Path) -> Any:
    try:
        return json.loads(path.read_text())
    except OSError as error:
        raise fail(
            "file-unreadable", f"The file cannot be read: {error.strerror}.", where=str(path), do="Check its path."
        ) from error
    except ValueError as error:
        at = f" in line {error.lineno}" if isinstance(error, json.JSONDecodeError) else ""
        raise fail("file-unreadable", f"The file is not JSON{at}.", where=str(path), do="Correct it there.") from error
