"""Makes the calls of a run's lookups. One that fails does not lose the others."""

from __future__ import annotations

import asyncio
from dataclasses import replace

from tin_bucket.core.request.call import Call
from tin_bucket.core.response.classify import classify
from tin_bucket.core.response.response import Answer
from tin_bucket.core.table.lookup import is_missing
from tin_bucket.core.table.pipeline import LookupRequest, Made, Making

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
            request = making.send(await _answers(context, request))
    except StopIteration as done:
        made: Made = done.value
        return made


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
