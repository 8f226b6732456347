"""Verifying a way to turn pages with a second call."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from tin_bucket.core.document.extraction import row_shape
from tin_bucket.core.document.query import Brief
from tin_bucket.core.pagination.base import PagedModel
from tin_bucket.core.pagination.protocol import Page, PaginationEnd, RowShape, make_page
from tin_bucket.core.problem import Problem, fail
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.classify import classify
from tin_bucket.core.response.error_rules import ErrorRule
from tin_bucket.core.response.response import Answer
from tin_bucket.engine.network.sender import Connections, Sender
from tin_bucket.engine.run.calls import placed
from tin_bucket.engine.run.plan import RunPlan

from .preview import Preview


@dataclass(frozen=True, slots=True)
class Verification:
    """What a second call showed. `verified`: whether it brought other rows."""

    verified: bool
    what: str
    do: str = ""
    problem: Problem | None = None


async def verify_pagination(
    connections: Connections, preview: Preview, brief: Brief, make_plan: Callable[[], RunPlan]
) -> Verification:
    """Turn one page with a brief, from a preview's first answer on.

    Args:
        make_plan: gives the plan of the brief; called in a thread.

    Raises:
        ProblemError: ``no-question``, or why no call could be made.
    """
    if brief.ask is None or not isinstance(brief.pages, PagedModel) or not preview.answers:
        raise fail("no-pages", "The brief turns no pages.", where="turn pages", do="Say how pages are turned first.")
    plan = await asyncio.to_thread(make_plan)
    service = plan.services[plan.service_id]
    paginator = plan.paginator()
    call = next(paginator)[0]
    # Before the brief takes rows, the likeliest list says what they are.
    shape = replace(preview, brief=brief).row_shape()
    guessed = "" if shape == row_shape(brief.take) else f" Rows are counted at {shape.records}; none are chosen yet."
    old = preview.calls[0]
    answer = preview.answers[0].answer
    if (old.method, old.address, old.body) != (call.method, call.address, call.body):
        answer = await Sender(connections, service, tries=1).send(call)
    first = _page(brief, shape, call, answer, service.error_rules)
    if isinstance(first, Problem):
        return Verification(False, first.what, first.do, first)
    try:
        calls = paginator.send(first)
    except StopIteration as stopped:
        return _ended(stopped.value, first, guessed)
    call = calls[0]
    answer = await Sender(connections, service, tries=1).send(call)
    second = _page(brief, shape, call, answer, service.error_rules)
    if isinstance(second, Problem):
        return Verification(False, f"The second call brought no page. {second.what}", second.do, second)
    if not second.records:
        return Verification(
            False, "The second page is empty.", "Look at the name of the parameter and its first value."
        )
    if second.records == first.records:
        return Verification(
            False,
            "The second page is the same as the first: the parameter has no effect.",
            "Look at the parameter's name and at where it goes.",
        )
    known = [row for row in first.records if row in second.records] if len(first.records) <= 1000 else []
    if known:
        twice = f"{len(known):,} of them were on the first too.{guessed}"
        return Verification(
            True,
            f"The second page brings {len(second.records):,} rows, and {twice}",
            "The rows may move while pages are turned, or pages may overlap.",
        )
    here = first.size + second.size
    what = f"The second page brings {second.size:,} other rows; {here:,} are here after two calls.{guessed}"
    return Verification(True, what)


def _page(
    brief: Brief, shape: RowShape, call: Call, answer: Answer, error_rules: Sequence[ErrorRule]
) -> Page | Problem:
    verdict = classify(answer, error_rules)
    if verdict.problem is not None:
        return placed(verdict.problem, call)
    return make_page(brief.pages, shape, call, verdict.document, answer.headers)[0]


def _ended(stop: PaginationEnd, first: Page, guessed: str) -> Verification:
    if stop.complete:
        return Verification(True, f"One page is all: {stop.evidence}. {first.size:,} rows are here.{guessed}")
    return Verification(False, f"There is no second page: {stop.evidence}.", "Choose another way to turn pages.")
