"""Commands that hand tables over, and refresh what is due: for cron, a service unit, a script."""

from __future__ import annotations

import asyncio
import json
from datetime import UTC, datetime
from typing import Annotated, Any

import typer

from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.schedule.due import due_since, newest_due, resumed
from tin_bucket.core.work_out.line import Chip
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.engine import Engine
from tin_bucket.store.feeds import FeedRecord
from tin_bucket.store.queries import Scheduled
from tin_bucket.store.workspace import Workspace, default_home

from .common import EXIT_CODES, FAILED, Home, Passphrase, app, errors, say, unlock

feed = typer.Typer(help="Feeds: list them, run them.", no_args_is_help=True)
app.add_typer(feed, name="feed")
_ORDER = ("complete", "unverified", "incomplete")


@feed.command("list")
@say
def list_feeds(
    home: Home = None, as_json: Annotated[bool, typer.Option("--json", help="As JSON, one object a line.")] = False
) -> None:
    """All feeds, with how each went the last time."""
    workspace = Workspace(home or default_home())
    records, last = workspace.feeds.records(), workspace.feeds.last()
    for query in workspace.queries.all():
        for one in query.brief.hand_over:
            done = last.get((query.id, one.key))
            record = records.get((query.id, one.key), FeedRecord())
            state = "off" if one.off else done.state if done is not None else "waiting"
            words = "".join(word.text if isinstance(word, Chip) else word for word in one.words())
            if as_json:
                told: dict[str, Any] = {
                    "query": query.name, "feed": one.key, "to": one.to, "place": one.place(), "state": state,
                    "ended": done.ended if done else None, "rows": done.rows if done else None,
                    "problem": done.problem.as_dict() if done and done.problem else None, "next_try": record.next_try,
                }  # fmt: skip
                print(json.dumps(told, ensure_ascii=False))
                continue
            print(f"{one.key}  {query.name}: {words} ({state})")
            if done is not None and done.problem is not None:
                print(f"    {done.problem.sentence()}")
    workspace.close()


@feed.command("run")
@say
def run_feeds(
    query: Annotated[str, typer.Argument(help="Name or number of a query.")],
    key: Annotated[
        str | None, typer.Option("--feed", help="One of its feeds, by the name that “feed list” shows.")
    ] = None,
    home: Home = None,
) -> None:
    """Hand the newest table of a query over now, without a refresh. The exit code is 1 when a feed failed."""
    workspace = Workspace(home or default_home())
    found = workspace.queries.find(query)
    feeds = [one for one in found.brief.hand_over if (one.key == key if key else not one.off)]
    if not feeds:
        raise fail(
            "feed-unknown",
            f"“{found.name}” has no feed" + (f" “{key}”." if key else " that is switched on."),
            where=f"query “{found.name}”",
            do="“tin-bucket feed list” shows all feeds.",
        )

    async def go() -> bool:
        engine = Engine(workspace, Clock())
        well = True
        for one in feeds:
            done = await asyncio.to_thread(engine.deliveries.deliver, found, one, "command line")
            if done.problem is not None:
                well = False
                errors.print(f"{found.name}, {done.place}: {done.problem.sentence()}", markup=False)
            else:
                errors.print(f"{found.name}, {done.place}: {' '.join(done.told)}", markup=False)
        await engine.close()
        return well

    well = asyncio.run(go())
    workspace.close()
    if not well:
        raise typer.Exit(FAILED)


@app.command("refresh")
@say
def refresh(
    queries: Annotated[list[str] | None, typer.Argument(help="Names or numbers of queries.")] = None,
    everything: Annotated[bool, typer.Option("--all", help="All queries of the workspace.")] = False,
    due: Annotated[bool, typer.Option("--due", help="Of these, only the ones that are due by their schedule.")] = False,
    home: Home = None,
    passphrase: Passphrase = False,
) -> None:
    """Refresh queries, and hand their tables over. The exit code is 1 when a refresh or a feed failed, 3 when a table
    is incomplete, 4 when one is unverified, and 0 otherwise."""
    workspace = Workspace(home or default_home())
    unlock(workspace, passphrase)
    if everything == bool(queries):
        raise fail(
            "options-unfit", "Name queries, or say --all.", where="command line", do="tin-bucket refresh --all --due"
        )
    chosen = workspace.queries.all() if everything else [workspace.queries.find(name) for name in queries or []]
    if due:
        now = Clock().now()
        ids = {
            one.id
            for one in workspace.queries.scheduled()
            if newest_due(one.schedule, _since(one, now), now) is not None
        }
        chosen = [query for query in chosen if query.id in ids]
    code = asyncio.run(_refresh(workspace, [(query.id, query.name) for query in chosen]))
    workspace.close()
    if code:
        raise typer.Exit(code)


def _since(one: Scheduled, now: datetime) -> datetime:
    here = Clock().here().tzinfo or UTC
    return resumed(due_since(one.schedule, one.saved, one.last, now), one.resumes, here)


async def _refresh(workspace: Workspace, chosen: list[tuple[int, str]]) -> int:
    engine = Engine(workspace, Clock())
    since = engine.clock.now().isoformat()
    worst, failed = "complete", False
    for query_id, name in chosen:
        try:
            run = await engine.refresh(query_id, {}, "command line")
        except ProblemError as error:
            failed = True
            errors.print(f"{name}: {error.problem.sentence()}", markup=False)
            continue
        told = run.problem.sentence() if run.problem is not None else "; ".join(run.report.gaps) or run.report.doubt
        errors.print(f"{name}: {run.state}, {run.rows:,} rows" + (f". {told}" if told else "."), markup=False)
        if run.state in _ORDER:
            worst = max(worst, run.state, key=_ORDER.index)
        else:
            failed = True
    await engine.close()
    names = dict(chosen)
    for done in reversed(workspace.feeds.history()):
        if done.started >= since and done.query_id in names:
            failed = failed or done.problem is not None
            told = done.problem.sentence() if done.problem is not None else " ".join(done.told)
            errors.print(f"  {names[done.query_id]}, {done.place}: {told}", markup=False)
    return FAILED if failed else EXIT_CODES[worst]
