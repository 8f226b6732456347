"""The one command, ``tin-bucket``, and its subcommands."""

from __future__ import annotations

import json
import logging
import shutil
import signal
import sys
from datetime import date
from typing import TYPE_CHECKING, Annotated

import typer

from tin_bucket import __version__
from tin_bucket.commands import (  # noqa: F401 their commands join the application
    access,
    carrying,
    feeds,
    history,
    keeping,
    refresh,
    services,
    snapshots,
    tables,
)
from tin_bucket.commands.access import address_of
from tin_bucket.commands.common import Home, Passphrase, app, open_workspace, say, unlock
from tin_bucket.commands.telling import progress_bar
from tin_bucket.core.problem import ProblemError, fail

if TYPE_CHECKING:
    from tin_bucket.core.traffic.address_policy import Reach
    from tin_bucket.store.workspace import Workspace

LOOPBACK = "127.0.0.1"


def _say_version(wanted: bool) -> None:
    if wanted:
        print(__version__)
        raise typer.Exit


@app.callback()
def main(
    version: Annotated[
        bool, typer.Option("--version", help="Print the version.", is_eager=True, callback=_say_version)
    ] = False,
) -> None:
    """Asks web APIs, turns the answers into tables, keeps a dated copy of every table."""


@app.command()
@say
def serve(
    home: Home = None,
    port: Annotated[int, typer.Option(help="Port to listen on; 0 takes any free one.")] = 8610,
    host: Annotated[str, typer.Option(help="Address to listen on: one of this machine's own alone.")] = LOOPBACK,
    public_only: Annotated[
        bool, typer.Option(help="Call public addresses alone: for a machine that several people share.")
    ] = False,
    passphrase: Passphrase = False,
) -> None:
    """Serve a workspace to the browser on this machine; the workspace is made when it is missing."""
    _refuse_other_machines(host)
    workspace = open_workspace(home, create=True)
    workspace.hold_for_serving()
    try:
        unlock(workspace, passphrase)
        _serve(workspace, port, [f"Workspace: {workspace.home}"], "public only" if public_only else "own machine")
    finally:
        workspace.close()


def _serve(workspace: Workspace, port: int, lines: list[str], reach: Reach = "own machine") -> None:
    import socket

    import uvicorn

    from tin_bucket.web.app import create_app

    logging.basicConfig(level=logging.WARNING, format="%(asctime)s %(name)s %(levelname)s %(message)s")
    # The interface answers beside runs that keep other threads busy.
    sys.setswitchinterval(0.001)
    listener = socket.socket()
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((LOOPBACK, port))
        # A browser that opens the address as soon as it is printed waits a moment instead of being refused.
        listener.listen(128)
    except OSError as error:
        raise _port_taken(port, "choose another with --port") from error
    base = f"http://{LOOPBACK}:{listener.getsockname()[1]}"
    workspace.serving_at(base)
    for line in (f"Tin Bucket is at {address_of(workspace, base)}", *lines):
        print(line, flush=True)
    config = uvicorn.Config(
        create_app(workspace, reach), log_level="warning", access_log=False, timeout_graceful_shutdown=2
    )
    server = uvicorn.Server(config)
    try:
        server.run(sockets=[listener])
    except SystemExit as end:
        # A service that is told to stop, and has stopped, did not fail.
        if not server.started or end.code != 128 + signal.SIGTERM:
            raise


def _refuse_other_machines(host: str) -> None:
    if host not in (LOOPBACK, "localhost"):
        raise fail(
            "host-refused",
            "Tin Bucket listens on this machine alone: it does not know several people, so it has no sign-in for them.",
            where=f"--host {host}",
            do=f"Leave --host out. From another machine, forward a port over SSH: ssh -L 8610:{LOOPBACK}:8610 HOST.",
        )


def _port_taken(port: int, otherwise: str) -> ProblemError:
    return fail(
        "port-taken",
        f"Port {port} is taken.",
        where=f"{LOOPBACK}:{port}",
        do=f"Stop the program that uses it, or {otherwise}.",
    )


@app.command()
@say
def demo(
    home: Home = None,
    port: Annotated[int, typer.Option(help="Port of Tin Bucket; 0 takes any free one.")] = 8610,
    service_port: Annotated[
        int,
        typer.Option(
            help="Port of the first simulated service; the others take the next ones. 0 takes any free ones."
            " A demo that exists keeps its ports."
        ),
    ] = 8611,
    days: Annotated[int, typer.Option(help="Days of snapshots to make, when the workspace is new.")] = 30,
) -> None:
    """Serve a demo: a simulated ferry company, and a workspace with a month of snapshots."""
    import asyncio

    from tin_bucket.demo.company import Company
    from tin_bucket.demo.notices import add_notices, receiver_ports, set_mail
    from tin_bucket.demo.running import PortTaken
    from tin_bucket.demo.services.receiver import Receiver
    from tin_bucket.demo.setting import furnish, service_ports
    from tin_bucket.store.workspace import default_home

    folder = home or default_home().with_name("tin-bucket-demo")
    # The services of a demo that exists stay where its queries ask them.
    ports = service_ports(folder) if folder.exists() else {}
    company = Company(date.today(), 0.03, service_port, ports)
    behind = service_port + len(company.services) if service_port else 0
    receiver = Receiver(*(receiver_ports(folder) if ports else (behind, behind + 1 if behind else 0)))
    try:
        company.__enter__()
        try:
            receiver.__enter__()
        except BaseException:
            company.__exit__()
            raise
    except PortTaken as error:
        kept = "make another demo with --home: this one keeps the ports of its services"
        raise _port_taken(error.port, kept if ports else "choose others with --service-port") from error
    try:
        if not folder.exists():
            # Made beside and moved into place, so that a demo that was interrupted leaves nothing half done.
            making = folder.with_name(f"{folder.name}.making")
            shutil.rmtree(making, ignore_errors=True)
            with progress_bar("making a month of snapshots", days) as bar:
                asyncio.run(furnish(making, company, date.today(), days, bar.update))
                add_notices(making, receiver)
            making.rename(folder)
        workspace = open_workspace(folder)
        workspace.hold_for_serving()
        set_mail(workspace, receiver)
        try:
            lines = [
                "The simulated services and their docs:",
                *(f"  {company.services[name].name}: {base}/" for name, base in company.bases.items()),
                f"  What notices send: {receiver.base}/",
                f"Workspace: {folder}",
            ]
            _serve(workspace, port, lines)
        finally:
            workspace.close()
    finally:
        receiver.__exit__()
        company.__exit__()


@app.command()
@say
def schema(
    of_services: Annotated[bool, typer.Option("--services", help="That of a file of services instead.")] = False,
) -> None:
    """The query format as a JSON Schema (draft 2020-12)."""
    from tin_bucket.core.document.query import brief_schema
    from tin_bucket.core.document.service import services_schema

    print(json.dumps(services_schema() if of_services else brief_schema(), indent=1, ensure_ascii=False))


if __name__ == "__main__":
    app()
