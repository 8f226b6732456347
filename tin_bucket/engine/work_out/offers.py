"""What the values of a table suggest: lines that are offered with evidence, and are never done unasked."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from itertools import pairwise
from typing import Any

import numpy as np

from tin_bucket.core.columns.empties import is_likely_empty
from tin_bucket.core.columns.kind_registry import kind_of
from tin_bucket.core.columns.reads import Reads
from tin_bucket.core.detect.types import detect_types
from tin_bucket.core.table.table import TableColumn

from .doing import counted
from .stage import Stage

_LOOKED_AT = 2_000  # Rows.
_MOST_COLUMNS = 60
_FEWEST = 8  # Values that say something.
# Spaced ones first: “a – b, c” is parted at the dash. A plain hyphen parts too many names and codes.
_SEPARATORS = (" – ", " — ", " - ", " | ", "|", " / ", "; ", ";", " → ", ", ")
_MOST_PARTS = 6
_MOST_GROUPS = 30


@dataclass(frozen=True, slots=True)
class Offer:
    """A line that the values suggest.

    Attributes:
        line: the document of the line.
        label: what it would do.
        evidence: what was seen in the values.
        column: the column that it is offered for; empty for the whole table.
    """

    line: dict[str, Any]
    label: str
    evidence: str
    column: str


def offers(stage: Stage) -> list[Offer]:
    """What the first 2,000 rows suggest, repeated rows first, then column by column."""
    names = stage.names[:_MOST_COLUMNS]
    rows = np.arange(min(_LOOKED_AT, stage.height), dtype=np.int64)
    columns = {name: stage.some(name, rows) for name in names}
    out = list(_repeats(stage, list(columns.values()))) if len(names) == len(stage.names) else []
    for column in stage.columns[:_MOST_COLUMNS]:
        out += _kinds(column, columns[column.name], stage.as_of)
        for offered in _OFFERED:
            out += offered(column, columns[column.name])
    return out


def _repeats(stage: Stage, columns: Sequence[Sequence[Any]]) -> Iterator[Offer]:
    """Rows that are the same as one before in every column."""
    rows = list(zip(*(map(repr, values) for values in columns), strict=True)) if columns else []
    again = len(rows) - len(set(rows))
    if again and len(set(rows)) > 1:
        seen = f"{_of(again, rows)} the same as one before in every column"
        yield Offer({"do": "repeats", "by": list(stage.names)}, "drop rows that repeat others", seen, "")


def _nothing(column: TableColumn, values: list[Any]) -> Iterator[Offer]:
    """Texts that mean that there is no value."""
    meant = Counter(value for value in values if isinstance(value, str) and is_likely_empty(value))
    filled = sum(value not in (None, "") for value in values)
    if not meant or sum(meant.values()) == filled:
        return
    changes = [{"old": text, "new": None} for text in meant]
    seen = f"{_and(list(meant))} in {_of(sum(meant.values()), values)}"
    yield Offer({"do": "replace", "column": column.name, "changes": changes}, "leave blank what means nothing", seen,
                column.name)  # fmt: skip


def _kinds(column: TableColumn, values: list[Any], as_of: str) -> Iterator[Offer]:
    """Texts that are numbers, dates, or yes and no; and numbers that are dates."""
    kind = kind_of(column.kind)
    if kind.temporal or kind.name == "yes/no":
        return
    texts = {value.strip() for value in values if isinstance(value, str)}
    empty = sorted(text for text in texts if is_likely_empty(text))
    rest = [value for value in values if not (isinstance(value, str) and value.strip() in empty)]
    if sum(value not in (None, "") for value in rest) < _FEWEST:
        return
    for guess in detect_types(rest, column.name, datetime.fromisoformat(as_of) if as_of else datetime.now(UTC)):
        if (guess.reads and guess.reads.yes) or (guess.kind == "yes/no" and not texts):
            continue
        reads = (guess.reads or Reads()).model_dump(exclude_defaults=True, exclude={"yes", "no"})
        line = {"do": "read", "column": column.name, "kind": guess.kind, **reads}
        nothing = f"; {_and(empty)} where there is none" if empty else ""
        seen = f"{guess.evidence}, such as “{guess.example[0][:60]}”{nothing}"
        yield Offer(
            line | ({"empty": empty} if empty else {}), f"read as {kind_of(guess.kind).label}", seen, column.name
        )


def _parts(column: TableColumn, values: list[Any]) -> Iterator[Offer]:
    """Texts with the same number of parts."""
    texts = [value for value in values if isinstance(value, str) and value]
    if column.kind != "text" or len(texts) < _FEWEST or len(set(texts)) < 3:
        return
    for separator in _SEPARATORS:
        counts = Counter(text.count(separator) + 1 for text in texts)
        parts, often = counts.most_common(1)[0]
        if parts == 1 or parts > _MOST_PARTS or often < 0.95 * len(texts):
            continue
        example = next(text for text in texts if text.count(separator) + 1 == parts)
        names = [f"{column.name} {at + 1}" for at in range(parts)]
        seen = f"“{separator}” parts {often:,} of {len(texts):,} values in {parts}, such as “{example[:60]}”"
        line = {"do": "split", "column": column.name, "by": "separator", "separator": separator, "names": names}
        yield Offer(line, f"split at “{separator.strip()}”", seen, column.name)
        return


def _periods(column: TableColumn, values: list[Any]) -> Iterator[Offer]:
    """Dates of several periods: the longest one of which there are some."""
    dates = [value for value in values if isinstance(value, str) and value]
    if not kind_of(column.kind).temporal or len(dates) < _FEWEST:
        return
    months, days = {date[:7] for date in dates}, {date[:10] for date in dates}
    hours = {date[11:13] for date in dates}  # A day alone has none.
    kinds = [("month", months), ("day", days), ("hour", hours)]
    for period, found in kinds:
        if 2 <= len(found) <= len(dates) / 2:
            seen = f"{_of(len(dates), values)} with a date, of {counted(len(found), period)}"
            line = {
                "do": "count", "by": [{"column": column.name, "period": period}], "figures": [{"of": "rows"}],
            }  # fmt: skip
            yield Offer(line, f"count by {period}", seen, column.name)
            return


def _groups(column: TableColumn, values: list[Any]) -> Iterator[Offer]:
    """Few different values, each of which comes often."""
    filled = [value for value in values if type(value) in (str, bool) and value != ""]
    different = set(filled)
    if column.kind not in ("text", "yes/no") or not 2 <= len(different) <= _MOST_GROUPS:
        return
    if len(filled) >= max(_FEWEST, 4 * len(different)):
        seen = f"{len(different)} different values in {_of(len(filled), values)}"
        line = {"do": "count", "by": [{"column": column.name, "period": None}],
                "figures": [{"of": "rows"}, {"of": "share of rows"}]}  # fmt: skip
        yield Offer(line, "count by it, with shares", seen, column.name)


def _gaps(column: TableColumn, values: list[Any]) -> Iterator[Offer]:
    """A value that stands in the first row of its group only."""
    blank = [value in (None, "") for value in values]
    filled = len(blank) - sum(blank)
    if column.kind != "text" or not filled >= 3 or blank[0] or sum(blank) < max(_FEWEST, filled):
        return
    texts = [value for value in values if value not in (None, "")]
    # A heading of a group is another one each time; a remark that is seldom made is none.
    if len(set(map(repr, texts))) == filled and all(one != other for one, other in pairwise(texts)):
        seen = f"filled in {_of(filled, values)}, blank below"
        line = {"do": "fill", "column": column.name, "by": "row before"}
        yield Offer(line, "fill with the value above", seen, column.name)


_OFFERED: tuple[Callable[[TableColumn, list[Any]], Iterator[Offer]], ...] = (
    _nothing, _parts, _periods, _groups, _gaps,
)  # fmt: skip


def _and(texts: list[str]) -> str:
    return " and ".join(f"“{text}”" for text in texts[:2])


def _of(some: int, values: Sequence[Any]) -> str:
    """So many of the rows that were looked at."""
    return (
        f"{some:,} of {counted(len(values), 'row')}"
        if len(values) < _LOOKED_AT
        else f"{some:,} of the first 2,000 rows"
    )
