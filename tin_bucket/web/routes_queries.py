"""Queries: paste to begin, save, try, refresh."""

from __future__ import annotations

import asyncio
from dataclasses import asdict
from typing import Any

from fastapi import APIRouter

from tin_bucket.core.brief import Brief
from tin_bucket.core.paste import take_apart
from tin_bucket.core.picking import pick_number
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.service import Service
from tin_bucket.core.table import count_filled
from tin_bucket.core.values import default_value
from tin_bucket.core.verdict import Answer, judge
from tin_bucket.engine.trial import Trial

from .answers import tree
from .cells import json_response, shown_rows
from .context import Context, Here, column_info, header_infos, problem_info, run_info, snapshot_info
from .models import (
    BriefIn,
    CallInfo,
    CallPreview,
    PagesGuessInfo,
    PasteIn,
    PasteOut,
    QueryDetail,
    RowsGuessInfo,
    RunStarted,
    TrialInfo,
    TryIn,
    ValuesIn,
    Window,
)

router = APIRouter(prefix="/api")


@router.post("/paste")
def paste(here: Here, body: PasteIn) -> PasteOut:
    """Take a pasted address apart. Nothing is sent and nothing is stored."""
    services = here.workspace.services.all()
    understood = take_apart(body.text, services)
    known = {service.id: service.name for service in services}
    name = known.get(understood.service_id or "", understood.base.partition("://")[2])
    understood.brief.name = here.workspace.queries.free_name(understood.brief.name)
    return PasteOut(
        service_id=understood.service_id,
        service_name=name,
        base=understood.base,
        brief=understood.brief,
        left_out=understood.left_out,
    )


@router.post("/queries", status_code=201)
async def add(here: Here, body: BriefIn) -> QueryDetail:
    """Save a new query."""

    def store() -> int:
        here.workspace.services.get(body.brief.ask.service)
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
    snapshots = workspace.snapshots.of_query(query_id)
    runs = workspace.runs.latest(query_id, most=1)
    today = here.engine.clock.today()
    moment = here.schedule.next_time(query_id)
    return QueryDetail(
        id=query.id,
        brief_id=query.brief_id,
        brief=query.brief,
        service=service,
        key_stored=service is not None and workspace.vault.state(service.id) is not None,
        values={parameter.name: default_value(parameter, today) for parameter in query.brief.parameters},
        snapshots=[snapshot_info(snapshot) for snapshot in snapshots],
        columns=[column_info(column) for column in snapshots[-1].columns] if snapshots else [],
        last_run=run_info(runs[0]) if runs else None,
        running=here.engine.running().get(query_id),
        next_time=moment.isoformat() if moment else None,
    )


def _service(here: Context, brief: Brief) -> Service | None:
    try:
        return here.workspace.services.get(brief.ask.service)
    except ProblemError:
        return None


@router.put("/queries/{query_id}")
async def save(here: Here, query_id: int, body: BriefIn) -> QueryDetail:
    """Save a new version of a query's brief."""

    def store() -> None:
        here.workspace.services.get(body.brief.ask.service)
        here.workspace.queries.save(query_id, body.brief, here.engine.clock.now(), body.based_on)

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


@router.post("/call")
def preview(here: Here, body: TryIn) -> CallPreview:
    """The first call that a brief would make, key masked. Nothing is sent."""
    service, bindings, call = here.engine.first_call(body.brief, body.values)
    placement = service.key.placement() if service.key else None
    return CallPreview(method=call.method, address=call.address, headers=header_infos(call, placement), values=bindings)


# Trying --------------------------------------------------------------------------------------------------------


@router.post("/ask-once")
async def ask_once(here: Here, body: TryIn) -> TrialInfo:
    """Make one call with a brief that need not be saved."""
    number = await here.engine.ask_once(body.brief, body.values)
    return await asyncio.to_thread(_trial_info, here, number)


@router.post("/queries/{query_id}/reread")
def reread(here: Here, query_id: int, body: TryIn) -> TrialInfo | None:
    """Read answers that are here already in another way: no call is made. Nothing when no answers are kept."""
    number = here.engine.reread(query_id, body.brief, body.trial, body.most)
    return None if number is None else _trial_info(here, number)


@router.get("/trials/{number}/rows", response_model=Window)
def trial_rows(here: Here, number: int, start: int = 0, count: int = 200) -> Any:
    """A window of a trial's table."""
    trial = _trial(here, number)
    rows = trial.replay.table.rows(start, start + min(count, 2000)) if trial.replay else []
    return json_response({"start": start, "rows": shown_rows(rows)})


@router.get("/trials/{number}/answers/{index}", response_model=None)
def trial_answer(here: Here, number: int, index: int) -> Any:
    """The body of one of a trial's answers: parsed JSON, or its beginning as text."""
    trial = _trial(here, number)
    if not 0 <= index < len(trial.answers):
        raise fail("trial-gone", "There is no such answer.", where=f"answer {index}", do="Ask once again.")
    return answer_document(trial.answers[index].body)


def answer_document(body: bytes) -> Any:
    """An answer for the browser: its JSON as it came, or the first characters of what is not JSON."""
    verdict = judge(Answer(200, {}, body))
    if verdict.problem is not None:
        return json_response({"text": body[:20_000].decode("utf-8", "replace"), "size": len(body)})
    return json_response({"json": tree(verdict.document), "size": len(body)})


def _trial(here: Context, number: int) -> Trial:
    trial = here.engine.trials.get(number)
    if trial is None:
        raise fail("trial-gone", "This trial is not kept any more.", where=f"trial {number}", do="Ask once again.")
    return trial


def _trial_info(here: Context, number: int) -> TrialInfo:
    trial = _trial(here, number)
    service = here.workspace.services.get(trial.brief.ask.service)
    placement = service.key.placement() if service.key else None
    replay = trial.replay
    total = None
    if trial.replay is not None and trial.replay.picked:
        total = pick_number(judge(trial.answers[-1]).document, trial.brief.pages.total)
    sizes = [len(page.values) for page in replay.picked] if replay else []
    sizes += [0] * (len(trial.answers) - len(sizes))
    calls = [
        CallInfo(
            number=index + 1,
            stage=call.stage,
            label=call.label,
            method=call.method,
            address=call.address,
            headers=header_infos(call, placement),
            status=answer.status,
            sent=trial.asked,
            ms=round(answer.seconds * 1000),
            size=len(answer.body),
            records=sizes[index],
            has_answer=answer.failure is None,
            problem=problem_info(trial.problem) if index == 0 else None,
        )
        for index, (call, answer) in enumerate(zip(trial.calls, trial.answers, strict=False))
    ]
    guess = trial.pages
    return TrialInfo(
        id=number,
        asked=trial.asked,
        run_id=trial.run_id,
        pages=len(trial.answers),
        pages_read=trial.pages_read,
        columns=[column_info(column) for column in count_filled(replay.table)] if replay else [],
        rows=replay.table.height if replay else 0,
        records=replay.reading.records if replay else 0,
        stated_total=total,
        problem=problem_info(trial.problem),
        row_guesses=[RowsGuessInfo(**asdict(guess)) for guess in trial.rows[:8]],
        pages_guess=PagesGuessInfo(pages=guess.pages.model_dump(), evidence=guess.evidence) if guess else None,
        absent=replay.reading.absent if replay else [],
        fresh=replay.reading.fresh if replay else [],
        lists=replay.reading.lists if replay else {},
        unfit=replay.reading.unfit if replay else {},
        calls=calls,
    )
