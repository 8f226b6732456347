"""Makes the calls of a run's lookups. One that fails does not lose the others; answers that are kept are not asked
for again."""

from __future__ import annotations

import asyncio
from dataclasses import replace
from datetime import UTC, datetime
from typing import Any

from tin_bucket.core.formats.durations import parse_duration, span_of
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.classify import classify
from tin_bucket.core.response.response import Answer
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
    context.stage(f"look up {request.look_up.name}", len(request.plan.calls))
    gate = asyncio.Semaphore(context.at_once(request.service.id))

    async def one(call: Call) -> Answer:
        async with gate:
            found = await context.runner.send(call, request.service.id)
        answer = found.answer
        missing = is_missing(request.look_up, answer)
        problem = None if missing else classify(answer, request.service.error_rules).problem
        state: TileState = "missing" if missing else "answered" if problem is None else "failed"
        told = placed(problem, call) if problem else None
        context.journal.made(call, answer, found.sent, 0, told, state, saved=found.saved)
        await context.journal.flush_if_due()
        return answer

    async with asyncio.TaskGroup() as group:
        tasks = [group.create_task(one(replace(call, turn=turn))) for turn, call in enumerate(request.plan.calls)]
    return [task.result() for task in tasks]
