"""One refresh, from its first call to its snapshot: what happens, in which order, and how it ends."""

from __future__ import annotations

import asyncio
import logging

from tin_bucket.core.pagination.protocol import PaginationEnd, first_rows_end, join_ends
from tin_bucket.core.problem import Problem, ProblemError
from tin_bucket.core.request.fan_out import iterations_words
from tin_bucket.core.table.pipeline import Pipeline
from tin_bucket.core.table.select import Reading
from tin_bucket.core.table.table import Table
from tin_bucket.gc_pause import collector_paused
from tin_bucket.store.runs import INTERRUPTED, STOPPED

from .collector import PageCollector
from .context import RunContext
from .finish import give_up, hand, keep, note_keys, report_asking, report_reading, report_refusals, report_table
from .journal import finished
from .lookups import make_lookups
from .page_loop import PageLoop

log = logging.getLogger("tin_bucket.refresh")


async def refresh(context: RunContext) -> None:
    """Do it all. However it ends, the run's end is written; a snapshot only when the table was read."""
    run = context.run
    try:
        table, pipeline, end = await _table(context)
        await context.journal.flush()
        report_refusals(context)
        await asyncio.to_thread(report_table, context, table, pipeline.iteration_of_page, end)
        context.stage("keeping", None)
        # From here on it is too late to stop: the snapshot is there, or it is not.
        keeping = (keep, context, table) if context.takes is None else (hand, context, table, context.takes)
        await finished(asyncio.ensure_future(asyncio.to_thread(*keeping)))
    except Exception as error:
        # A fault of the program itself must not leave a run that seems to run for ever.
        inner = error.exceptions[0] if isinstance(error, ExceptionGroup) else error
        if not isinstance(inner, ProblemError):
            log.error("run %s: %s", run.id, type(inner).__name__, exc_info=inner)
        await give_up(context, "failed", inner.problem if isinstance(inner, ProblemError) else _fault(inner))
    except asyncio.CancelledError:
        state, problem = ("interrupted", INTERRUPTED) if context.ending() else ("cancelled", STOPPED)
        await asyncio.shield(give_up(context, state, problem))
    except BaseException as error:
        # Not every package raises an Exception when it fails.
        log.error("run %s: %s", run.id, type(error).__name__, exc_info=error)
        await give_up(context, "failed", _fault(error))
        if isinstance(error, KeyboardInterrupt | SystemExit):
            raise
    finally:
        try:
            await asyncio.shield(note_keys(context))
        finally:
            progress = context.progress
            progress.state, progress.problem, progress.snapshot_id = run.state, run.problem, run.snapshot_id
            progress.rows = run.rows or progress.rows
            progress.tell()


async def _table(context: RunContext) -> tuple[Table, Pipeline, PaginationEnd]:
    """Ask, read, look up."""
    plan, brief = context.plan, context.brief
    pipeline = Pipeline(brief, plan.iterations, plan.bindings)
    loop = PageLoop(context, PageCollector(pipeline, len(plan.iterations)))
    done = await loop.ask()
    there = [one for one in done if not one.missing]
    ends = [one.end for one in there if one.end is not None]
    end = join_ends(ends, len(there), iterations_words(brief.each, len(there)))
    report_asking(context, done, end, loop.failed_pages)
    context.stage("reading", None)

    def read() -> Reading:
        with collector_paused():
            reading = pipeline.read(brief)
        assert reading is not None  # Only records that were kept for another reading may not do.
        report_reading(context, reading, len(pipeline.iteration_of_page))
        return reading

    reading = await asyncio.to_thread(read)
    if reading.beyond and brief.take.most_rows is not None and end.complete:
        end = first_rows_end(brief.take.most_rows, end.stated_total)
    made = await make_lookups(context, pipeline.look_up(brief, reading, plan.services, plan.scope()))
    context.report.lookups = made.lookups
    return made.table, pipeline, end


def _fault(error: BaseException) -> Problem:
    return Problem(
        "program-fault",
        f"The program itself failed ({type(error).__name__}).",
        "",
        "Earlier snapshots are unchanged. Please report this, with what the program's log says.",
    )
