"""The one command, ``tin-bucket``: serve, demo, run, export, list, take-out, bring-in, vault, folder, schema."""

from __future__ import annotations

import asyncio
import json
import logging
import os
import shutil
import sys
import tempfile
from collections.abc import Callable
from datetime import date
from functools import wraps
from pathlib import Path
from typing import Annotated, Any, cast

import typer
from pydantic import ValidationError
from rich.console import Console
from rich.progress import BarColumn, Progress, TextColumn, TimeElapsedColumn

from tin_bucket.core.brief import Brief, brief_schema, load_brief, validation_problem
from tin_bucket.core.carry import Choice, parcel_text
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.reach import Reach
from tin_bucket.core.service import Service
from tin_bucket.core.values import Given
from tin_bucket.engine.carrying import bring_in, look_at, take_out
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.engine import Engine
from tin_bucket.feeds.tables import WRITERS
from tin_bucket.store.runs import Run
from tin_bucket.store.snapshots import Snapshot
from tin_bucket.store.workspace import Workspace, default_home

app = typer.Typer(
    help="Asks web APIs, turns the answers into tables, keeps a dated copy of every table.", add_completion=False
)
errors = Console(stderr=True, highlight=False)
Home = Annotated[Path | None, typer.Option(help="The workspace's folder.")]
PASSPHRASE = "TIN_BUCKET_PASSPHRASE"
Passphrase = Annotated[bool, typer.Option("--passphrase", help=f"Ask for the vault's passphrase; or set {PASSPHRASE}.")]
NOT_WHOLE, FAILED = 3, 1
LOOPBACK = "127.0.0.1"


def _say(command: Callable[..., Any]) -> Callable[..., Any]:
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


@app.command()
@_say
def serve(
    home: Home = None,
    port: Annotated[int, typer.Option(help="Port to listen on.")] = 8610,
    public_only: Annotated[
        bool, typer.Option(help="Call public addresses alone: for a machine that several people share.")
    ] = False,
    passphrase: Passphrase = False,
) -> None:
    """Serve a workspace to the browser on this machine; the workspace is made when it is missing."""
    workspace = Workspace(home or default_home(), create=True)
    workspace.hold_for_serving()
    try:
        _unlock(workspace, passphrase)
        lines = [f"Tin Bucket is at http://{LOOPBACK}:{port}/", f"Workspace: {workspace.home}"]
        _serve(workspace, port, lines, "public only" if public_only else "own machine")
    finally:
        workspace.close()


def _unlock(workspace: Workspace, ask: bool) -> None:
    """Open the vault with the passphrase: typed in, or from the environment. Never from the command line itself."""
    if not workspace.vault.wants_passphrase:
        return
    given = os.environ.get(PASSPHRASE)
    if ask:
        given = typer.prompt("Passphrase of the vault", hide_input=True, err=True)
    if given:
        workspace.vault.unlock(given)


def _serve(workspace: Workspace, port: int, lines: list[str], reach: Reach = "own machine") -> None:
    import socket

    import uvicorn

    from tin_bucket.web.app import create_app

    logging.basicConfig(level=logging.WARNING, format="%(asctime)s %(name)s %(levelname)s %(message)s")
    listener = socket.socket()
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind((LOOPBACK, port))
        # Whoever opens the address as soon as it is printed waits a moment instead of being refused.
        listener.listen(128)
    except OSError as error:
        raise _port_taken(port) from error
    for line in lines:
        print(line, flush=True)
    config = uvicorn.Config(
        create_app(workspace, reach), log_level="warning", access_log=False, timeout_graceful_shutdown=2
    )
    uvicorn.Server(config).run(sockets=[listener])


def _port_taken(port: int) -> ProblemError:
    return fail(
        "port-taken",
        f"Port {port} is taken.",
        where=f"{LOOPBACK}:{port}",
        do="Stop the program that uses it, or choose another with --port or --service-port.",
    )


@app.command()
@_say
def demo(
    home: Home = None,
    port: Annotated[int, typer.Option(help="Port of Tin Bucket.")] = 8610,
    service_port: Annotated[
        int, typer.Option(help="Port of the first simulated service; the others take the next ones.")
    ] = 8611,
    days: Annotated[int, typer.Option(help="Days of snapshots to make, when the workspace is new.")] = 30,
) -> None:
    """Serve a demo: a simulated ferry company, and a workspace with a month of snapshots."""
    from tin_bucket.demo.company import Company
    from tin_bucket.demo.setting import furnish

    folder = home or default_home().with_name("tin-bucket-demo")
    company = Company(date.today(), 0.03, service_port)
    try:
        company.__enter__()
    except OSError as error:
        raise _port_taken(service_port) from error
    try:
        if not folder.exists():
            # Made beside and moved into place, so that a demo that was broken off leaves nothing half done.
            making = folder.with_name(f"{folder.name}.making")
            shutil.rmtree(making, ignore_errors=True)
            with _bar() as bar:
                task = bar.add_task("making a month of snapshots", total=days)

                def tell(done: int, of: int) -> None:
                    bar.update(task, completed=done, total=of)

                asyncio.run(furnish(making, company, date.today(), days, tell))
            making.rename(folder)
        workspace = Workspace(folder)
        workspace.hold_for_serving()
        try:
            lines = [
                f"Tin Bucket is at http://{LOOPBACK}:{port}/",
                "The simulated services and their docs:",
                *(f"  {company.services[name].name}: {base}/" for name, base in company.bases.items()),
                f"Workspace: {folder}",
            ]
            _serve(workspace, port, lines)
        finally:
            workspace.close()
    finally:
        company.__exit__()


def _bar() -> Progress:
    columns = (TextColumn("{task.description}"), BarColumn(), TextColumn("{task.completed} of {task.total}"))
    return Progress(*columns, TimeElapsedColumn(), console=errors, transient=True, disable=not sys.stderr.isatty())


@app.command("run")
@_say
def run_query(
    query: Annotated[str, typer.Argument(help="Name or number of a query, or a file with a brief (*.json).")],
    param: Annotated[list[str] | None, typer.Option("--param", help="name=value, as often as needed.")] = None,
    out: Annotated[
        Path | None, typer.Option(help="File to write: *.csv or *.xlsx; - for CSV on standard output.")
    ] = None,
    home: Home = None,
    services: Annotated[Path | None, typer.Option(help="File with the services that a brief file asks.")] = None,
    key: Annotated[
        list[str] | None,
        typer.Option(help="NAME=env:VARIABLE or NAME=file:PATH, for a brief file; NAME.FIELD where it has several."),
    ] = None,
    passphrase: Passphrase = False,
) -> None:
    """Refresh a query and write its table. The exit code is 0 only when the table is whole."""
    given = _given(param or [])
    ending = _ending(out)
    if query.endswith(".json"):
        with tempfile.TemporaryDirectory(prefix="tin-bucket-") as folder:
            workspace = Workspace(Path(folder) / "workspace", create=True)
            name = _furnish_from_files(workspace, Path(query), services, key or [])
            run = _refresh(workspace, name, given, out, ending)
            workspace.close()
    else:
        if services is not None or key:
            raise fail(
                "options-unfit",
                "--services and --key go with a brief file.",
                where="command line",
                do="Leave them out: a workspace has its own services and keys.",
            )
        workspace = Workspace(home or default_home())
        _unlock(workspace, passphrase)
        run = _refresh(workspace, query, given, out, ending)
        workspace.close()
    if run.state != "whole":
        raise typer.Exit(NOT_WHOLE)


def _given(pairs: list[str]) -> dict[str, Given]:
    given: dict[str, Given] = {}
    for pair in pairs:
        name, sign, value = pair.partition("=")
        if not sign or not name:
            raise fail("options-unfit", f"“{pair}” is not name=value.", where="--param", do="Write --param name=value.")
        before = given.get(name)
        # A name that comes again makes a list.
        given[name] = value if before is None else [*([before] if isinstance(before, str) else before), value]
    return given


def _ending(out: Path | None) -> str:
    if out is None or str(out) == "-":
        return "csv"
    ending = out.suffix.lower().lstrip(".")
    if ending not in WRITERS:
        known = " or ".join(f".{name}" for name in WRITERS)
        raise fail("format-unknown", f"“{out.name}” ends with no known format.", where="--out", do=f"Use {known}.")
    return ending


def _refresh(workspace: Workspace, name: str, given: dict[str, Given], out: Path | None, ending: str) -> Run:
    query = workspace.queries.find(name)

    async def go() -> Run:
        engine = Engine(workspace, Clock())
        run_id = await engine.start(query.id, given, "command line", patient=False)
        progress = engine.progress(run_id)
        with _bar() as bar:
            task = bar.add_task(query.name, total=None)
            if progress is not None:
                async for summary in progress.listen():
                    made = summary["calls"] - summary["before_stage"]
                    bar.update(
                        task,
                        description=f"{query.name}, {summary['stage']}",
                        completed=made,
                        total=summary["expected"] or made,
                    )
        await engine.wait(run_id)
        await engine.close()
        return workspace.runs.get(run_id)

    run = asyncio.run(go())
    if run.problem is not None:
        raise ProblemError(run.problem)
    if run.snapshot_id is not None and out is not None:
        _write(workspace, workspace.snapshots.get(run.snapshot_id), query.name, out, ending)
    total = (
        f" of the {run.stated_total:,} that the API states"
        if run.stated_total is not None
        else ", the API states no total"
    )
    rows = f", made {run.rows:,} rows" if run.rows != run.records else ""
    errors.print(f"{query.name}: {run.state}; {run.records:,} records{total}{rows}; {run.calls:,} calls.", markup=False)
    for lacks in run.notes.get("lacks", []):
        errors.print(f"  not whole: {lacks}", markup=False)
    for lookup, note in run.notes.get("lookups", {}).items():
        if note["none"] or note["failed"]:
            errors.print(f"  look up {lookup}: {note['none']} not there, {note['failed']} failed", markup=False)
    return run


def _write(workspace: Workspace, snapshot: Snapshot, title: str, out: Path, ending: str) -> None:
    rows = workspace.snapshots.all_rows(snapshot.id)
    if str(out) == "-":
        WRITERS[ending].write(snapshot.columns, rows, sys.stdout.buffer, title)
        return
    # Written beside and moved into place, so that nobody ever reads half a table.
    beside = out.with_name(f".{out.name}.{os.getpid()}")
    try:
        with beside.open("wb") as file:
            WRITERS[ending].write(snapshot.columns, rows, file, title)
        beside.replace(out)
    except OSError as error:
        raise fail(
            "file-unwritable", f"The file cannot be written: {error.strerror}.", where=str(out), do="Name another."
        ) from error
    finally:
        beside.unlink(missing_ok=True)


def _furnish_from_files(workspace: Workspace, brief_file: Path, services_file: Path | None, keys: list[str]) -> str:
    brief: Brief = load_brief(_json(brief_file), str(brief_file))
    document = _json(services_file) if services_file else {"services": []}
    listed = document.get("services") if isinstance(document, dict) else None
    if not isinstance(listed, list):
        raise fail(
            "services-unreadable",
            "A services file is an object with a list “services”.",
            where=str(services_file),
            do="docs/query-format.md shows one.",
        )
    now = Clock().now()
    for one in listed:
        try:
            workspace.services.save(Service.model_validate(one))
        except ValidationError as error:
            raise ProblemError(validation_problem(error, str(services_file), one)) from error
    secrets: dict[str, dict[str, str]] = {}
    for pair in keys:
        name, sign, source = pair.partition("=")
        if not sign:
            raise fail(
                "options-unfit", "A --key is not NAME=source.", where="--key", do="Write --key NAME=env:VARIABLE."
            )
        name, _, field = name.partition(".")
        secrets.setdefault(name, {})[field] = _secret(name, source)
    for service in workspace.services.all():
        if service.key is not None and service.key.name in secrets:
            given = secrets.pop(service.key.name)
            wants = service.key.wants()
            if len(wants) == 1 and "" in given:
                given = {wants[0]: given[""]}
            missing = [field for field in wants if field not in given]
            if missing:
                raise fail(
                    "key-missing",
                    f"The key “{service.key.name}” is made of {' and '.join(wants)}.",
                    where="--key",
                    do=f"Write --key {service.key.name}.{missing[0]}=env:VARIABLE.",
                )
            workspace.vault.store(service.id, service.key.bound_to(service.base), given, now)
    if secrets:
        raise fail(
            "key-unknown",
            f"No service of the file takes a key named “{next(iter(secrets))}”.",
            where="--key",
            do="Name a key as the services file does.",
        )
    return workspace.queries.add(brief, now).name


def _secret(name: str, source: str) -> str:
    if source.startswith("env:"):
        value = os.environ.get(source[4:])
        if not value:
            raise fail(
                "key-missing",
                f"The variable {source[4:]} is not set.",
                where=f"--key {name}",
                do="Set it in the environment; a key never goes on the command line itself.",
            )
        return value
    if source.startswith("file:"):
        try:
            return Path(source[5:]).read_text().strip()
        except OSError as error:
            raise fail(
                "key-missing",
                f"The key's file cannot be read: {error.strerror}.",
                where=source[5:],
                do="Check its path.",
            ) from error
    raise fail(
        "options-unfit",
        f"The key “{name}” must come from env:VARIABLE or file:PATH.",
        where="--key",
        do="A key on the command line would show in the list of processes.",
    )


def _json(path: Path) -> Any:
    try:
        return json.loads(path.read_text())
    except OSError as error:
        raise fail(
            "file-unreadable", f"The file cannot be read: {error.strerror}.", where=str(path), do="Check its path."
        ) from error
    except ValueError as error:
        at = f" in line {error.lineno}" if isinstance(error, json.JSONDecodeError) else ""
        raise fail("file-unreadable", f"The file is not JSON{at}.", where=str(path), do="Correct it there.") from error


@app.command()
@_say
def export(
    query: Annotated[str, typer.Argument(help="Name or number of a query.")],
    out: Annotated[Path, typer.Option(help="File to write: *.csv or *.xlsx; - for CSV on standard output.")],
    home: Home = None,
    day: Annotated[str | None, typer.Option("--date", help="The newest snapshot up to this day, YYYY-MM-DD.")] = None,
) -> None:
    """Write a kept snapshot as a file, without any call."""
    ending = _ending(out)
    workspace = Workspace(home or default_home())
    found = workspace.queries.find(query)
    kept = [one for one in workspace.snapshots.of_query(found.id) if day is None or one.taken[:10] <= day]
    if not kept:
        raise fail(
            "snapshot-unknown",
            f"“{found.name}” has no snapshot" + (f" up to {day}." if day else " yet."),
            where=str(workspace.home),
            do="Refresh the query first, or name a later date.",
        )
    _write(workspace, kept[-1], found.name, out, ending)
    workspace.close()


@app.command("take-out")
@_say
def take_out_command(
    file: Annotated[Path, typer.Argument(help="File to write, or - for standard output.")],
    query: Annotated[list[str] | None, typer.Option(help="A query to take; all of them when none is named.")] = None,
    home: Home = None,
    passphrase: Passphrase = False,
) -> None:
    """Write services and queries to a file, to carry them to another machine. The keys stay behind."""
    workspace = Workspace(home or default_home())
    _unlock(workspace, passphrase)
    text = parcel_text(take_out(workspace, query or None, Clock().now()))
    workspace.close()
    if str(file) == "-":
        print(text, end="")
        return
    try:
        file.write_text(text, encoding="utf-8")
    except OSError as error:
        raise fail(
            "file-unwritable", f"The file cannot be written: {error.strerror}.", where=str(file), do="Name another."
        ) from error


@app.command("bring-in")
@_say
def bring_in_command(
    file: Annotated[Path, typer.Argument(help="A file that take-out wrote.")],
    clash: Annotated[
        str, typer.Option(help="What to do where something of that name is here: keep, replace or beside.")
    ] = "keep",
    dry: Annotated[bool, typer.Option(help="Only say what would be done.")] = False,
    home: Home = None,
) -> None:
    """Bring services and queries in from a file: all of it, or nothing."""
    if clash not in ("keep", "replace", "beside"):
        raise fail("options-unfit", f"“{clash}” is no choice.", where="--clash", do="Use keep, replace or beside.")
    document = _json(file)
    workspace = Workspace(home or default_home(), create=True)
    plain = look_at(workspace, document, {}, str(file))
    choices: dict[str, Choice] = {
        f"{item.kind} {item.name}": cast(Choice, clash) for item in plain.items if item.state == "clash"
    }
    if dry:
        arrival = look_at(workspace, document, choices, str(file))
    else:
        arrival = bring_in(workspace, document, choices, Clock().now(), str(file))
    workspace.close()
    words = {"add": "added", "keep": "kept as it is here", "replace": "replaced", "beside": "put beside"}
    for item in arrival.items:
        print(f"{item.kind} {item.name}: {item.state}, {words[item.choice]}")
    for wanted in arrival.keys_wanted:
        print(f"key wanted: {wanted.key} of {wanted.service} ({', '.join(wanted.fields)})")
    for name in arrival.sheets_wanted:
        print(f"sheet wanted: {name}")


@app.command()
@_say
def vault(
    home: Home = None,
    key_file: Annotated[bool, typer.Option("--key-file", help="Open with the key file again.")] = False,
) -> None:
    """Seal the stored keys under a passphrase, or under the key file again."""
    workspace = Workspace(home or default_home())
    _unlock(workspace, workspace.vault.wants_passphrase and PASSPHRASE not in os.environ)
    if key_file:
        workspace.vault.set_passphrase(None)
        print("The vault opens with its key file.")
    else:
        new = typer.prompt("New passphrase", hide_input=True, confirmation_prompt=True, err=True)
        workspace.vault.set_passphrase(new)
        print("The vault opens with the passphrase. Without it the stored keys are lost.")
    workspace.close()


@app.command()
@_say
def folder(
    path: Annotated[Path | None, typer.Argument(help="The folder whose files queries may read.")] = None,
    home: Home = None,
) -> None:
    """Show or choose the one folder whose files queries may read."""
    workspace = Workspace(home or default_home(), create=True)
    if path is not None:
        if not path.is_dir():
            raise fail("folder-unknown", "There is no such folder.", where=str(path), do="Make it first.")
        workspace.settings.allow_folder(path)
    print(workspace.settings.folder)
    workspace.close()


@app.command()
def schema() -> None:
    """The query format as a JSON Schema (draft 2020-12)."""
    print(json.dumps(brief_schema(), indent=1, ensure_ascii=False))


@app.command("list")
@_say
def list_queries(home: Home = None) -> None:
    """The workspace's queries, with their newest snapshots."""
    workspace = Workspace(home or default_home())
    for query in workspace.queries.all():
        latest = workspace.snapshots.latest(query.id)
        told = f"{latest.rows:,} rows, {latest.taken}" if latest else "no snapshot yet"
        print(f"{query.id:>4}  {query.name}: {told}")
    workspace.close()


if __name__ == "__main__":
    app()
