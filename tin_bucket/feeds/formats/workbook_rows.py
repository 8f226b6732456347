"""The rows of a sheet as XML (ISO/IEC 29500-1 §18.3.1.80), written into a file column by column."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import islice
from typing import IO, Any

from tin_bucket.core.columns.kind_registry import kind_of
from tin_bucket.core.table.table import TableColumn
from tin_bucket.feeds.workbook.cells import cell_body, many_cells
from tin_bucket.feeds.workbook.references import letters

from .moments import ZonedColumn

_TOGETHER = 1_000  # Rows.


class SheetRows:
    """Writes the rows of a table, of one sheet after the other.

    Attributes:
        zones: column → the zone that its moments are in.
    """

    def __init__(self, columns: Sequence[TableColumn], styles: dict[str, int], moments_as_text: bool) -> None:
        """
        Args:
            styles: kind → the style of its cells.
            moments_as_text: whether moments stay texts.
        """
        self.zones: dict[int, ZonedColumn] = {}
        self._starts: list[tuple[str, str]] = []
        self._bodies = []
        self._known: list[dict[str, str]] = [{} for _ in columns]
        for at, column in enumerate(columns):
            temporal = kind_of(column.kind).temporal and column.kind in styles
            text = not temporal or (moments_as_text and column.kind == "date and time")
            if not text and column.kind == "date and time":
                self.zones[at] = ZonedColumn()
            style = "" if text else f' s="{styles[column.kind]}"'
            self._starts.append((f'<c r="{letters(at + 1)}', f'"{style}'))
            self._bodies.append(cell_body("text" if text else column.kind, cut=True))

    def write(self, rows: Iterator[Sequence[Any]], out: IO[bytes], first: int, most: int) -> int:
        """Write rows, up to so many; gives how many there were.

        Args:
            first: the number of the first row in its sheet.
        """
        done = 0
        while some := list(islice(rows, min(_TOGETHER, most - done))):
            out.write(self._xml(some, first + done).encode("utf-8", "replace"))
            done += len(some)
        return done

    def _xml(self, rows: list[Sequence[Any]], first: int) -> str:
        numbers = range(first, first + len(rows))
        cells = []
        for at, values in enumerate(islice(zip(*rows, strict=False), len(self._starts))):
            zone = self.zones.get(at)
            start, style = self._starts[at]
            own = values if zone is None else zone.local(values)
            cells.append(many_cells(own, numbers, start, style, self._bodies[at], self._known[at]))
        if not cells:
            return "".join(f'<row r="{n}"/>' for n in numbers)
        return "".join(
            [
                f'<row r="{n}">{inside}</row>'
                for n, inside in zip(numbers, map("".join, zip(*cells, strict=True)), strict=True)
            ]
        )
