"""What a refresh will cost: how many calls, how long, and what the limits leave."""

from __future__ import annotations

import json
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import datetime

from tin_bucket.core.document.query import Brief, load_brief
from tin_bucket.core.pagination.base import PagedModel
from tin_bucket.core.pagination.protocol import LISTING
from tin_bucket.core.pagination.registry import way_of
from tin_bucket.core.request.fan_out import iterations_words
from tin_bucket.core.table.lookup import lookup_service
from tin_bucket.core.traffic.forecast import forecast
from tin_bucket.core.traffic.pace import Allowance
from tin_bucket.engine.network.pacer import LaneView
from tin_bucket.engine.run.plan import RunPlan
from tin_bucket.engine.work_out.source import TableSource
from tin_bucket.store.runs import Run
from tin_bucket.store.workspace import Workspace

from .lookups_ahead import look_up_ahead
from .preview import Preview

AtHand = Callable[[], TableSource | None]
"""Gives the table whose rows are known before a refresh, if there is one."""


@dataclass(slots=True)
class Cost:
    """What a refresh will cost.

    Attributes:
        calls: how many calls; ``None`` when unknown.
        basis: what the number rests on.
        seconds: how long they take; `waits` is how much of it the limits are waited for, `why` which.
        left: what is left of the limits of the services that are asked.
        warning: why it may not come to its end, or empty.
    """

    calls: int | None
    basis: str
    seconds: float | None = None
    waits: float = 0.0
    why: str = ""
    left: list[Allowance] = field(default_factory=list)
    warning: str = ""


def cost_of(
    workspace: Workspace,
    plan: RunPlan,
    query_id: int | None,
    preview: Preview | None,
    lanes: Mapping[str, LaneView],
    at_hand: AtHand,
    now: datetime,
) -> Cost:
    """Tell what a refresh will cost, from what is known of pages and of rows, and from the run before.

    Args:
        lanes: id → the lane, for each service of the plan.
        now: from when the age of kept answers counts.
    """
    brief = plan.brief
    if brief.ask is None and not brief.look_up:
        return Cost(0, "a sheet is read, no call is made", 0.0)
    by_service, basis = _calls(workspace, plan, query_id, preview, at_hand, now)
    cost = Cost(sum(by_service.values()) if by_service else None, basis)
    for service_id in brief.services():
        service = plan.services[service_id]
        lane = lanes[service_id]
        # What is left of a window of seconds has changed before it is read.
        cost.left.extend(one for one in lane.left if one.window.seconds >= 60)
        calls = by_service.get(service_id, 0) if by_service else 0
        if not calls:
            continue
        found = forecast(lane.pace, calls, lane.now, lane.seconds, service.at_once)
        cost.seconds = (cost.seconds or 0.0) + found.seconds
        cost.waits += found.waits
        cost.why = cost.why or found.why
        for one in lane.left:
            if one.window.seconds >= 3600 and calls > one.left:
                cost.warning = (
                    f"Of {one.window.words()} {one.left:,} are left, and about {calls:,} are needed: "
                    "it resumes by itself when more are free."
                )
    if (
        isinstance(brief.pages, PagedModel)
        and cost.calls is not None
        and cost.calls // len(plan.iterations) > brief.pages.most
    ):
        cost.warning = f"The brief allows {brief.pages.most:,} pages, which is fewer than there are."
    return cost


def _calls(
    workspace: Workspace,
    plan: RunPlan,
    query_id: int | None,
    preview: Preview | None,
    at_hand: AtHand,
    now: datetime,
) -> tuple[dict[str, int] | None, str]:
    brief = plan.brief
    iterations = len(plan.iterations)
    counts: Counter[str] = Counter()
    last, brief_then = _comparable(workspace, brief, query_id)
    if brief.ask is not None:
        pages, basis = _pages(plan, preview)
        if pages is None and last is not None:
            calls = workspace.runs.calls(last.id)
            made = sum(call.state != "again" for call in calls if call.stage in ("pages", LISTING))
            pages = max(1, round(made / max(1, len(last.iterations))))
            basis = "as many pages as the run before"
        if pages is None:
            return None, basis
        counts[brief.ask.service] = pages * iterations
        if iterations > 1:
            words = iterations_words(brief.each, iterations)
            basis = f"{words}, {basis}" if basis else words
    else:
        basis = "a sheet"
    table = at_hand() if brief.look_up else None
    for look_up in brief.look_up:
        before = last.report.lookups.get(look_up.name) if last is not None else None
        same = brief_then is not None and look_up in brief_then.look_up
        # Of what is asked anew each time, the run before knows more than rows at hand, which may be a part.
        told = None
        if table is not None and (before is None or not same or look_up.keep_for is not None):
            told = look_up_ahead(workspace, plan, look_up, table, now)
        if told is None and before is None:
            basis += f"; the calls of “{look_up.name}” are not known before the first run"
            continue
        asked = told.calls if told is not None else before.calls if before is not None else 0
        counts[lookup_service(brief, look_up)] += asked
        basis += f"; {asked:,} for “{look_up.name}”" + (f" {told.words()}" if told is not None else "")
    return dict(counts), basis


def _pages(plan: RunPlan, preview: Preview | None) -> tuple[int | None, str]:
    """Pages per iteration, where the brief or a saved answer says so."""
    pages = plan.brief.pages
    if not isinstance(pages, PagedModel):
        return 1, "one call" if len(plan.iterations) == 1 else "one call each"
    if way_of(pages).plans_ahead:
        paginator = plan.paginator()
        return len(next(paginator)), "one call for each window of the range"
    if preview is not None and preview.total_gap is not None and preview.total_gap.here:
        found = -(-preview.total_gap.total // preview.total_gap.here)
        return min(found, pages.most), f"{preview.total_gap.total:,} rows, {preview.total_gap.here:,} a page"
    return None, "how many pages there are is not known before the first run"


def _comparable(workspace: Workspace, brief: Brief, query_id: int | None) -> tuple[Run | None, Brief | None]:
    """The newest run of the query that came to its end with the same way of turning pages, and its brief."""
    if query_id is None:
        return None, None
    for run in workspace.runs.latest(query_id, most=10):
        if run.snapshot_id is not None:
            before = load_brief(json.loads(workspace.runs.brief_of(run.id)))
            same = (before.pages, before.ask) == (brief.pages, brief.ask)
            return (run, before) if same else (None, None)
    return None, None
