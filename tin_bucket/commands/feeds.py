"""Commands that hand tables over, and refresh what is due: for cron, a service unit, a script."""

from __future__ import annotations

import asyncio
from typing import TYPE_CHECKING, Annotated, Any

import typer

from tin_bucket.core.problem import fail

from .common import FAILED, AsJson, Home, app, open_workspace, print_json, say
from .telling import tell

if TYPE_CHECKING:
    pass

feed = typer.Typer(help="Feeds: list them, run them.", no_args_is_help=True)
app.add_typer(feed, name="feed")
_ORDER = ("complete", "unverified", "incomplete")


@feed.command("list")
@say
def list_feeds(home: Home = None, as_json: AsJson = False) -> None:
    """All feeds, with how each went the last time."""
    from tin_bucket.core.work_out.line import Chip
    from tin_bucket.store.feeds import FeedRecord

    workspace = open_workspace(home)
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
                print_json(told)
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
    from tin_bucket.engine.clock import Clock
    from tin_bucket.engine.engine import Engine

    workspace = open_workspace(home)
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
                tell(f"{found.name}, {done.place}: {done.problem.sentence()}")
            else:
                tell(f"{found.name}, {done.place}: {' '.join(done.told)}")
        await engine.close()
        return well

    well = asyncio.run(go())
    workspace.close()
    if not well:
        raise typer.Exit(FAILED)
