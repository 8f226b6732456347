"""A list of a query's records as a query of its own, with the parent's match columns."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from tin_bucket.core.document.extraction import ColumnSpec
from tin_bucket.core.document.query import Brief
from tin_bucket.core.formats.jsonpath import WILDCARD, Place, format_place, parse_place, readable_name
from tin_bucket.core.table.table import TableColumn


def child_table_brief(
    brief: Brief, place: str, found: Sequence[TableColumn], name: str | None, taken: Collection[str]
) -> Brief:
    """The brief of a query whose rows are the items of a list.

    Args:
        brief: that of the query whose records hold the list.
        place: place of the list in the record, without ``[*]``.
        found: the columns that the answers have when this list becomes rows; all when there are none to see.
        name: what it is called; the parent's name and the list's when ``None``.
        taken: names of queries that there are already.

    Returns:
        The parent's question with the list made rows. Of the parent its match columns are taken, of the items all
        that was found.
    """
    parsed = parse_place(place) or ()
    inside = format_place((*parsed, WILDCARD))
    base = (name or f"{brief.name}, {readable_name(parsed)}")[:190]
    made, number = base, 2
    while made in taken:
        made, number = f"{base} {number}", number + 1
    match = brief.keep.match
    rows = lists_to(parsed)
    parents = [
        column.model_copy(update={"hidden": False}) for column in brief.take.columns or [] if column.name in match
    ]
    if brief.take.columns is None:
        parents = [ColumnSpec(place=one.place, name=one.name, of=one.of) for one in found if one.name in match]
    # Keys of another list's items say nothing about this one's.
    parents = [column for column in parents if column.reduction is not None or not _in_another_list(column, rows)]
    used = {column.name for column in parents}
    items = []
    for one in found:
        if one.place != inside and not one.place.startswith((f"{inside}.", f"{inside}[")):
            continue
        own = one.name
        while own in used:
            own = f"{own} (2)"
        used.add(own)
        items.append(ColumnSpec(place=one.place, name=own, of=one.of))
    take = brief.take.model_copy(
        update={
            "rows_for": [format_place(one) for one in rows],
            "keyed": [one for one in brief.take.keyed if parse_place(one) in rows],
            "together": None,
            "columns": [*parents, *items] or None,
        }
    )
    return brief.model_copy(
        update={
            "name": made,
            "note": f"The {readable_name(parsed)} of “{brief.name}”.",
            "take": take,
            "look_up": [],
            "keep": brief.keep.model_copy(update={"match": [], "schedule": None}),
            "hand_over": [],
        }
    )


def lists_to(place: Place) -> list[Place]:
    """A list's place behind those of the lists that it lies in."""
    return [*(place[:at] for at, segment in enumerate(place) if segment is WILDCARD), place]


def _in_another_list(column: ColumnSpec, rows: list[Place]) -> bool:
    place = parse_place(column.place) or ()
    return column.of == "record" and any(
        segment is WILDCARD and place[:at] not in rows for at, segment in enumerate(place)
    )
