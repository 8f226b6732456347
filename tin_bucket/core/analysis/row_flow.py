"""Where the rows went: from answers to records to rows to the table, with what each step added or took."""

from __future__ import annotations

from dataclasses import dataclass

from tin_bucket.core.document.report import RunReport


@dataclass(frozen=True, slots=True)
class RowFlowStep:
    """A step: what it gives, such as ``records``, how many, and what is to be said of it, if anything."""

    what: str
    count: int
    words: str


def row_flow(
    report: RunReport, pages: int, records: int, rows: int, stated_total: int | None = None
) -> list[RowFlowStep]:
    """The steps of a table.

    Args:
        report: what is known of its run.
        pages: how many answers were read.
        records: how many records were taken from them.
        rows: how many rows the table has.
        stated_total: the number of rows that the API states.
    """
    told = [
        RowFlowStep("answers", pages, ""),
        RowFlowStep("records", records, _of_records(report, records, stated_total)),
    ]
    reading = report.reading
    if reading.rows_for:
        names = " and ".join(place.removeprefix("$.").replace("[*]", "") for place in reading.rows_for)
        words = [f"one for each of {names}"]
        if reading.left_out:
            words.append(f"{reading.left_out:,} without an item, left out")
        elif reading.empty:
            words.append(f"{reading.empty:,} of them without an item, kept as one row each")
        told.append(RowFlowStep("rows", rows, "; ".join(words)))
    for name, lookup in report.lookups.items():
        words = [f"{lookup.calls:,} call{'' if lookup.calls == 1 else 's'}"]
        if lookup.none:
            words.append(f"{lookup.none:,} found nothing")
        if lookup.failed:
            words.append(f"{lookup.failed:,} failed")
        told.append(RowFlowStep(f"look up {name}", rows, ", ".join(words)))
    cells = sum(reading.unfit.values())
    words = [f"{cells:,} cell{'' if cells == 1 else 's'} of another kind, left unchanged"] if cells else []
    # What the last step said stands for the table too, where nothing was added or taken since.
    if words or told[-1].count != rows or not reading.rows_for:
        told.append(RowFlowStep("table", rows, ", ".join(words)))
    return told


def _of_records(report: RunReport, records: int, stated_total: int | None) -> str:
    words = []
    if stated_total is not None:
        words.append("all that are stated" if stated_total == records else f"the API states {stated_total:,}")
    if report.duplicates is not None:
        words.append(f"{report.duplicates.rows:,} came on two pages")
    return ", ".join(words)
