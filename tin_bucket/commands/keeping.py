"""Commands that keep a workspace safe: a backup, its way back, and a check of everything that is stored."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import asdict
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from .common import (
    FAILED,
    PASSPHRASE,
    AsJson,
    Home,
    Passphrase,
    app,
    counted,
    open_workspace,
    print_json,
    say,
    unlock,
)
from .telling import progress_bar, tell

if TYPE_CHECKING:
    from tin_bucket.store.backup import BackupSummary
    from tin_bucket.store.workspace import Workspace


@app.command()
@say
def backup(
    file: Annotated[Path, typer.Argument(help="File to write; a whole one takes the place of one that is there.")],
    home: Home = None,
    without_keys: Annotated[bool, typer.Option("--without-keys", help="Leave the stored keys out.")] = False,
) -> None:
    """Write the whole workspace to one file, also while it is served. Stored keys are sealed under a passphrase: the
    vault's own, or else one that is asked for here (or taken from TIN_BUCKET_PASSPHRASE)."""
    from tin_bucket.engine.clock import Clock
    from tin_bucket.store.backup import write_backup

    workspace = open_workspace(home)
    try:
        passphrase = None
        if not without_keys and workspace.vault.key_count() and not workspace.vault.has_passphrase:
            passphrase = os.environ.get(PASSPHRASE) or typer.prompt(
                "Passphrase for the keys in the backup", hide_input=True, confirmation_prompt=True, err=True
            )
        with _telling("writing") as told:
            made = write_backup(workspace, file, Clock().now(), keys=not without_keys, passphrase=passphrase, tell=told)
    finally:
        workspace.close()
    print(f"{file}: {_told(made)}")


@app.command()
@say
def restore(
    file: Annotated[Path, typer.Argument(help="A file that backup wrote.")],
    home: Home = None,
) -> None:
    """Make a workspace of a backup, in a folder that has none."""
    from tin_bucket.store.backup import restore_backup
    from tin_bucket.store.workspace import default_home

    target = home or default_home()
    with _telling("restoring") as told:
        made = restore_backup(file, target, told)
    print(f"{target}: {_told(made)}, as of {made.made}")
    if made.keys:
        print(
            "Its keys open with the passphrase of the backup."
            " “tin-bucket vault --key-file” seals them under a key file again."
        )


@app.command("check")
@say
def check_command(
    service: Annotated[
        str | None, typer.Argument(help="A service to ask, by its name or id; without one, what is stored is read.")
    ] = None,
    home: Home = None,
    passphrase: Passphrase = False,
    as_json: AsJson = False,
) -> None:
    """Read everything that is stored by its digests and say what is damaged; or ask a service whether it answers and
    takes its key. The exit code is 1 when something is damaged, or the service does not."""
    workspace = open_workspace(home)
    try:
        if service is not None:
            from .services import ask_service

            unlock(workspace, passphrase)
            if not ask_service(workspace, service, as_json):
                raise typer.Exit(FAILED)
            return
        _check_stored(workspace, as_json)
    finally:
        workspace.close()


def _check_stored(workspace: Workspace, as_json: bool) -> None:
    from tin_bucket.store.integrity import check_stored

    with _telling("reading") as told:
        report = check_stored(workspace, told)
    if as_json:
        print_json(asdict(report))
        if report.damages:
            raise typer.Exit(FAILED)
        return
    print(
        f"Read {counted(report.snapshots, 'snapshot')}, {counted(report.rows, 'row')},"
        f" {counted(report.answers, 'saved answer')} and {counted(report.sheets, 'sheet')}."
    )
    for damage in report.damages:
        print(f"{damage.where}: {damage.what} {damage.do}")
    if report.damages:
        tell(f"{counted(len(report.damages), 'damage')} found; the rest is as it was stored.")
        raise typer.Exit(FAILED)
    print("All of it is as it was stored.")


@contextmanager
def _telling(doing: str) -> Iterator[Callable[[int, int], None]]:
    with progress_bar(doing) as bar:
        yield bar.update


def _told(made: BackupSummary) -> str:
    from rich.filesize import decimal

    keys = counted(made.keys, "sealed key") if made.keys else "no keys"
    files = f", {counted(made.files, 'file')}" if made.files else ""
    return (
        f"{counted(made.queries, 'query', 'queries')}, {counted(made.snapshots, 'snapshot')}, {keys}{files},"
        f" {decimal(made.size)}"
    )
