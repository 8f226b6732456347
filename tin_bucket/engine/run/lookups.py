"""Makes the calls of a run's lookups. One that fails does not lose the others; answers that are kept are not asked
for again."""

from __future__ import annotations

import asyncio
import math
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

from tin_bucket.core.formats.durations import parse_duration, span_of
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.classify import classify
from tin_bucket.core.response.response import Answer
from tin_bucket.core.response.too_long import too_long
from tin_bucket.core.table.lookup import Kept, Key, is_missing, kept_answer
from tin_bucket.core.table.pipeline import FreshAnswers, KeptRequest, LookupRequest, Made, Making

from .calls import placed
from .context import RunContext
from .progress import TileState


async def make_lookups(context: RunContext, making: Making) -> Made:
    """Drive a pipeline's lookups to their end: each is asked over the network, and its answers sent back.

    Raises:
        ProblemError: a lookup that does not fit the table, or a key that is refused.
    """
    try:
        request = next(making)
        while True:
            reply: Any = None
            if isinstance(request, LookupRequest):
                reply = await _answers(context, request)
            elif isinstance(request, KeptRequest):
                reply = await _kept(context, request)
            elif isinstance(request, FreshAnswers):
                await asyncio.to_thread(
                    context.workspace.looked_up.keep, request.question, request.found, context.clock.now()
                )
            request = making.send(reply)
    except StopIteration as done:
        made: Made = done.value
        return made


async def _kept(context: RunContext, request: KeptRequest) -> dict[Key, Kept]:
    """The answers that are kept for some values, and not too old; the run notes them as one saved answer."""
    assert request.look_up.keep_for is not None
    since = context.clock.now() - span_of(parse_duration(request.look_up.keep_for))
    known = context.workspace.looked_up.known
    kept = await asyncio.to_thread(known, request.question, request.keys, since)
    if kept:
        address, body = kept_answer(request.look_up, kept, list(kept))
        oldest = min(one.asked for one in kept.values())
        label = f"{len(kept):,} kept answers"
        call = Call("GET", address, stage=f"look up {request.look_up.name}", label=label, turn=-1)
        answer = Answer(200, {"content-type": "application/json"}, body)
        sent = datetime.fromisoformat(oldest).astimezone(UTC).isoformat(timespec="milliseconds")
        context.journal.made(call, answer, sent, len(kept), None, "answered", saved=True)
    return kept


async def _answers(context: RunContext, request: LookupRequest) -> list[Answer]:
    """The answers to the calls of a lookup. A call that holds more than the service takes is made in parts: the plan
    has the calls that were made then."""
    look_up, service, plan = request.look_up, request.service, request.plan
    planned = len(plan.calls)
    context.stage(f"look up {look_up.name}", planned)
    gate = asyncio.Semaphore(context.at_once(service.id))
    lane = context.runner.sender(service.id).lane
    answers: dict[int, Answer] = {}
    most_values: float = math.inf
    # Until one was answered each goes alone, so that few are made again where less fits in a call.
    fits = asyncio.Event()
    if plan.build is None:
        fits.set()

    def holds_too_much(at: int) -> bool:
        if not plan.can_halve(at):
            return False
        most = lane.most_address
        return plan.values(at) > most_values or (most is not None and len(plan.calls[at].address) > most)

    async def ask(at: int, group: asyncio.TaskGroup) -> None:
        nonlocal most_values
        if at:
            await fits.wait()
        async with gate:
            while True:
                while holds_too_much(at):
                    group.create_task(ask(plan.halve(at), group))
                answer = await one(replace(plan.calls[at], turn=at), plan.can_halve(at))
                if answer is not None:
                    break
                if lane.most_address is None or len(plan.calls[at].address) <= lane.most_address:
                    most_values = min(most_values, -(-plan.values(at) // 2))
        answers[at] = answer
        fits.set()

    async def one(call: Call, divisible: bool) -> Answer | None:
        """An answer; ``None`` where there was too much in the call, and it can be made in parts."""
        found = await context.runner.send(call, service.id)
        answer = found.answer
        missing = is_missing(look_up, answer)
        verdict = None if missing else classify(answer, service.error_rules)
        problem = verdict.problem if verdict is not None else None
        context.report.warn(verdict.warnings if verdict is not None else ())
        if answer.note:
            context.report.note(answer.note)
        parted = divisible and problem is not None and too_long(problem)
        state: TileState = "missing" if missing else "answered" if problem is None else "again" if parted else "failed"
        told = placed(problem, call) if problem else None
        context.journal.made(
            call,
            answer,
            found.sent,
            problem=told,
            state=state,
            used=not parted,
            saved=found.saved,
            unchanged=found.unchanged,
        )
        await context.journal.flush_if_due()
        return None if parted else answer

    async with asyncio.TaskGroup() as group:
        for at in range(planned):
            group.create_task(ask(at, group))
    if len(plan.calls) > planned:
        most = max(plan.values(at) for at in range(len(plan.calls)))
        context.report.note(
            f"{service.name} takes fewer values in a call than the lookup “{look_up.name}” has: they went in"
            f" {len(plan.calls):,} calls of up to {most:,} instead of {planned:,}."
        )
    return [answers[at] for at in range(len(plan.calls))]
