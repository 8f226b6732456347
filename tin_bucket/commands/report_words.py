"""What a run knows, in lines: what the table lacks and why, what is odd in the answers, what has changed."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from tin_bucket.core.document.report import FailedPart, LookupReport, RunReport
from tin_bucket.core.response.error_rules import warning_words
from tin_bucket.store.runs import Run

from .common import counted

_MOST = 5  # Of a kind of thing, so many are named.


def summary(name: str, run: Run) -> str:
    """How a run ended, on one line."""
    if run.stated_total is None:
        total = ", the API states no total"
    else:
        total = f" of the {run.stated_total:,} that the API states"
    rows = f", made {counted(run.rows, 'row')}" if run.rows != run.records else ""
    saved = run.report.tally.saved
    unchanged = run.report.tally.unchanged
    calls = counted(run.calls, "call") + (f", {unchanged:,} of them answered “nothing changed”" if unchanged else "")
    calls += f", and {counted(saved, 'saved answer')}" if saved else ""
    return f"{name}: {run.state}; {counted(run.records, 'record')}{total}{rows}; {calls}."


def run_document(name: str, run: Run) -> dict[str, object]:
    """A run for machines."""
    return {
        "query": name, "run": run.id, "state": run.state, "started": run.started, "ended": run.ended,
        "records": run.records, "rows": run.rows, "stated_total": run.stated_total, "calls": run.calls,
        "saved": run.report.tally.saved, "unchanged": run.report.tally.unchanged, "retries": run.report.tally.retries,
        "waited": round(run.report.tally.waited, 1), "resumed_from": run.resumed_from, "snapshot": run.snapshot_id,
        "notes": report_lines(run.report), "problem": run.problem.as_dict() if run.problem else None,
    }  # fmt: skip


def report_lines(report: RunReport) -> list[str]:
    """All that people should know of a run, a line each."""
    out = [f"incomplete: {gap}" for gap in report.gaps]
    out += [_failed(part) for part in [*report.failed_pages[:_MOST], *report.failed_iterations[:_MOST]]]
    more = max(0, len(report.failed_pages) - _MOST) + max(0, report.iterations_failed - _MOST)
    if more:
        out.append(f"and {more:,} more failed")
    if report.doubt:
        out.append(f"unverified: {report.doubt}")
    for name, lookup in report.lookups.items():
        out += _lookup(name, lookup)
    if report.duplicates is not None:
        by = f" by {', '.join(report.duplicates.by)}" if report.duplicates.by else ""
        out.append(f"{counted(report.duplicates.rows, 'row')} came on two pages{by}")
    if report.total_moved is not None:
        moved = report.total_moved
        out.append(f"the stated total changed from {moved.was:,} to {moved.now:,} while the pages were turned")
    if report.page_size is not None:
        out.append(f"{report.page_size.asked:,} rows a page were asked for, and {report.page_size.got:,} came")
    reading = report.reading
    out += [f"no record has {place}, which a column is taken from" for place in reading.absent[:_MOST]]
    out += [f"{column}: {counted(many, 'value')} did not fit its kind" for column, many in reading.unfit.items()]
    out += [warning_words(words).rstrip(".") for words in report.warnings]
    out += [one.rstrip(".") for one in report.oddities]
    out += _drift(report)
    for one in report.refusals:
        fits = f"; a limit of {one.limit.words()} fits them" if one.limit is not None else ""
        out.append(f"{one.service} refused {counted(one.calls, 'call')} as too many{fits}")
    if report.from_saved is not None:
        out.append(f"with answers that were saved on {datetime.fromisoformat(report.from_saved):%Y-%m-%d %H:%M}")
    return out


def _failed(part: FailedPart) -> str:
    says = f" The service says: “{part.words.rstrip('.')}”." if part.words else ""
    do = f" {part.do}" if part.do else ""
    return f"{part.label}: {part.what}{says}{do}"


def _lookup(name: str, lookup: LookupReport) -> list[str]:
    out = []
    if lookup.none:
        some = f" ({_named(lookup.missing, lookup.none)})" if lookup.missing else ""
        out.append(f"look up {name}: {counted(lookup.none, 'value')} not found{some}")
    if lookup.failed:
        first = "; the first," if lookup.failed > 1 else ","
        why = f"{first} for {_failed(lookup.why)}" if lookup.why is not None else ""
        out.append(f"look up {name}: {counted(lookup.failed, 'call')} failed{why}")
    if lookup.several:
        out.append(f"look up {name}: {counted(lookup.several, 'value')} with several records, the first was taken")
    return out


def _drift(report: RunReport) -> list[str]:
    drift = report.drift
    if drift is None:
        return []
    out = []
    if drift.new:
        out.append(f"new in the answers: {_named(drift.new, len(drift.new))}")
    if drift.missing:
        out.append(f"no longer in the answers: {_named(drift.missing, len(drift.missing))}")
    changed = [f"{one.place} ({one.was} → {one.now})" for one in drift.changed]
    if changed:
        out.append(f"of another kind than before: {_named(changed, len(changed))}")
    return out


def _named(names: Sequence[str], many: int) -> str:
    return ", ".join(names[:_MOST]) + (f" and {many - _MOST:,} more" if many > _MOST else "")
