"""The address that gives a browser access to a served workspace."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

import typer

from tin_bucket.core.problem import fail

from .common import Home, app, open_workspace, say

if TYPE_CHECKING:
    from tin_bucket.store.workspace import Workspace


def address_of(workspace: Workspace, base: str) -> str:
    """The address that gives access: the one to print, to open once, and to keep from others."""
    return f"{base}/?access={workspace.access.token}"


@app.command()
@say
def address(
    home: Home = None,
    new: Annotated[
        bool,
        typer.Option("--new", help="Replace the access token first: every browser that had access has none any more."),
    ] = False,
) -> None:
    """Print the address of the workspace that is being served, with its access token."""
    workspace = open_workspace(home)
    try:
        if new:
            workspace.access.renew()
        base = workspace.served_at()
        if base is None:
            raise fail(
                "not-served",
                "Nothing serves this workspace at the moment." + (" The new access token is in force." if new else ""),
                where=str(workspace.home),
                do="Start it with “tin-bucket serve”; it prints its address.",
            )
        print(address_of(workspace, base))
    finally:
        workspace.close()
