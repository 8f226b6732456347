"""Is a table whole, and if not, why not? Decided in one place, and said in the same words wherever it is shown."""

from __future__ import annotations

from collections.abc import Sequence

from tin_bucket.core.document.report import RunReport
from tin_bucket.core.pagination.protocol import FIRST_ROWS, PaginationEnd, TableState


def completeness_gaps(
    records: int,
    stop: PaginationEnd,
    failed_lookups: int = 0,
    iterations: tuple[int, int, int] = (0, 0, 1),
    twice: int = 0,
    match: Sequence[str] = (),
    asked_for: str = "",
) -> list[str]:
    """What a table lacks; empty when it is whole.

    Args:
        records: how many records were taken.
        stop: why the turning of pages ended, and what the API stated.
        failed_lookups: how many lookups failed; one that found nothing is no failure.
        iterations: how many of the values that the question was asked for failed, for how many the answer has
            nothing where the rows are, and how many there are.
        twice: how many rows came on two pages, by the match columns.
        match: the match columns.
        asked_for: how many values there are, by what they are, such as `7 days`.

    Returns:
        Short phrases, each the beginning of a sentence in lower case.
    """
    words = []
    if stop.reason == FIRST_ROWS:
        words.append(stop.evidence + (f", of {stop.stated_total:,} stated" if stop.stated_total is not None else ""))
        if stop.failed_pages:
            missing = "1 page has" if stop.failed_pages == 1 else f"{stop.failed_pages:,} pages have"
            words.append(f"{missing} failed, so these are not all of the first rows")
    elif stop.stated_total is not None and stop.stated_total != records:
        words.append(f"{records:,} of {stop.stated_total:,} stated rows are here")
    if not stop.complete and stop.reason != FIRST_ROWS:
        words.append(stop.evidence)
    if stop.moved:
        was, now = stop.first_total or 0, stop.stated_total or 0
        words.append(f"the stated total went from {was:,} to {now:,} while pages were turned")
    if twice:
        rows = "1 row came" if twice == 1 else f"{twice:,} rows came"
        words.append(f"{rows} on two pages (by {', '.join(match)}), so others may be missing")
    failed, without, count = iterations
    of = asked_for or f"{count:,} values"
    if failed:
        words.append(f"{failed:,} of {of} {'has' if failed == 1 else 'have'} failed")
    if without:
        words.append(f"for {without:,} of {of} the answer has nothing where the rows are taken from")
    if failed_lookups:
        words.append(f"{failed_lookups:,} lookup{' has' if failed_lookups == 1 else 's have'} failed")
    return words


def table_state(gaps: Sequence[str], end: PaginationEnd) -> tuple[TableState, str]:
    """What can be said of a table, and the evidence in a sentence.

    Args:
        gaps: what it lacks, see :func:`completeness_gaps`.
        end: why the turning of pages ended.
    """
    return ("incomplete", "; ".join(gaps)) if gaps else (end.state, end.evidence)


def may_go_on(state: str, records: int, report: RunReport) -> bool:
    """Whether calls that are made again may bring what a run lacks.

    Args:
        state: how it ended.
        records: how many records are saved.
        report: what is known of it.
    """
    if state in ("interrupted", "cancelled", "failed"):
        return records > 0
    return state == "incomplete" and bool(report.failed_pages or report.iterations_failed or report.failed_lookups)
