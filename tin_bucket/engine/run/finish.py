"""The end of a run: what it reports, and its snapshot."""

from __future__ import annotations

import asyncio
import logging
from collections.abc import Callable, Sequence
from datetime import datetime, timedelta

from tin_bucket.core.analysis.completeness import completeness_gaps, table_state
from tin_bucket.core.analysis.duplicates import duplicates_by_content, duplicates_by_match, repeats_within_pages
from tin_bucket.core.analysis.nowhere import places_nowhere
from tin_bucket.core.analysis.schema_drift import schema_drift
from tin_bucket.core.document.extraction import row_shape
from tin_bucket.core.document.report import Duplicates, FailedPart, PageSize, Refusals, TotalMoved
from tin_bucket.core.pagination.protocol import FIRST_ROWS, PaginationEnd
from tin_bucket.core.problem import Problem, ProblemError
from tin_bucket.core.request.fan_out import iterations_words
from tin_bucket.core.request.iterations import iteration_label
from tin_bucket.core.table.pipeline import reading_report
from tin_bucket.core.table.select import Reading
from tin_bucket.core.table.table import Table
from tin_bucket.core.traffic.observed_limit import observed_limit
from tin_bucket.engine.workspace.thinning import thin_out
from tin_bucket.gc_pause import collector_paused
from tin_bucket.store.row_store.rows import content_ids

from .context import RunContext
from .page_loop import IterationDone

log = logging.getLogger("tin_bucket.refresh")
_MANY_REFUSED = 3  # From so many on a limit is worth keeping.
MOST_TOLD = 50  # Failed iterations and pages that a report lists one by one.


def report_asking(
    context: RunContext,
    done: Sequence[IterationDone],
    end: PaginationEnd,
    failed_pages: Sequence[tuple[str, Problem]],
) -> None:
    """Report how the asking went."""
    run, report = context.run, context.report
    run.stop, run.stated_total = end.evidence, end.stated_total
    iterations = context.plan.iterations
    failed = [(at, one.problem) for at, one in enumerate(done) if one.problem is not None and not one.missing]
    missing = [iteration_label(iterations[at]) for at, one in enumerate(done) if one.missing]
    report.iterations_without = sum(problem.kind == "no-rows-there" for _, problem in failed)
    report.iterations_failed = len(failed) - report.iterations_without
    report.iterations_missing, report.missing_iterations = len(missing), missing[:MOST_TOLD]
    if missing:
        some = ", ".join(missing[:3]) + (f" and {len(missing) - 3:,} more" if len(missing) > 3 else "")
        are = "1 value is" if len(missing) == 1 else f"{len(missing):,} values are"
        report.note(f"{are} not there, by the service’s own answer: {some}.")
    report.failed_iterations = [
        FailedPart.of(iteration_label(iterations[at]), problem) for at, problem in failed[:MOST_TOLD]
    ]
    report.failed_pages = [FailedPart.of(label, problem) for label, problem in failed_pages[:MOST_TOLD]]
    if end.page_size is not None:
        report.page_size = PageSize(asked=end.page_size[0], got=end.page_size[1])
    if end.moved:
        report.total_moved = TotalMoved(was=end.first_total or 0, now=end.stated_total or 0)


def report_reading(context: RunContext, reading: Reading, pages: int) -> None:
    """Report what the reading of the records found, and how the answers differ from those before."""
    run, report = context.run, context.report
    run.records, report.pages = reading.records, pages
    report.reading = reading_report(context.brief, reading)
    if reading.records:
        before = context.workspace.runs.fields_before(run.query_id, run.id)
        report.drift = schema_drift(before, reading.fields, context.brief.take)
        run.fields = reading.fields


def report_table(context: RunContext, table: Table, iteration_of_page: Sequence[int], end: PaginationEnd) -> None:
    """Report whether the table is complete, and if not, what it lacks."""
    run, report, match = context.run, context.report, context.brief.keep.match
    run.rows = table.height
    empty = report.reading.empty
    for one in places_nowhere(context.brief, table, end.stated_total, run.records, empty, end.stated_pages):
        report.note(one)
    twice = duplicates_by_match(table, match, iteration_of_page)
    if twice:
        report.duplicates = Duplicates(rows=twice, by=match)
    iterations = (report.iterations_failed, report.iterations_without, len(context.plan.iterations))
    # Lists side by side make many rows of one record, and a total counts those.
    counted = run.rows if row_shape(context.brief.take).lists else run.records
    words = iterations_words(context.brief.each, iterations[2])
    report.gaps = completeness_gaps(counted, end, report.failed_lookups, iterations, twice, match, words)
    report.only_first = end.reason == FIRST_ROWS and len(report.gaps) == 1
    report.tally = context.journal.tally
    run.state, evidence = table_state(report.gaps, end)
    report.doubt = evidence if run.state == "unverified" else ""


def report_refusals(context: RunContext) -> None:
    """Report which services refused calls as too many, and the limit that shows, where none is kept yet."""
    since = datetime.fromisoformat(context.run.started).timestamp()
    for service in context.plan.services.values():
        made = context.runner.attempts(service.id, since)
        refused = sum(one.refused for one in made)
        if not service.limits and refused >= _MANY_REFUSED:
            limit = observed_limit(made)
            context.report.refusals.append(
                Refusals(service_id=service.id, service=service.name, calls=refused, limit=limit)
            )


def hand(context: RunContext, table: Table, takes: Callable[[Table], None]) -> None:
    """Hand the table to who takes it, and write the run's end; nothing else is kept."""
    if not context.brief.keep.match:
        ids = content_ids(table)
        _report_same(context, duplicates_by_content(ids, table.page), repeats_within_pages(ids, table.page))
    takes(table)
    with context.workspace.write() as db:
        context.workspace.runs.end(db, context.run, context.clock.now())


def keep(context: RunContext, table: Table) -> None:
    """The snapshot and the run's end in one transaction: both, or neither."""
    workspace, run, match = context.workspace, context.run, context.brief.keep.match
    now = context.clock.now()
    with workspace.write() as db, collector_paused():
        run.snapshot_id = workspace.snapshots.add(
            db,
            run.query_id,
            run.id,
            table,
            match=match,
            state=run.state,
            evidence="; ".join(run.report.gaps) or run.report.doubt or run.stop or "",
            stated_total=run.stated_total,
            now=now,
        )
        if not match and _report_same(context, *workspace.snapshots.same_content(db, run.snapshot_id, table.page)):
            workspace.snapshots.judge(db, run.snapshot_id, run.state, context.report.doubt)
        workspace.runs.end(db, run, now)
    try:
        kept = context.brief.keep.answers
        before = "" if kept.days is None else (now - timedelta(days=kept.days)).isoformat()
        workspace.archive.prune(run.query_id, kept.runs, before)
    except ProblemError as error:
        # The snapshot is kept; old answers are deleted after the next run.
        log.warning("run %s: %s", run.id, error.problem.sentence())
    rule = context.brief.keep.snapshots
    if rule is not None:
        try:
            thin_out(workspace, run.query_id, rule, context.clock)
        except ProblemError as error:
            log.warning("run %s: %s", run.id, error.problem.sentence())


def _report_same(context: RunContext, same: int, usual: bool) -> bool:
    """Report rows that have the content of a row on an earlier page: without match columns these may be one row or
    several identical ones. Gives whether the table is in doubt for it.

    Args:
        usual: whether a page itself has rows alike.
    """
    if not same:
        return False
    run = context.run
    rows = f"{'1 row is' if same == 1 else f'{same:,} rows are'} the same as a row on an earlier page"
    context.report.note(f"{rows}. Choose match columns to see whether they came twice.")
    if usual or run.state != "complete" or len(context.plan.iterations) > 1:
        return False
    run.state = "unverified"
    context.report.duplicates = Duplicates(rows=same, by=[])
    context.report.doubt = f"{rows}, so the list may have moved meanwhile"
    return True


async def give_up(context: RunContext, state: str, problem: Problem) -> None:
    """Write that a run ended without a snapshot."""
    run = context.run
    # A snapshot whose transaction was given up is none.
    run.state, run.problem, run.snapshot_id = state, problem, None
    run.records = run.records or context.progress.rows
    run.report.tally = context.journal.tally
    for write in (context.journal.flush, lambda: asyncio.to_thread(_finish, context)):
        try:
            await write()
        except ProblemError as error:
            # An end that cannot be written is shown all the same, and written later.
            log.error("run %s: %s", run.id, error.problem.sentence())


def _finish(context: RunContext) -> None:
    context.workspace.runs.finish(context.run, context.clock.now())


async def note_keys(context: RunContext) -> None:
    """Note when the keys were used."""
    try:
        for service_id in context.runner.used_keys:
            if context.plan.services[service_id].key is not None:
                await asyncio.to_thread(context.workspace.vault.used, service_id, context.clock.now())
    except ProblemError as error:
        # When a key was used last is no reason to lose a table.
        log.warning("run %s: %s", context.run.id, error.problem.sentence())
