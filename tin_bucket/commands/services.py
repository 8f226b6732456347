"""Services from the command line: store, list and delete their keys, and ask them whether they answer."""

from __future__ import annotations

from dataclasses import asdict
from typing import TYPE_CHECKING, Annotated

import typer

from tin_bucket.core.problem import fail

from .common import AsJson, Home, Passphrase, app, open_workspace, print_json, say, unlock
from .telling import tell

if TYPE_CHECKING:
    from tin_bucket.core.document.service import Service
    from tin_bucket.store.workspace import Workspace

key = typer.Typer(help="The keys of services: store, list and delete them.", no_args_is_help=True)
app.add_typer(key, name="key")
ServiceName = Annotated[str, typer.Argument(help="Name or id of a service.")]


def service_named(workspace: Workspace, name: str) -> Service:
    """A service by its id or its name.

    Raises:
        ProblemError: ``service-unknown``.
    """
    services = workspace.services.all()
    for one in services:
        if name in (one.id, one.name):
            return one
    near = [one for one in services if one.name.casefold() == name.casefold()]
    if len(near) == 1:
        return near[0]
    known = ", ".join(f"“{one.name}”" for one in services[:8])
    raise fail(
        "service-unknown-here",
        f"There is no service “{name}”.",
        where=str(workspace.home),
        do=f"Name one of {known}." if known else "Import one with tin-bucket import-bundle.",
    )


def ask_service(workspace: Workspace, name: str, as_json: bool = False) -> bool:
    """Ask a service whether it answers and takes its key; says what came of it, and gives whether all is well."""
    import asyncio

    from tin_bucket.engine.clock import Clock
    from tin_bucket.engine.engine import Engine
    from tin_bucket.engine.preview.check import Check, check_service

    service = service_named(workspace, name)

    async def go() -> Check:
        engine = Engine(workspace, Clock())
        try:
            return await check_service(engine.connections, service)
        finally:
            await engine.close()

    found = asyncio.run(go())
    well = found.reading in ("reached", "key-accepted")
    if as_json:
        print_json({"service": service.id, "well": well, **asdict(found)})
        return well
    print(f"{service.name}: {found.what}")
    if found.do:
        tell(f"  What to do: {found.do}")
    return well


@key.command("set")
@say
def set_key(
    service: ServiceName,
    source: Annotated[
        list[str] | None,
        typer.Option(
            "--from", help="env:VARIABLE or file:PATH; FIELD=env:VARIABLE where the key has several fields. Else a"
            " prompt asks, without showing what is typed.",
        ),
    ] = None,
    home: Home = None,
    passphrase: Passphrase = False,
) -> None:  # fmt: skip
    """Store the key of a service in the vault, in place of the one it had."""
    from tin_bucket.engine.clock import Clock

    from .given_keys import secret_from

    workspace = open_workspace(home)
    try:
        unlock(workspace, passphrase)
        found = service_named(workspace, service)
        if found.key is None:
            raise fail(
                "key-unwanted",
                f"{found.name} is asked without a key.",
                where=f"service {found.name}",
                do="Say where its key goes on the page Services and keys first.",
            )
        wants = found.key.required_fields()
        given: dict[str, str] = {}
        for one in source or []:
            field, sign, rest = one.partition("=")
            if not sign:
                field, rest = wants[0] if len(wants) == 1 else "", one
            if field not in wants:
                raise fail(
                    "options-unfit",
                    f"The key “{found.key.name}” is made of {' and '.join(wants)}.",
                    where="--from",
                    do=f"Write --from {wants[0]}=env:VARIABLE.",
                )
            given[field] = secret_from(rest, found.key.name, "--from")
        for field in wants:
            if field not in given:
                label = found.key.name if len(wants) == 1 else f"{found.key.name}, {field}"
                given[field] = typer.prompt(label, hide_input=True, err=True)
        workspace.vault.store(found.id, found.key.bound_to(found.base), given, Clock().now())
        print(f"Stored: the key “{found.key.name}” of {found.name}. It goes to {found.key.bound_to(found.base)} alone.")
    finally:
        workspace.close()


@key.command("list")
@say
def list_keys(home: Home = None, as_json: AsJson = False) -> None:
    """The services with their keys: whether each is stored, since when, and when it was last used. Never a key."""
    workspace = open_workspace(home)
    try:
        for service in workspace.services.all():
            state = workspace.vault.state(service.id) if service.key is not None else None
            name = service.key.name if service.key is not None else None
            if as_json:
                print_json({
                    "service": service.id, "name": service.name, "key": name, "stored": state.stored if state else None,
                    "last_used": state.last_used if state else None, "expires": state.expires if state else None,
                })  # fmt: skip
                continue
            if name is None:
                told = "asked without a key"
            elif state is None:
                told = f"the key “{name}” is not stored"
            else:
                used = f", last used {state.last_used}" if state.last_used else ", not used yet"
                ends = f", ends {state.expires}" if state.expires else ""
                told = f"the key “{name}” is stored since {state.stored}{used}{ends}"
            print(f"{service.id}  {service.name}: {told}")
    finally:
        workspace.close()


@key.command("delete")
@say
def delete_key(service: ServiceName, home: Home = None) -> None:
    """Delete the key of a service from the vault."""
    workspace = open_workspace(home)
    try:
        found = service_named(workspace, service)
        if workspace.vault.state(found.id) is None:
            raise fail(
                "key-not-stored", f"{found.name} has no stored key.", where=f"service {found.name}", do="Nothing to do."
            )
        workspace.vault.forget(found.id)
        print(f"Deleted: the key of {found.name}.")
    finally:
        workspace.close()
