"""Commands that write tables: refresh a query, export a kept snapshot."""

from __future__ import annotations

import tempfile
from contextlib import ExitStack
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from tin_bucket.core.problem import ProblemError, fail

from .advice import is_brief_file
from .common import (
    EXIT_CODES,
    FAILED,
    AsJson,
    Home,
    Passphrase,
    app,
    open_workspace,
    print_json,
    say,
    unlock,
)
from .options import OUT_HELP, Decimal, Encoding, Form, FormulasAsText, Headings, Separator, options_of
from .telling import tell

if TYPE_CHECKING:
    from tin_bucket.core.request.parameters.values import Given
    from tin_bucket.core.table.table import Table


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
        typer.Option(
            help="NAME=env:VARIABLE or NAME=file:PATH, for a brief file; NAME.FIELD where it has several fields,"
            " SERVICE/NAME where several services have one of that name."
        ),
    ] = None,
    passphrase: Passphrase = False,
    go_on: Annotated[
        bool | None,
        typer.Option(
            "--go-on/--afresh",
            help="Go on from the saved answers of the last run, or begin anew. Without either it goes on where the"
            " last run stopped before it had a table, within seven days, and asked the same.",
            show_default=False,
        ),
    ] = None,
    wait: Annotated[
        bool, typer.Option("--wait/--no-wait", help="Wait for limits; else end with 5 where that takes over a minute.")
    ] = True,
    formulas_as_text: FormulasAsText = False,
    separator: Separator = "comma",
    decimal: Decimal = "point",
    encoding: Encoding = "utf-8",
    headings: Headings = True,
    form: Form = None,
    as_json: AsJson = False,
) -> None:
    """Refresh a query and write its table. The exit code is 0 only when the table is proved to be whole, 4 when nothing
    tells, 3 when rows are missing."""
    from tin_bucket.engine.work_out.source import MemoryTable, rows_of

    from .brief_files import furnish
    from .refreshing import How, refresh_one
    from .report_words import report_lines, run_document, summary
    from .target import Target

    if as_json and str(out) == "-":
        raise fail(
            "options-unfit",
            "--json and --out - both write to standard output.",
            where="command line",
            do="Leave one of them out, or name a file.",
        )
    given = _given(param or [])
    target = Target.writable(out, options_of(formulas_as_text, headings, separator, decimal, encoding), form)
    with ExitStack() as held:
        if is_brief_file(query):
            folder = held.enter_context(tempfile.TemporaryDirectory(prefix="tin-bucket-"))
            workspace = open_workspace(Path(folder) / "workspace", create=True)
            held.callback(workspace.close)
            name = furnish(workspace, Path(query), services, key or [], home, passphrase)
        else:
            if services is not None or key:
                raise fail(
                    "options-unfit",
                    "--services and --key go with a brief file.",
                    where="command line",
                    do="Leave them out: a workspace has its own services and keys.",
                )
            workspace = open_workspace(home)
            held.callback(workspace.close)
            unlock(workspace, passphrase)
            name = query
        found = workspace.queries.find(name)
        # Of a brief file nothing outlasts the command: its table goes from the answers to the file.
        taken: list[Table] = []
        brief = found.brief
        keeps = not is_brief_file(query)
        passes = not (keeps or brief.start or brief.work_out or brief.hand_over)
        run = refresh_one(workspace, found, given, How(go_on, wait, keeps, taken.append if passes else None))
        if run.problem is None:
            for table in taken:
                target.write_rows(found.name, table.columns, rows_of(MemoryTable.of((), table)))
            if found.brief.start is not None:
                target.write(workspace, found, None)
            elif run.snapshot_id is not None:
                target.write(workspace, found, workspace.snapshots.get(run.snapshot_id))
        if as_json:
            print_json({**run_document(found.name, run), "out": str(out) if out is not None else None})
        if run.problem is not None:
            raise ProblemError(run.problem)
        tell(summary(found.name, run))
        for line in report_lines(run.report):
            tell(f"  {line}")
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


@app.command()
@say
def export(
    query: Annotated[str, typer.Argument(help="Name or number of a query.")],
    out: Annotated[Path, typer.Option(help=OUT_HELP)],
    home: Home = None,
    moment: Annotated[
        str | None,
        typer.Option("--date", help="The newest snapshot up to this day or moment: 2026-11-20, 2026-11-20T14:30."),
    ] = None,
    formulas_as_text: FormulasAsText = False,
    separator: Separator = "comma",
    decimal: Decimal = "point",
    encoding: Encoding = "utf-8",
    headings: Headings = True,
    form: Form = None,
) -> None:
    """Write a kept snapshot as a file, without any call. The exit code is that of the run that made it: 0 only when it
    is proved to be whole, 4 when nothing tells, 3 when rows are missing."""
    from tin_bucket.engine.work_out.work import WorkOut

    from .dates import snapshot_at
    from .target import Target

    target = Target.writable(out, options_of(formulas_as_text, headings, separator, decimal, encoding), form)
    workspace = open_workspace(home)
    with ExitStack() as held:
        held.callback(workspace.close)
        found = workspace.queries.find(query)
        kept = WorkOut(workspace).timeline(found)
        if not kept and moment is None and found.brief.start is not None:
            # A table without a date, such as one that starts from a sheet.
            target.write(workspace, found, None)
            return
        snapshot = snapshot_at(found.name, kept, moment, "--date")
        target.write(workspace, found, snapshot)
    if snapshot.state != "complete":
        tell(f"{found.name}, {snapshot.taken[:10]}: {snapshot.state}; {snapshot.evidence}")
        raise typer.Exit(EXIT_CODES[snapshot.state])
