"""Columns that come from around the records: the whole answer, the key of the record, its page, a parameter."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from tin_bucket.core.columns.reduction import items_of, text_of
from tin_bucket.core.columns.reduction_registry import ListReduction, list_reader
from tin_bucket.core.document.extraction import ColumnSpec
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import WILDCARD, Picked, Place, Wildcard, format_place, parse_place, pick

Where = tuple[str | int, ...]


SourceKey = tuple[str, str, str]
RECORD_KEY = ColumnSpec(place="$", name="key", of="key")  # The name of each record in its object.


def source_key(column: ColumnSpec) -> SourceKey:
    """What a column's values depend on, and nothing else of it."""
    return column.of, column.place, "" if column.reduction is None else column.reduction.model_dump_json()


def is_context(column: ColumnSpec) -> bool:
    """Whether a column comes from around the records: neither from a record nor from the names of a record's items."""
    return column.of != "record" and not (column.of == "key" and parse_place(column.place))


class ContextColumns:
    """Gathers such columns page by page, a value for each record."""

    def __init__(self, records: str, columns: Sequence[ColumnSpec], parameters: Mapping[str, Any]) -> None:
        """
        Args:
            records: JSONPath to the records.
            columns: the columns that are wanted.
            parameters: what the query's parameters stand for in this run.
        """
        self._columns = {source_key(column): column for column in columns}
        self._records = parse_place(records)
        self._parameters = parameters
        self._values: dict[SourceKey, list[Any]] = {key: [] for key in self._columns}

    def of(self, column: ColumnSpec) -> list[Any] | None:
        """A column's values, one for each record; ``None`` where it was not gathered."""
        return self._values.get(source_key(column))

    def add(
        self,
        picked: Picked | None,
        document: Any,
        count: int,
        page: int,
        start: int = 0,
        parameters: Mapping[str, Any] | None = None,
    ) -> None:
        """The values of one more page.

        Args:
            picked: what was picked; ``None`` of an answer too large to hold.
            document: the whole answer.
            count: how many records it gave.
            page: its number in its iteration, counted from 1.
            start: how many of the picked values were no records.
            parameters: what the parameters stand for in its iteration.
        """
        given = {**self._parameters, **(parameters or {})}
        for key, column in self._columns.items():
            values = self._values[key]
            if column.of == "page":
                values.extend([page] * count)
            elif column.of == "parameter":
                name = (parse_place(column.place) or ("",))[0]
                value = given.get(str(name))
                values.extend([json_text(value) if isinstance(value, list) else value] * count)
            elif column.of == "key":
                values.extend(self._keys(picked, count, start))
            else:
                values.extend(self._of_answer(column, picked, document, count, start))

    def _keys(self, picked: Picked | None, count: int, start: int) -> list[Any]:
        if picked is None:
            return [None] * count
        return [key_of(picked, at) for at in range(start, start + count)]

    def _of_answer(self, column: ColumnSpec, picked: Picked | None, document: Any, count: int, start: int) -> list[Any]:
        place = parse_place(column.place) or ()
        bound = bound_part(self._records, place)
        if not bound or picked is None or self._records is None:
            return [value_at(document, place, column.reduction)] * count
        out = []
        known: dict[Where, Any] = {}
        for at in range(start, start + count):
            where = picked.where(at)[:bound]
            if where not in known:
                own: Place = tuple(
                    where[index] if index < bound and isinstance(segment, Wildcard) else segment
                    for index, segment in enumerate(place)
                )
                known[where] = value_at(document, own, column.reduction)
            out.append(known[where])
        return out


def value_at(document: Any, place: Place, choice: ListReduction | None) -> Any:
    """The one cell that a place in an answer gives; values of a list become one as `choice` says."""
    cut = place.index(WILDCARD) if WILDCARD in place else len(place)
    found = pick(document, format_place(place[:cut])).values
    if not found:
        return None
    if cut == len(place):
        return json_text(found[0]) if isinstance(found[0], dict | list) else found[0]
    items = items_of(found[0], keyed=True)
    return None if items is None else list_reader(choice, place[cut + 1 :])(items)


def bound_part(records: Place | None, place: Place) -> int:
    """How many segments of a place in the whole answer stand for the same items as those of the records' place."""
    bound = 0
    for at, segment in enumerate(place):
        if records is None or at >= len(records) or records[at] != segment:
            break
        if isinstance(segment, Wildcard):
            bound = at + 1
    return bound


def key_of(picked: Picked, at: int) -> str | None:
    """The name under which a record lies in its object; ``None`` where it is not one of several members."""
    if not picked.keyed:
        return None
    where = picked.where(at)
    return text_of(where[-1]) if where and isinstance(where[-1], str) else None
