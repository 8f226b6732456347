"""Refreshing several queries, or what is due: for cron, a service unit, a script."""

from __future__ import annotations

import asyncio
from typing import TYPE_CHECKING, Annotated

import typer

from tin_bucket.core.problem import ProblemError, fail

from .advice import fitting
from .common import EXIT_CODES, FAILED, AsJson, Home, Passphrase, app, open_workspace, print_json, say, unlock
from .telling import tell

if TYPE_CHECKING:
    from collections.abc import Sequence

    from tin_bucket.store.queries import Query
    from tin_bucket.store.workspace import Workspace

    from .refreshing import How

_ORDER = ("complete", "unverified", "incomplete")


@app.command("refresh")
@say
def refresh(
    queries: Annotated[list[str] | None, typer.Argument(help="Names or numbers of queries.")] = None,
    everything: Annotated[bool, typer.Option("--all", help="All queries of the workspace.")] = False,
    due: Annotated[bool, typer.Option("--due", help="Of these, only the ones that are due by their schedule.")] = False,
    home: Home = None,
    passphrase: Passphrase = False,
    wait: Annotated[
        bool, typer.Option("--wait/--no-wait", help="Wait for limits; else end with 5 where that takes over a minute.")
    ] = True,
    as_json: AsJson = False,
) -> None:
    """Refresh queries, and hand their tables over. A refresh goes on where the last one stopped and asked the same. The
    exit code is 1 when a refresh or a feed failed, 3 when a table is incomplete, 4 when one is unverified, and 0
    otherwise."""
    from tin_bucket.engine.clock import Clock
    from tin_bucket.engine.due import all_due

    from .refreshing import How

    if everything == bool(queries):
        raise fail(
            "options-unfit", "Name queries, or say --all.", where="command line", do="tin-bucket refresh --all --due"
        )
    workspace = open_workspace(home)
    try:
        unlock(workspace, passphrase)
        chosen = workspace.queries.all() if everything else [workspace.queries.find(name) for name in queries or []]
        if due:
            ids = all_due(workspace, Clock())
            chosen = [query for query in chosen if query.id in ids]
        code = asyncio.run(_refresh(workspace, chosen, How(None, wait), as_json))
    finally:
        workspace.close()
    if code:
        raise typer.Exit(code)


async def _refresh(workspace: Workspace, chosen: Sequence[Query], how: How, as_json: bool) -> int:
    from tin_bucket.engine.clock import Clock
    from tin_bucket.engine.engine import Engine

    from .refreshing import begun, followed
    from .report_words import report_lines, run_document, summary

    engine = Engine(workspace, Clock())
    since = engine.clock.now().isoformat()
    worst, failed = "complete", False
    try:
        for query in chosen:
            try:
                run = await followed(engine, query, await begun(engine, query, {}, how), how)
            except ProblemError as error:
                failed = True
                tell(f"{query.name}: {fitting(error.problem).sentence()}")
                continue
            tell(summary(query.name, run))
            for line in report_lines(run.report):
                tell(f"  {line}")
            if run.problem is not None:
                tell(f"  {fitting(run.problem).sentence()}")
            if as_json:
                print_json(run_document(query.name, run))
            if run.state in _ORDER:
                worst = max(worst, run.state, key=_ORDER.index)
            else:
                failed = True
    finally:
        await engine.close()
    names = {query.id: query.name for query in chosen}
    for done in reversed(workspace.feeds.history()):
        if done.started >= since and done.query_id in names:
            failed = failed or done.problem is not None
            told = done.problem.sentence() if done.problem is not None else " ".join(done.told)
            tell(f"  {names[done.query_id]}, {done.place}: {told}")
    return FAILED if failed else EXIT_CODES[worst]
