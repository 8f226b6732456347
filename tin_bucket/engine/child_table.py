"""A list of a query's records as a table of its own, with the parent's match columns."""

from __future__ import annotations

import asyncio

from tin_bucket.core.analysis.child_table import child_table_brief, lists_to
from tin_bucket.core.document.query import Brief, load_brief
from tin_bucket.core.formats.jsonpath import format_place, parse_place
from tin_bucket.engine.engine import Engine
from tin_bucket.engine.run.calls import Saved
from tin_bucket.engine.run.plan import RunPlan


async def child_table(engine: Engine, query_id: int, brief: Brief, place: str, name: str | None) -> int:
    """Save a query for a list, and make its first table of the saved answers of the newest run; returns its number.

    Args:
        query_id: the query whose records hold the list.
        brief: its brief as it is being edited.
        place: place of the list in the record.
        name: what the new query is called; a name made of both when ``None``.

    Raises:
        ProblemError: what is wrong with the brief. The new query's run reports how the reading went.
    """
    workspace = engine.workspace
    runs = await asyncio.to_thread(workspace.runs.latest, query_id, 20)
    source = next(
        (run for run in runs if run.snapshot_id is not None and workspace.archive.answers(run.id, "pages")), None
    )
    lists = [format_place(one) for one in lists_to(parse_place(place) or ())]
    rows = brief.take.model_copy(update={"rows_for": lists, "together": None, "columns": None})
    number = await asyncio.to_thread(engine.reread, query_id, brief.model_copy(update={"take": rows, "look_up": []}))
    preview = engine.previews.get(number) if number is not None else None
    found = preview.replay.table.columns if preview is not None and preview.replay is not None else []
    taken = {query.name for query in await asyncio.to_thread(workspace.queries.all)}
    made = load_brief(child_table_brief(brief, place, found, name, taken).model_dump(mode="json", by_alias=True))
    query = await asyncio.to_thread(workspace.queries.add, made, engine.clock.now())
    if source is None:
        return query.id
    saved = await asyncio.to_thread(Saved, workspace, source.id)
    services = {one: workspace.services.get(one) for one in made.services()}
    plan = RunPlan(made, services, source.bindings, source.iterations, engine.clock.zone())
    run_id = await engine.begin_from(query, plan, saved, source)
    await engine.wait(run_id)
    return query.id
