"""Commands that keep a workspace safe: a backup, its way back, and a check of everything that is stored."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated

import typer
from rich.filesize import decimal

from tin_bucket.engine.clock import Clock
from tin_bucket.store.backup import BackupSummary, restore_backup, write_backup
from tin_bucket.store.integrity import check_stored
from tin_bucket.store.workspace import Workspace, default_home

from .common import FAILED, PASSPHRASE, Home, app, errors, progress_bar, say


@app.command()
@say
def backup(
    file: Annotated[Path, typer.Argument(help="File to write; a whole one takes the place of one that is there.")],
    home: Home = None,
    without_keys: Annotated[bool, typer.Option("--without-keys", help="Leave the stored keys out.")] = False,
) -> None:
    """Write the whole workspace to one file, also while it is served. Stored keys are sealed under a passphrase: the
    vault's own, or else one that is asked for here (or taken from TIN_BUCKET_PASSPHRASE)."""
    workspace = Workspace(home or default_home())
    try:
        passphrase = None
        if not without_keys and workspace.vault.key_count() and not workspace.vault.has_passphrase:
            passphrase = os.environ.get(PASSPHRASE) or typer.prompt(
                "Passphrase for the keys in the backup", hide_input=True, confirmation_prompt=True, err=True
            )
        with _telling("writing") as tell:
            made = write_backup(workspace, file, Clock().now(), keys=not without_keys, passphrase=passphrase, tell=tell)
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
    target = home or default_home()
    with _telling("restoring") as tell:
        made = restore_backup(file, target, tell)
    print(f"{target}: {_told(made)}, as of {made.made}")
    if made.keys:
        print(
            "Its keys open with the passphrase of the backup."
            " “tin-bucket vault --key-file” seals them under a key file again."
        )


@app.command("check")
@say
def check_command(home: Home = None) -> None:
    """Read everything that is stored by its digests and say what is damaged. The exit code is 1 when something is."""
    workspace = Workspace(home or default_home())
    try:
        with _telling("reading") as tell:
            report = check_stored(workspace, tell)
    finally:
        workspace.close()
    print(
        f"Read {_counted(report.snapshots, 'snapshot')}, {_counted(report.rows, 'row')},"
        f" {_counted(report.answers, 'saved answer')} and {_counted(report.sheets, 'sheet')}."
    )
    for damage in report.damages:
        print(f"{damage.where}: {damage.what} {damage.do}")
    if report.damages:
        errors.print(f"{_counted(len(report.damages), 'damage')} found; the rest is as it was stored.", markup=False)
        raise typer.Exit(FAILED)
    print("All of it is as it was stored.")


@contextmanager
def _telling(doing: str) -> Iterator[Callable[[int, int], None]]:
    with progress_bar() as bar:
        task = bar.add_task(doing, total=None)
        yield lambda done, of: bar.update(task, completed=done, total=of)


def _told(made: BackupSummary) -> str:
    keys = _counted(made.keys, "sealed key") if made.keys else "no keys"
    files = f", {_counted(made.files, 'file')}" if made.files else ""
    return (
        f"{_counted(made.queries, 'query', 'queries')}, {_counted(made.snapshots, 'snapshot')}, {keys}{files},"
        f" {decimal(made.size)}"
    )


def _counted(count: int, one: str, many: str = "") -> str:
    return f"{count:,} {one if count == 1 else many or f'{one}s'}"
