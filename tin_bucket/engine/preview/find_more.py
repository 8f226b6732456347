"""“Is there more?”: asks what the core wants to know, one call after the other, and keeps what was found."""

from __future__ import annotations

import asyncio
from dataclasses import dataclass
from datetime import datetime

from tin_bucket.core.auth.sign import shown
from tin_bucket.core.document.service import Service
from tin_bucket.core.pagination.base import PaginationModel
from tin_bucket.core.pagination.finding.finder import find_more, may_find_out, most_calls
from tin_bucket.core.pagination.finding.finding import Finding, TrialCall, Tried
from tin_bucket.core.pagination.protocol import Page, RowShape, make_page
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.response.classify import classify
from tin_bucket.core.response.response import Answer
from tin_bucket.engine.clock import Clock
from tin_bucket.engine.network.sender import Connections, Sender
from tin_bucket.store.findings import FoundOut, TriedCall
from tin_bucket.store.workspace import Workspace

from .preview import Preview


@dataclass(frozen=True, slots=True)
class FindingCost:
    """What finding out costs at most, and whether it may be done unasked."""

    calls: int
    reads: bool
    by_itself: bool


def finding_cost(preview: Preview, service: Service) -> FindingCost:
    """What “Is there more?” would cost for a preview."""
    reads = may_find_out(preview.calls[0], False)
    return FindingCost(most_calls(preview.pages), reads, service.find_out and reads)


async def find_out(
    workspace: Workspace,
    clock: Clock,
    connections: Connections,
    preview: Preview,
    service: Service,
    reads: bool,
    query_id: int | None,
) -> FoundOut:
    """Find out whether there is more than a preview's first answer holds.

    Args:
        reads: whether a person has said that a call of this kind changes nothing.

    Raises:
        ProblemError: ``no-question``; ``may-change``: the call may change something, and nobody has said otherwise; or
            why the first answer cannot be used.
    """
    if not preview.calls or preview.brief.ask is None:
        raise fail("no-question", "There is no answer to begin with.", where="turn pages", do="Ask once first.")
    call, brief = preview.calls[0], preview.brief
    if not may_find_out(call, reads):
        raise fail(
            "may-change",
            f"A {call.method} may change something at the service, so it is not tried out.",
            where="turn pages",
            do="Say that it only reads, if it does.",
        )
    shape = preview.row_shape()

    def first_page() -> Page:
        answer = preview.answers[0].answer
        verdict = classify(answer, service.error_rules)
        if verdict.problem is not None:
            raise ProblemError(verdict.problem)
        return make_page(brief.pages, shape, call, verdict.document, answer.headers)[0]

    page = await asyncio.to_thread(first_page)
    finder = find_more(call, page, clock.here().date())
    tried: list[TriedCall] = []
    try:
        trial = next(finder)
        while True:
            sent = clock.now()
            outcome, made = await _try(connections, service, trial, brief.pages, shape)
            tried.append(_tried(service, trial, made, outcome, sent))
            trial = finder.send(outcome)
    except StopIteration as done:
        finding: Finding = done.value
    if service.key is not None and tried:
        await asyncio.to_thread(workspace.vault.used, service.id, clock.now())
    found = FoundOut(clock.now().isoformat(timespec="seconds"), finding, tried)
    await asyncio.to_thread(workspace.findings.add, query_id, found)
    return found


async def _try(
    connections: Connections, service: Service, trial: TrialCall, pages: PaginationModel, shape: RowShape
) -> tuple[Tried, Answer | None]:
    try:
        answer = await Sender(connections, service, tries=1).send(trial.call)
    except ProblemError as error:
        return Tried(None, error.problem), None
    verdict = await asyncio.to_thread(classify, answer, service.error_rules)
    if verdict.problem is not None:
        return Tried(None, verdict.problem), answer
    page, _ = make_page(pages, shape, trial.call, verdict.document, answer.headers)
    return Tried(page), answer


def _tried(service: Service, trial: TrialCall, answer: Answer | None, outcome: Tried, sent: datetime) -> TriedCall:
    rows = outcome.page.size if outcome.page is not None else None
    return TriedCall(
        sent.isoformat(timespec="milliseconds"),
        trial.call.method,
        shown(trial.call, service.key).address,
        answer.status if answer is not None else 0,
        round(answer.seconds * 1000) if answer is not None else 0,
        rows,
    )
