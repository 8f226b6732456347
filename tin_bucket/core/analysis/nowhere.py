"""Places of a brief that are nowhere in the answers: what is looked for there is missed silently otherwise."""

from __future__ import annotations

from collections.abc import Sequence

from tin_bucket.core.document.query import Brief
from tin_bucket.core.table.table import Table


def places_nowhere(
    brief: Brief,
    table: Table,
    stated_total: int | None,
    records: int,
    without_items: int,
    stated_pages: int | None = None,
) -> Sequence[str]:
    """What is to be said of the places of a brief that no answer has; those of columns are told by the reading.

    Args:
        stated_total: the total that the answers stated.
        records: how many there are.
        stated_pages: the number of the last page that they stated.
        without_items: how many of them have no item in any list that is made rows.
    """
    if not records:
        return ()  # Of no record nothing can be said.
    out = []
    total = getattr(brief.pages, "total", None)
    if total is not None and stated_total is None:
        out.append(f"No answer has a total at {total}, where the brief looks for one.")
    last = getattr(brief.pages, "last_page", None)
    if last is not None and stated_pages is None:
        out.append(f"No answer has the number of the last page at {last}, where the brief looks for it.")
    lists = brief.take.rows_for
    if lists and without_items == records:
        where = lists[0] if len(lists) == 1 else "the places"
        out.append(f"No record has an item at {where} that rows are made for.")
    names = {column.name for column in table.columns}
    missing = [name for name in brief.keep.match if name not in names]
    if missing and not brief.work_out:  # A line may make it.
        told = " and ".join(f"“{name}”" for name in missing[:3])
        out.append(f"There is no column {told}, by which rows are matched: they are told apart by all they hold.")
    return out
