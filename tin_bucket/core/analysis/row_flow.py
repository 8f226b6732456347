"""Where the rows went: from answers to records to rows to the table, with what each stage added or took."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any


def row_flow(notes: Mapping[str, Any], pages: int, records: int, rows: int) -> list[dict[str, Any]]:
    """The stages of a table, each with a count and what it did.

    Args:
        notes: what was noted of the reading, see :func:`replay.reading_notes` and :func:`replay.lookup_notes`.
        pages: how many answers were read.
        records: how many records were taken from them.
        rows: how many rows the table has.

    Returns:
        Objects with ``what`` (such as ``records``), ``count`` and ``words`` (empty where nothing is to be said).
    """
    told: list[dict[str, Any]] = [{"what": "answers", "count": pages, "words": ""}]
    words = []
    stated = notes.get("stated_total")
    if isinstance(stated, int):
        words.append("all that are stated" if stated == records else f"the API states {stated:,}")
    if notes.get("duplicates"):
        words.append(f"{notes['duplicates']['rows']:,} came on two pages")
    told.append({"what": "records", "count": records, "words": ", ".join(words)})
    lists = notes.get("rows_for") or []
    if lists:
        names = " and ".join(place.removeprefix("$.").replace("[*]", "") for place in lists)
        words = [f"one for each of {names}"]
        if notes.get("empty"):
            words.append(f"{notes['empty']:,} of them without an item, kept as one row each")
        told.append({"what": "rows", "count": rows, "words": "; ".join(words)})
    for name, note in (notes.get("lookups") or {}).items():
        words = [f"{note['calls']:,} call{'' if note['calls'] == 1 else 's'}"]
        if note.get("none"):
            words.append(f"{note['none']:,} found nothing")
        if note.get("failed"):
            words.append(f"{note['failed']:,} failed")
        told.append({"what": f"look up {name}", "count": rows, "words": ", ".join(words)})
    unfit = notes.get("unfit") or {}
    words = []
    if unfit:
        cells = sum(unfit.values())
        words.append(f"{cells:,} cell{'' if cells == 1 else 's'} of another kind, kept as they came")
    # What the last stage said stands for the table too, where nothing was added or taken since.
    if words or told[-1]["count"] != rows or not lists:
        told.append({"what": "table", "count": rows, "words": ", ".join(words)})
    return told
