"""Queries: save, try, refresh."""

from __future__ import annotations

import asyncio
from collections.abc import Mapping, Sequence
from dataclasses import asdict
from datetime import UTC
from functools import partial

from fastapi import APIRouter

from tin_bucket.core.analysis.nowhere import places_nowhere
from tin_bucket.core.analysis.row_flow import row_flow
from tin_bucket.core.document.lint import lint_brief
from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.references import queries_named, sheets_named
from tin_bucket.core.document.report import RunReport
from tin_bucket.core.document.service import Service
from tin_bucket.core.interchange.copy import as_command
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.request.iterations import iteration_label
from tin_bucket.core.request.parameters.models import Choice, ChoiceParameter
from tin_bucket.core.request.parameters.moment import Moment
from tin_bucket.core.request.parameters.values import Given, default_value
from tin_bucket.core.request.variables import make_scope
from tin_bucket.core.table.pipeline import reading_report
from tin_bucket.core.table.table import count_filled
from tin_bucket.engine.preview.estimate import cost_of
from tin_bucket.engine.preview.find_more import finding_cost
from tin_bucket.engine.preview.preview import Preview
from tin_bucket.engine.preview.verify_pagination import verify_pagination
from tin_bucket.engine.run.plan import make_plan
from tin_bucket.engine.work_out.made_of import made_of, start_columns
from tin_bucket.engine.work_out.values import with_choices
from tin_bucket.store.overview import made_with
from tin_bucket.store.snapshot import Snapshot
from tin_bucket.web.context import (
    Context,
    Here,
    allowance_info,
    column_info,
    kept_preview,
    key_info,
    problem_info,
    run_info,
    shown_call,
    snapshot_info,
)
from tin_bucket.web.models.common import HintInfo
from tin_bucket.web.models.query import (
    BriefIn,
    ChainInfo,
    CostOut,
    FindingInfo,
    FirstCall,
    PaginationGuessInfo,
    ParameterIn,
    ParameterOut,
    PlanOut,
    PreviewInfo,
    ProofInfo,
    QueryDetail,
    RecordsGuessInfo,
    TotalGapInfo,
    TryIn,
    VerificationOut,
)
from tin_bucket.web.models.run import CallInfo, RunStarted, ValuesIn
from tin_bucket.web.models.table import RowFlowStepInfo

from .drafts import draft_info

router = APIRouter(prefix="/api")
MOST_CALLS = 5_000  # Calls of a preview that are told.
MOST_FRESH = 5_000  # Fields that are not taken that are told.


@router.post("/queries", status_code=201)
async def add(here: Here, body: BriefIn) -> QueryDetail:
    """Save a new query."""

    def store() -> int:
        known_names(here, body.brief)
        return here.workspace.queries.add(body.brief, here.engine.clock.now()).id

    query_id = await asyncio.to_thread(store)
    here.schedule.renew()
    return await asyncio.to_thread(detail, here, query_id)


@router.get("/queries/{query_id}")
def detail(here: Here, query_id: int) -> QueryDetail:
    """A query with all that its page shows."""
    workspace = here.workspace
    query = workspace.queries.get(query_id)
    service = _service(here, query.brief)
    start = query.brief.start
    work_out = here.engine.tables.work_out
    snapshots = work_out.timeline(query)
    own = snapshots if start is None else []
    columns = own[-1].columns if own else start_columns(work_out, query)
    runs = workspace.runs.latest(query_id, most=1)
    bound = with_choices(workspace, query.brief)
    moment = here.schedule.next_times(query_id).get(query_id)
    draft = workspace.drafts.get(query_id)
    made = (own[-1].brief or workspace.runs.brief_of(own[-1].run_id)) if own else None
    return QueryDetail(
        id=query.id,
        brief_id=query.brief_id,
        brief=query.brief,
        service=service,
        key=key_info(here, service) if service is not None else None,
        values=_defaults(query.brief, here.engine.moment(query_id)),
        choices=_choices(query.brief, bound),
        latest=snapshot_info(snapshots[-1]) if snapshots else None,
        dates=len(snapshots),
        row_flow=_row_flow_of(here, own[-1]) if own else [],
        saved_bytes=workspace.archive.size(query_id),
        columns=[column_info(column) for column in columns],
        last_run=run_info(runs[0]) if runs else None,
        running=here.engine.running().get(query_id),
        next_time=moment.isoformat() if moment else None,
        findings=[
            FindingInfo(id=one.id, asked=one.asked, state=one.state, **one.document)
            for one in workspace.findings.of_query(query_id)
        ],
        draft=draft_info(draft) if draft is not None else None,
        chain=[ChainInfo(**asdict(one)) for one in made_of(workspace, work_out, query)],
        made_with=made_with(made, query.brief.model_dump_json(by_alias=True), query.brief),
    )


def _row_flow_of(here: Context, snapshot: Snapshot) -> list[RowFlowStepInfo]:
    """Where the rows of a snapshot went."""
    run = here.workspace.runs.get(snapshot.run_id)
    steps = row_flow(run.report, run.report.pages or run.calls, run.records, snapshot.rows, run.stated_total)
    return [RowFlowStepInfo(**asdict(one)) for one in steps]


def _service(here: Context, brief: Brief) -> Service | None:
    if brief.ask is None:
        return None
    try:
        return here.workspace.services.get(brief.ask.service)
    except ProblemError:
        return None


def known_names(here: Context, brief: Brief) -> None:
    """Make sure that what a brief names is there: services, sheets, other queries."""
    for service_id in brief.services():
        here.workspace.services.get(service_id)
    for sheet in sheets_named(brief):
        here.workspace.sheets.get(sheet)
    for query in queries_named(brief):
        here.workspace.queries.find(query)


def _defaults(brief: Brief, moment: Moment) -> dict[str, Given]:
    values: dict[str, Given] = {}
    for parameter in brief.parameters:
        try:
            values[parameter.name] = default_value(parameter, moment)
        except ValueError:
            values[parameter.name] = None
    return values


def _choices(brief: Brief, bound: Brief) -> dict[str, list[Choice]]:
    """The choices that a brief reads from other tables."""
    return {
        parameter.name: found.choices
        for parameter, found in zip(brief.parameters, bound.parameters, strict=True)
        if isinstance(parameter, ChoiceParameter)
        and isinstance(found, ChoiceParameter)
        and parameter.choices_from is not None
    }


@router.put("/queries/{query_id}")
async def save(here: Here, query_id: int, body: BriefIn) -> QueryDetail:
    """Save a new version of a query's brief."""

    def store() -> None:
        known_names(here, body.brief)
        here.workspace.save_brief(query_id, body.brief, here.engine.clock.now(), body.based_on)

    await asyncio.to_thread(store)
    here.schedule.renew()
    return await asyncio.to_thread(detail, here, query_id)


@router.delete("/queries/{query_id}", status_code=204)
async def delete(here: Here, query_id: int) -> None:
    """Delete a query with its snapshots and saved answers."""
    run_id = here.engine.running().get(query_id)
    if run_id is not None:
        here.engine.cancel(run_id)
        await here.engine.wait(run_id)
    await asyncio.to_thread(here.workspace.queries.delete, query_id)
    here.schedule.renew()


@router.post("/queries/{query_id}/refresh", status_code=202)
async def refresh(here: Here, query_id: int, body: ValuesIn) -> RunStarted:
    """Begin a refresh of the saved query."""
    return RunStarted(run_id=await here.engine.start(query_id, body.values, "by hand"))


def first_call_info(here: Context, brief: Brief, values: Mapping[str, Given], query_id: int | None = None) -> FirstCall:
    """All that can be said of a brief's first call before it is made; a problem is part of it."""
    out = FirstCall(
        hints=[HintInfo(**asdict(hint)) for hint in lint_brief(brief)],
        values=_defaults(brief, here.engine.moment(query_id)),
    )
    try:
        out.choices = _choices(brief, with_choices(here.workspace, brief))
        if brief.ask is None:
            return out
        plan, call = here.engine.first_call(brief, values, query_id)
    except ProblemError as error:
        out.problem = problem_info(error.problem)
        return out
    key = plan.services[plan.service_id].key
    told = shown_call(call, key)
    out.method, out.address, out.headers, out.body = (told[name] for name in ("method", "address", "headers", "body"))
    out.command = as_command(call, key)
    out.iterations = len(plan.iterations)
    out.iteration_labels = [iteration_label(one) for one in plan.iterations[:5]] if brief.each else []
    return out


@router.post("/parameter")
def parameter_today(here: Here, body: ParameterIn) -> ParameterOut:
    """What a parameter is today when nobody gives a value, and how that is sent."""
    moment = here.engine.moment(body.query_id)
    try:
        value = default_value(body.parameter, moment)
    except ValueError:
        return ParameterOut(value=None, sent="")
    bound = make_scope([body.parameter], {body.parameter.name: value}, moment.now.tzinfo or UTC)
    return ParameterOut(value=value, sent=bound[body.parameter.name].joined())


# Trying --------------------------------------------------------------------------------------------------------


@router.post("/ask-once")
async def ask_once(here: Here, body: TryIn) -> PreviewInfo:
    """Make one call with a brief that need not be saved."""
    number = await here.engine.ask_once(body.brief, body.values, body.query_id)
    return await asyncio.to_thread(_preview_info, here, number)


@router.post("/queries/{query_id}/reread")
def reread(here: Here, query_id: int, body: TryIn) -> PreviewInfo | None:
    """Read answers that are here already in another way: no call is made. Nothing when no answers are kept."""
    number = here.engine.reread(query_id, body.brief, body.preview, body.most)
    return None if number is None else _preview_info(here, number)


@router.post("/queries/{query_id}/at-hand", status_code=204)
def at_hand(here: Here, query_id: int, body: TryIn) -> None:
    """Somebody is about to read saved answers in other ways: their records are gathered, so that each way is quick."""
    here.engine.rereader.prepare(query_id, body.brief, body.preview)


@router.post("/plan")
async def plan(here: Here, body: TryIn) -> PlanOut:
    """The first call of a refresh, key masked, and what all of them will cost. Nothing is sent."""
    first = await asyncio.to_thread(first_call_info, here, body.brief, body.values, body.query_id)
    return PlanOut(first_call=first, cost=None if first.problem is not None else await _cost(here, body))


async def _cost(here: Context, body: TryIn) -> CostOut | None:
    """Calls, time, and what the limits leave; nothing where no plan can be made."""
    engine = here.engine
    try:
        made = await asyncio.to_thread(
            lambda: make_plan(here.workspace, body.brief, body.values, engine.moment(body.query_id))
        )
    except ProblemError:
        return None
    lanes = engine.lanes(made.services.values())
    preview = engine.previews.get(body.preview) if body.preview is not None else None
    at_hand = partial(engine.tables.at_hand, body.query_id, body.preview)
    cost = await asyncio.to_thread(
        cost_of, engine.workspace, made, body.query_id, preview, lanes, at_hand, engine.clock.now()
    )
    return CostOut(
        calls=cost.calls,
        basis=cost.basis,
        seconds=cost.seconds,
        waits=cost.waits,
        why=cost.why,
        left=[allowance_info(one) for one in cost.left],
        warning=cost.warning,
    )


@router.post("/previews/{number}/verify")
async def verify(here: Here, number: int, body: TryIn) -> VerificationOut:
    """Make the second call that the brief's way of turning pages asks for, and tell whether it brings other rows."""
    preview = kept_preview(here, number)
    found = await verify_pagination(
        here.engine.connections,
        preview,
        body.brief,
        lambda: here.engine.first_call(body.brief, body.values, body.query_id)[0],
    )
    return VerificationOut(verified=found.verified, what=found.what, do=found.do, problem=problem_info(found.problem))


def _proof(service: Service | None, preview: Preview) -> ProofInfo | None:
    if preview.proof is None or service is None:
        return None
    cost, (state, evidence) = finding_cost(preview, service), preview.proof
    return ProofInfo(state=state, evidence=evidence, calls=cost.calls, reads=cost.reads, by_itself=cost.by_itself)


def _row_flow_of_preview(preview: Preview) -> list[RowFlowStepInfo]:
    if preview.replay is None:
        return []
    made = preview.replay
    report = RunReport(reading=reading_report(preview.brief, made.reading), lookups=made.lookups)
    steps = row_flow(report, preview.pages_read, made.reading.records, made.table.height, preview.stated_total)
    return [RowFlowStepInfo(**asdict(one)) for one in steps]


def _nowhere(preview: Preview) -> Sequence[str]:
    replay = preview.replay
    if replay is None or preview.partial:
        return ()
    empty = reading_report(preview.brief, replay.reading).empty
    return places_nowhere(
        preview.brief, replay.table, preview.stated_total, replay.reading.records, empty, preview.stated_pages
    )


def _preview_info(here: Context, number: int) -> PreviewInfo:
    preview = kept_preview(here, number)
    service = _service(here, preview.brief)
    key = service.key if service is not None else None
    replay = preview.replay
    sizes = list(replay.sizes) if replay else []
    lengths = preview.sizes()
    sizes += [0] * (len(preview.answers) - len(sizes))
    # A call that was answered has not failed, whatever its answer is read as.
    failed = preview.problem is not None and replay is None
    calls = [
        CallInfo(
            number=index + 1,
            stage=call.stage,
            label=call.label,
            **shown_call(call, key),
            note=head.answer.note,
            used=True,
            status=head.answer.status,
            sent=preview.asked,
            ms=round(head.answer.seconds * 1000),
            size=lengths[index],
            records=sizes[index],
            has_answer=head.answer.failure is None,
            problem=problem_info(preview.problem) if index == 0 else None,
            state="failed" if failed and index == 0 else "answered",
            saved=preview.run_id is not None,
        )
        for index, call in enumerate(preview.calls[:MOST_CALLS])
        for head in (preview.head(index),)
    ]
    return PreviewInfo(
        id=number,
        asked=preview.asked,
        run_id=preview.run_id,
        pages=len(preview.answers),
        pages_read=preview.pages_read,
        columns=[column_info(column) for column in count_filled(replay.table)] if replay else [],
        rows=replay.table.height if replay else 0,
        records=replay.reading.records if replay else 0,
        stated_total=preview.stated_total,
        problem=problem_info(preview.problem),
        records_guesses=[RecordsGuessInfo(**asdict(guess)) for guess in preview.rows[:8]],
        pagination_guesses=[
            PaginationGuessInfo(
                pages=guess.pages,
                words=guess.words,
                evidence=guess.evidence,
                known=guess.sure,
            )
            for guess in preview.pages
        ],
        total_gap=TotalGapInfo(**asdict(preview.total_gap)) if preview.total_gap is not None else None,
        proof=_proof(service, preview),
        notes=[*preview.notes, *_nowhere(preview)],
        absent=replay.reading.absent if replay else [],
        fresh=replay.reading.fresh[:MOST_FRESH] if replay else [],
        lists=replay.reading.lists if replay else {},
        unfit=replay.reading.unfit if replay else {},
        heads=replay.reading.heads if replay else [],
        partial=preview.partial,
        row_flow=_row_flow_of_preview(preview),
        calls=calls,
    )
