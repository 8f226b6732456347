"""Refreshing a query that starts from tables: those are refreshed, in the right order, once each."""

from __future__ import annotations

import asyncio
import logging
from collections.abc import Awaitable, Callable, Sequence

from tin_bucket.core.document.references import queries_named
from tin_bucket.core.problem import Problem, ProblemError, fail
from tin_bucket.store.queries import Query
from tin_bucket.store.runs import INTERRUPTED, STOPPED, Run
from tin_bucket.store.workspace import Workspace

from .context import RunContext

log = logging.getLogger("tin_bucket.refresh")
_WORST = ("complete", "unverified", "incomplete")


def asked_for(workspace: Workspace, query: Query) -> list[Query]:
    """The queries that are asked when a query that starts from tables is refreshed, each behind those whose tables it
    reads, and once.

    Raises:
        ProblemError: ``query-unknown``, or ``circle``.
    """
    out: dict[int, Query] = {}

    def visit(one: Query, path: tuple[Query, ...]) -> None:
        if any(one.id == before.id for before in path):
            names = " → ".join(f"“{before.name}”" for before in (*path, one))
            raise fail(
                "circle",
                f"“{one.name}” would be made of itself: {names}.",
                where=f"query “{one.name}”",
                do="Let one of them start from another table.",
            )
        if one.id in out:
            return
        for name in queries_named(one.brief):
            visit(workspace.queries.find(name), (*path, one))
        if one.brief.start is None:
            out[one.id] = one

    visit(query, ())
    return [one for one in out.values() if one.id != query.id]


async def refresh_chain(
    context: RunContext, queries: Sequence[Query], refresh_one: Callable[[int], Awaitable[Run]]
) -> None:
    """Refresh some queries one after the other. One that fails does not keep the others from theirs.

    Args:
        refresh_one: refreshes a query and gives its run.
    """
    run, progress = context.run, context.progress
    try:
        state = "complete"
        for at, query in enumerate(queries, 1):
            progress.stage, progress.expected = f"{query.name}, {at} of {len(queries)}", None
            progress.tell()
            try:
                made = await refresh_one(query.id)
            except ProblemError as error:
                run.report.gaps.append(f"“{query.name}” was not refreshed: {error.problem.what}")
                state = "incomplete"
                continue
            run.records, run.calls = run.records + made.records, run.calls + made.calls
            progress.rows = run.records
            ends = made.state if made.state in _WORST else "incomplete"
            state = max(state, ends, key=_WORST.index)
            if ends == "incomplete":
                why = made.problem.what if made.problem is not None else "; ".join(made.report.gaps) or made.state
                run.report.gaps.append(f"“{query.name}” is incomplete: {why}")
            elif ends == "unverified":
                run.report.doubt = f"“{query.name}”: {made.report.doubt or made.stop or 'unverified'}"
        run.state = state
        run.stop = f"{len(queries)} {'query' if len(queries) == 1 else 'queries'} refreshed"
    except asyncio.CancelledError:
        run.state = "interrupted" if context.ending() else "cancelled"
        run.problem = INTERRUPTED if context.ending() else STOPPED
    except Exception as error:
        log.error("run %s: %s", run.id, type(error).__name__, exc_info=error)
        run.state = "failed"
        run.problem = Problem("program-fault", f"The program itself failed ({type(error).__name__}).", "", "")
    try:
        await asyncio.shield(asyncio.to_thread(context.workspace.runs.finish, run, context.clock.now()))
    finally:
        progress.state, progress.problem = run.state, run.problem
        progress.tell()
