"""Commands that write tables: refresh a query, export a kept snapshot."""

from __future__ import annotations

import asyncio
import os
import tempfile
from pathlib import Path
from typing import Annotated

import typer
from pydantic import ValidationError

from tin_bucket.core.document.faults import validation_problem
from tin_bucket.core.document.query import Brief, load_brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.request.parameters.values import Given
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.work_out.work import WorkOut
from tin_bucket.feeds.options import ExportOptions
from tin_bucket.store.runs import Run
from tin_bucket.store.workspace import Workspace, default_home

from .common import EXIT_CODES, FAILED, Home, Passphrase, app, errors, progress_bar, read_json, say, unlock
from .target import OUT_HELP, Decimal, Encoding, Form, FormulasAsText, Headings, Separator, Target


@app.command("run")
@say
def run_query(
    query: Annotated[str, typer.Argument(help="Name or number of a query, or a file with a brief (*.json).")],
    param: Annotated[list[str] | None, typer.Option("--param", help="name=value, as often as needed.")] = None,
    out: Annotated[Path | None, typer.Option(help=OUT_HELP)] = None,
    home: Home = None,
    services: Annotated[Path | None, typer.Option(help="File with the services that a brief file asks.")] = None,
    key: Annotated[
        list[str] | None,
        typer.Option(help="NAME=env:VARIABLE or NAME=file:PATH, for a brief file; NAME.FIELD where it has several."),
    ] = None,
    passphrase: Passphrase = False,
    formulas_as_text: FormulasAsText = False,
    separator: Separator = "comma",
    decimal: Decimal = "point",
    encoding: Encoding = "utf-8",
    headings: Headings = True,
    form: Form = None,
) -> None:
    """Refresh a query and write its table. The exit code is 0 only when the table is proved to be whole, 4 when nothing
    tells, 3 when rows are missing."""
    given = _given(param or [])
    target = Target.of(out, ExportOptions(formulas_as_text, headings, separator, decimal, encoding), form)
    if query.endswith(".json"):
        with tempfile.TemporaryDirectory(prefix="tin-bucket-") as folder:
            workspace = Workspace(Path(folder) / "workspace", create=True)
            name = _furnish_from_files(workspace, Path(query), services, key or [])
            run = _refresh(workspace, name, given, target)
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
        unlock(workspace, passphrase)
        run = _refresh(workspace, query, given, target)
        workspace.close()
    if run.state != "complete":
        raise typer.Exit(EXIT_CODES.get(run.state, FAILED))


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


def _refresh(workspace: Workspace, name: str, given: dict[str, Given], target: Target) -> Run:
    query = workspace.queries.find(name)

    async def go() -> Run:
        engine = Engine(workspace, Clock())
        run_id = await engine.start(query.id, given, "command line", patient=False)
        progress = engine.progress(run_id)
        with progress_bar() as bar:
            task = bar.add_task(query.name, total=None)
            if progress is not None:
                async for summary in progress.listen():
                    made = summary.calls - summary.before_stage
                    bar.update(
                        task,
                        description=f"{query.name}, {summary.stage}",
                        completed=made,
                        total=summary.expected or made,
                    )
        ended = await engine.ended(query.id, run_id)
        await engine.close()
        return ended

    run = asyncio.run(go())
    if run.problem is not None:
        raise ProblemError(run.problem)
    if query.brief.start is not None:
        target.write(workspace, query, None)
    elif run.snapshot_id is not None:
        target.write(workspace, query, workspace.snapshots.get(run.snapshot_id))
    total = (
        f" of the {run.stated_total:,} that the API states"
        if run.stated_total is not None
        else ", the API states no total"
    )
    rows = f", made {run.rows:,} rows" if run.rows != run.records else ""
    errors.print(f"{query.name}: {run.state}; {run.records:,} records{total}{rows}; {run.calls:,} calls.", markup=False)
    for gap in run.report.gaps:
        errors.print(f"  incomplete: {gap}", markup=False)
    if run.report.doubt:
        errors.print(f"  unverified: {run.report.doubt}", markup=False)
    for name, lookup in run.report.lookups.items():
        if lookup.none or lookup.failed:
            errors.print(f"  look up {name}: {lookup.none} not found, {lookup.failed} failed", markup=False)
    return run


def _furnish_from_files(workspace: Workspace, brief_file: Path, services_file: Path | None, keys: list[str]) -> str:
    brief: Brief = load_brief(read_json(brief_file), str(brief_file))
    document = read_json(services_file) if services_file else {"services": []}
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
            wants = service.key.required_fields()
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
                do="Set it in the environment; a key never belongs on the command line itself.",
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


@app.command()
@say
def export(
    query: Annotated[str, typer.Argument(help="Name or number of a query.")],
    out: Annotated[Path, typer.Option(help=OUT_HELP)],
    home: Home = None,
    day: Annotated[str | None, typer.Option("--date", help="The newest snapshot up to this day, YYYY-MM-DD.")] = None,
    formulas_as_text: FormulasAsText = False,
    separator: Separator = "comma",
    decimal: Decimal = "point",
    encoding: Encoding = "utf-8",
    headings: Headings = True,
    form: Form = None,
) -> None:
    """Write a kept snapshot as a file, without any call. The exit code is that of the run that made it: 0 only when it
    is proved to be whole, 4 when nothing tells, 3 when rows are missing."""
    target = Target.of(out, ExportOptions(formulas_as_text, headings, separator, decimal, encoding), form)
    workspace = Workspace(home or default_home())
    found = workspace.queries.find(query)
    kept = [one for one in WorkOut(workspace).timeline(found) if day is None or one.taken[:10] <= day]
    if not kept and day is None and found.brief.start is not None:
        # A table without a date, such as one that starts from a sheet.
        target.write(workspace, found, None)
        workspace.close()
        return
    if not kept:
        raise fail(
            "snapshot-unknown",
            f"“{found.name}” has no snapshot" + (f" up to {day}." if day else " yet."),
            where=str(workspace.home),
            do="Refresh the query first, or name a later date.",
        )
    snapshot = kept[-1]
    target.write(workspace, found, snapshot)
    workspace.close()
    if snapshot.state != "complete":
        errors.print(f"{found.name}, {snapshot.taken[:10]}: {snapshot.state}; {snapshot.evidence}", markup=False)
        raise typer.Exit(EXIT_CODES[snapshot.state])
