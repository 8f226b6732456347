"""Snapshots from the command line: name them, pin them, delete them."""

from __future__ import annotations

import sys
from typing import Annotated

import typer

from tin_bucket.core.problem import fail

from .common import Home, app, counted, open_workspace, say
from .telling import tell

snapshot = typer.Typer(help="Name, pin and delete snapshots.", no_args_is_help=True)
app.add_typer(snapshot, name="snapshot")

QueryName = Annotated[str, typer.Argument(help="Name or number of a query.")]
_DATE = "2026-11-20, 2026-11-20T14:30, or #12 for the snapshot of that number"


@snapshot.command("label")
@say
def label(
    query: QueryName,
    date: Annotated[str, typer.Argument(help=f"{_DATE}.")],
    name: Annotated[str | None, typer.Option(help="Its name; an empty one takes it away.")] = None,
    note: Annotated[str | None, typer.Option(help="A note to it; an empty one takes it away.")] = None,
    pin: Annotated[
        bool | None,
        typer.Option("--pin/--no-pin", help="Whether it stays whatever the rule lets go.", show_default=False),
    ] = None,
    home: Home = None,
) -> None:
    """Name a snapshot, write a note to it, pin it. One with a name or a pin stays whatever the rule of its query lets
    go."""
    from .dates import snapshot_at

    workspace = open_workspace(home)
    try:
        found = workspace.queries.find(query)
        one = snapshot_at(found.name, workspace.snapshots.of_query(found.id), date, "the date")
        workspace.snapshots.label(
            one.id,
            one.name if name is None else name,
            one.note if note is None else note,
            one.pinned if pin is None else pin,
        )
        tell(f"{found.name}, #{one.id}: noted.")
    finally:
        workspace.close()


@snapshot.command("delete")
@say
def delete(
    query: QueryName,
    dates: Annotated[list[str], typer.Argument(help=f"{_DATE}; as many as needed.")],
    yes: Annotated[bool, typer.Option("--yes", help="Delete them without asking.")] = False,
    home: Home = None,
) -> None:
    """Delete snapshots for good, and say what goes with them. The others read the same."""
    from .dates import snapshot_at

    workspace = open_workspace(home)
    try:
        found = workspace.queries.find(query)
        kept = workspace.snapshots.of_query(found.id)
        chosen = {snapshot_at(found.name, kept, date, "the date").id for date in dates}
        weight = workspace.removal.freed(found.id, chosen)
        goes = (
            f"{counted(len(chosen), 'snapshot')} of {found.name}, with {counted(weight.rows, 'row')} that"
            f" no other one has, {_size(weight.size)}"
        )
        if not yes:
            if not sys.stdin.isatty():
                raise fail(
                    "not-confirmed",
                    f"This would delete {goes}.",
                    where="command line",
                    do="Say --yes to delete them.",
                )
            typer.confirm(f"Delete {goes}?", abort=True, err=True)
        workspace.removal.delete(found.id, chosen)
        tell(f"Deleted: {goes}.")
    finally:
        workspace.close()


def _size(size: float) -> str:
    if size < 1_000:
        return f"{size:,.0f} bytes"
    if size < 1_000_000:
        return f"{size / 1_000:,.1f} kB"
    return f"{size / 1_000_000:,.1f} MB"
