"""What becomes of the rows of a sheet when a table in it grows, shrinks, or loses rows in its middle.

before      heading 1, rows 2–31, a total in row 33        after ten more rows
row 2       stays                                          2
row 33      keeps its distance to the table                43
B2:B31      covers the table, so it grows with it          B2:B41
B2:B1000    covers more than it has need of                B2:B1000, where nothing stands below
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from .references import Cells, Written, cells_of


@dataclass(frozen=True, slots=True)
class RowMoves:
    """Where rows are after a table was fed.

    Attributes:
        columns: the first and the last column of the table, with what people added to it at its sides.
        first: its first row of data.
        last: its last row of data, before; ``first - 1`` where it had none.
        new_last: its last row of data, after.
        below: by how many rows what stands below it moves; 0 where nothing does.
        whole_rows: whether what stands beside moves with it; else only what stands in the table's own columns.
        rows: of rows of data that are elsewhere now: before → after; ``None`` for one that is gone.
    """

    columns: tuple[int, int]
    first: int
    last: int
    new_last: int
    below: int = 0
    whole_rows: bool = True
    rows: Mapping[int, int | None] = field(default_factory=dict)

    @property
    def nothing(self) -> bool:
        """Whether every row stays where it is, and the table as long as it is."""
        return self.last == self.new_last and not self.rows

    def row(self, row: int, column: int | None = None) -> int | None:
        """Where a row is now, or a cell of it; ``None`` where it is gone."""
        if row > self.last:
            moved = self.whole_rows or column is None or self._inside(column, column)
            return row + self.below if moved else row
        if column is None or self._inside(column, column):
            return self.rows.get(row, row)
        return row

    def _inside(self, first: int, last: int) -> bool:
        return first <= self.columns[1] and last >= self.columns[0]

    def cells(self, old: Cells, whole: bool = False, grows: bool = True) -> Cells:
        """What a range is now.

        Args:
            whole: whether a single row that is all of the table is a range that grows too.
            grows: whether a range that covers the table grows and shrinks with it.
        """
        inside = self._inside(old.first_column, old.last_column)
        start, end = old.first_row, old.last_row
        within = self.columns[0] <= old.first_column and old.last_column <= self.columns[1]
        below = self.below if self.whole_rows or within else 0
        if start > self.last:
            return old._replace(first_row=start + below, last_row=end + below)
        if end > self.last:
            # It covers more than the table: what stands below moves in it; with nothing there it has room.
            new_end = end + below
            return old._replace(last_row=max(new_end, self.new_last) if inside and grows else new_end)
        if not inside:
            return old
        if end == self.last and grows and (start < end or start < self.first or whole):
            return old._replace(first_row=min(start, max(self.new_last, self.first)), last_row=self._end())
        if not self.rows:
            return old
        kept_start = next((row for at in range(start, end + 1) if (row := self.rows.get(at, at)) is not None), None)
        kept_end = next((row for at in range(end, start - 1, -1) if (row := self.rows.get(at, at)) is not None), None)
        if kept_start is None or kept_end is None:
            return old
        return old._replace(first_row=kept_start, last_row=kept_end)

    def _end(self) -> int:
        # A table without rows leaves its ranges at the first row, which is empty then.
        return max(self.new_last, self.first)

    def reference(self, old: Cells, written: Written) -> Cells:
        """What a reference of a formula is now; see :meth:`cells`. One cell of a row that is gone stays as it is."""
        return self.cells(old, whole=not written.single)

    def absolute(self, old: Cells, written: Written) -> Cells:
        """What a reference of a chart or a name is now: there the only row of a table is a range too."""
        return self.cells(old, whole=not written.single or written.last_absolute)

    def beside(self, old: Cells, written: Written) -> Cells:
        """What a reference of a formula in a row of the table itself is now: a range whose end is relative, such as
        that of a running total, does not cover the table but reaches as far as its row."""
        return self.cells(old, grows=written.last_absolute)

    def ranges(self, text: str) -> str:
        """What a list of ranges (``sqref``) is now; ranges that are gone are left out, all but the last one."""
        out: list[str] = []
        for one in text.split():
            try:
                old = cells_of(one)
            except ValueError:
                out.append(one)
                continue
            single = old.first_row == old.last_row and old.first_row <= self.last
            if single and self._inside(old.first_column, old.last_column) and self.rows.get(old.first_row, 0) is None:
                continue
            out.append(str(self.cells(old, whole=self.first == self.last)))
        return " ".join(dict.fromkeys(out))
