"""Tables → Apache Parquet: columns with types, by their kinds."""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Iterable, Sequence
from datetime import date, datetime
from itertools import islice
from typing import Any, BinaryIO

from tin_bucket.core.columns.missing import Miss
from tin_bucket.core.interchange.formulas import FormulaCells
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.options import USUAL, ExportOptions

from .format import Format, handed_on, utf8_text

_TOGETHER = 50_000  # Rows of a row group.
_EXACT = 2**53  # The whole numbers up to here are exact as decimals.
_LONG_FRACTION = re.compile(r"\.\d{7}")  # Finer than a microsecond.


class _Column:
    """A column on its way into a file: typed, as long as every value fits its kind; as text from then on."""

    def __init__(self, column: TableColumn) -> None:
        self.column = column
        self.kind = column.kind if column.kind in _READS else "text"
        self.typed: list[Any] = []
        self.texts: list[Any] = []
        self.zoned: bool | None = None

    def add(self, values: list[Any]) -> None:
        """Add the values of a row group."""
        import pyarrow  # It takes a while, and few tables need it.

        plain = [None if isinstance(value, Miss) else value for value in values]
        self.texts.append(pyarrow.array([_text(value) for value in plain], pyarrow.string()))
        if self.kind == "text":
            return
        try:
            read = _READS[self.kind]
            made = [None if value is None else read(value) for value in plain]
            if self.kind == "date and time":
                self._check_zones(made)
            self.typed.append(pyarrow.array(made, self.type()))
        except (ValueError, TypeError, OverflowError):
            self.kind, self.typed = "text", []

    def _check_zones(self, moments: list[datetime | None]) -> None:
        zoned = {moment.tzinfo is not None for moment in moments if moment is not None}
        if self.zoned is not None:
            zoned.add(self.zoned)
        if len(zoned) > 1:
            raise ValueError("moments with and without an offset")
        self.zoned = next(iter(zoned), self.zoned)

    def type(self) -> Any:
        """Its type in the file."""
        import pyarrow

        if self.kind == "date and time":
            return pyarrow.timestamp("us", tz="UTC" if self.zoned else None)
        return {
            "text": pyarrow.string(),
            "whole number": pyarrow.int64(),
            "decimal": pyarrow.float64(),
            "yes/no": pyarrow.bool_(),
            "date": pyarrow.date32(),
        }[self.kind]

    def field(self) -> Any:
        """Its heading, with unit, kind and note."""
        import pyarrow

        told = {"kind": self.column.kind, "unit": self.column.unit, "note": self.column.note}
        return pyarrow.field(
            utf8_text(self.column.name), self.type(), metadata={name: text for name, text in told.items() if text}
        )

    def groups(self) -> list[Any]:
        """Its values, a row group each. Moments of a group before the first one with an offset have none yet."""
        return [one.cast(self.type()) for one in self.typed] if self.kind != "text" else self.texts


def write_parquet(
    columns: Sequence[TableColumn],
    rows: Iterable[Sequence[Any]],
    out: BinaryIO,
    title: str,
    options: ExportOptions = USUAL,
) -> FormulaCells:
    """Write typed columns. One with a value that does not fit its kind is text as a whole, as it came."""
    import pyarrow
    from pyarrow import parquet

    columns, rows = handed_on(columns, rows)
    made = [_Column(column) for column in columns]
    following = iter(rows)
    heights = []
    while some := list(islice(following, _TOGETHER)):
        heights.append(len(some))
        for own, values in zip(made, zip(*some, strict=True), strict=True):
            own.add(list(values))
    schema = pyarrow.schema([own.field() for own in made], metadata={"title": title})
    with parquet.ParquetWriter(out, schema, compression="zstd") as writer:
        for group in zip(*(own.groups() for own in made), strict=True):
            writer.write_batch(pyarrow.RecordBatch.from_arrays(list(group), schema=schema))
    return FormulaCells()


def _text(value: Any) -> str | None:
    if value is None:
        return None
    if isinstance(value, bool):
        return "true" if value else "false"
    return utf8_text(value if isinstance(value, str) else repr(value))


def _whole(value: Any) -> int:
    if isinstance(value, bool) or not isinstance(value, int):
        raise ValueError("no whole number")
    return value


def _decimal(value: Any) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float):
        raise ValueError("no number")
    if isinstance(value, int) and abs(value) > _EXACT:
        raise ValueError("too long for a decimal")
    if not math.isfinite(value):
        raise ValueError("no number")
    return float(value)


def _yes_no(value: Any) -> bool:
    if not isinstance(value, bool):
        raise ValueError("neither yes nor no")
    return value


def _day(value: Any) -> date:
    if len(value) != 10:
        raise ValueError("not written as a day")
    return date.fromisoformat(value)


def _moment(value: Any) -> datetime:
    if _LONG_FRACTION.search(value):
        raise ValueError("finer than a microsecond")
    return datetime.fromisoformat(value)


_READS: dict[str, Callable[[Any], Any]] = {
    "whole number": _whole,
    "decimal": _decimal,
    "yes/no": _yes_no,
    "date": _day,
    "date and time": _moment,
}

FORMAT = Format(
    ending="parquet", label="Parquet", media_type="application/vnd.apache.parquet", write=write_parquet, streams=False
)
