"""What a workspace holds and what was done: queries, runs, snapshots, and what differs between two dates."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from .advice import fitting
from .common import DIFFERS, AsJson, Home, app, counted, open_workspace, print_json, say
from .options import OUT_HELP, Decimal, Encoding, Form, FormulasAsText, Headings, Separator, options_of
from .telling import tell

if TYPE_CHECKING:
    from tin_bucket.store.snapshot import Snapshot


@app.command("list")
@say
def list_queries(home: Home = None, as_json: AsJson = False) -> None:
    """The workspace's queries, with their newest snapshots."""
    workspace = open_workspace(home)
    try:
        for query in workspace.queries.all():
            latest = workspace.snapshots.latest(query.id)
            if as_json:
                print_json({
                    "id": query.id, "name": query.name, "rows": latest.rows if latest else None,
                    "taken": latest.taken if latest else None, "state": latest.state if latest else None,
                })  # fmt: skip
                continue
            told = f"{counted(latest.rows, 'row')}, {latest.state}, {latest.taken}" if latest else "no snapshot yet"
            print(f"{query.id:>4}  {query.name}: {told}")
    finally:
        workspace.close()


@app.command("runs")
@say
def list_runs(
    query: Annotated[str | None, typer.Argument(help="Name or number of a query; of all without one.")] = None,
    most: Annotated[int, typer.Option(min=1, help="How many, the newest first.")] = 20,
    home: Home = None,
    as_json: AsJson = False,
) -> None:
    """The runs, the newest first: how each ended, and what it cost."""
    from .report_words import run_document

    workspace = open_workspace(home)
    try:
        found = workspace.queries.find(query) if query is not None else None
        for run in workspace.runs.latest(found.id if found is not None else None, most):
            if as_json:
                print_json({**run_document(run.query_name, run), "cause": run.cause})
                continue
            told = f"{counted(run.rows, 'row')}, {counted(run.calls, 'call')}"
            if run.report.tally.unchanged:
                told += f", {run.report.tally.unchanged:,} of them unchanged"
            if run.report.tally.saved:
                told += f", {counted(run.report.tally.saved, 'saved answer')}"
            on = f", goes on from {run.resumed_from}" if run.resumed_from is not None else ""
            print(f"{run.id:>5}  {_local(run.started)}  {run.query_name}: {run.state}, {told}, by {run.cause}{on}")
            if run.problem is not None:
                print(f"       {fitting(run.problem).sentence()}")
    finally:
        workspace.close()


@app.command("snapshots")
@say
def list_snapshots(
    query: Annotated[str, typer.Argument(help="Name or number of a query.")], home: Home = None, as_json: AsJson = False
) -> None:
    """The snapshots of a query, the oldest first."""
    from tin_bucket.engine.work_out.work import WorkOut

    workspace = open_workspace(home)
    try:
        found = workspace.queries.find(query)
        for one in WorkOut(workspace).timeline(found):
            if as_json:
                print_json({
                    "snapshot": one.id, "query": found.name, "taken": one.taken, "rows": one.rows, "state": one.state,
                    "evidence": one.evidence, "stated_total": one.stated_total, "since": one.since,
                    "name": one.name, "note": one.note, "pinned": one.pinned,
                })  # fmt: skip
                continue
            named = f"  “{one.name}”" if one.name else ""
            pinned = ", pinned" if one.pinned else ""
            told = f"{counted(one.rows, 'row')}, {one.state}{pinned}{_since(one)}"
            print(f"#{one.id}  {_local(one.taken)}{named}  {told}")
            if one.note:
                print(f"    {one.note}")
    finally:
        workspace.close()


def _since(snapshot: Snapshot) -> str:
    since = snapshot.since
    if not any(name in since for name in ("new", "gone", "changed")):
        return ""
    return f": + {since.get('new', 0):,} new, − {since.get('gone', 0):,} gone, ● {since.get('changed', 0):,} changed"


@app.command("compare")
@say
def compare(
    query: Annotated[str, typer.Argument(help="Name or number of a query.")],
    then: Annotated[str, typer.Argument(help="The earlier date: 2026-11-20, 2026-11-20T14:30, or #12.")],
    now: Annotated[str | None, typer.Argument(help="The later date; the newest without one.")] = None,
    out: Annotated[Path | None, typer.Option(help=f"{OUT_HELP} Each row with what became of it.")] = None,
    home: Home = None,
    formulas_as_text: FormulasAsText = False,
    separator: Separator = "comma",
    decimal: Decimal = "point",
    encoding: Encoding = "utf-8",
    headings: Headings = True,
    form: Form = None,
    as_json: AsJson = False,
) -> None:
    """What differs between two dates of a query: rows that are new, gone and changed. The exit code is 6 when anything
    differs, and 0 when nothing does."""
    from tin_bucket.engine.clock import Clock
    from tin_bucket.engine.engine import Engine
    from tin_bucket.engine.tables.sides import two_dates
    from tin_bucket.engine.work_out.work import WorkOut

    from .dates import snapshot_at
    from .target import Target

    target = Target.writable(out, options_of(formulas_as_text, headings, separator, decimal, encoding), form)
    workspace = open_workspace(home)
    try:
        found = workspace.queries.find(query)
        kept = WorkOut(workspace).timeline(found)
        old_date = snapshot_at(found.name, kept, then, "THEN")
        new_date = snapshot_at(found.name, kept, now, "NOW")
        comparisons = Engine(workspace, Clock()).comparisons
        asked = two_dates(old_date.id, new_date.id, "today", found.id)
        laid = comparisons.compare(asked)
        counts = laid.found.counts()
        if as_json:
            print_json({
                "query": found.name, "then": {"snapshot": old_date.id, "taken": old_date.taken, "rows": old_date.rows},
                "now": {"snapshot": new_date.id, "taken": new_date.taken, "rows": new_date.rows}, **counts,
                "match": laid.found.matched_by,
            })  # fmt: skip
        dates = f"{_local(old_date.taken)} → {_local(new_date.taken)}"
        tell(
            f"{found.name}, {dates}: + {counts['new']:,} new, − {counts['gone']:,} gone,"
            f" ● {counts['changed']:,} changed, {counts['same']:,} the same"
            + (f", {counts['alike']:,} differ only in what counts as the same" if counts["alike"] else "")
        )
        for one in (old_date, new_date):
            if one.state != "complete":
                tell(f"  the table of {_local(one.taken)} is {one.state}, so rows may only seem new or gone")
        target.write_rows(
            f"{found.name}, {old_date.taken[:10]} to {new_date.taken[:10]}",
            *comparisons.differing(asked),
        )
    finally:
        workspace.close()
    if counts["new"] or counts["gone"] or counts["changed"]:
        raise typer.Exit(DIFFERS)


def _local(moment: str) -> str:
    return f"{datetime.fromisoformat(moment).astimezone():%Y-%m-%d %H:%M}"
