"""The rows of a fed sheet, written one after the other: what is fed, what people added, and what stands around."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import IO, Any

import numpy as np

from tin_bucket.core.columns.kind_registry import kind_of
from tin_bucket.core.problem import fail

from .cells import (
    MOST_CHARACTERS,
    Body,
    TextTooLongError,
    cell_body,
    has_content,
    is_formula,
    many_cells,
    style_of,
    text_body,
)
from .fed_sheet import FedSheet
from .formulas import Formula, formula_body, formula_of
from .references import Cells, letters, translate
from .rows import CHUNK
from .sheet_xml import Row, column_of

_SIGNATURE = re.compile(rb'<c r="([A-Z]+)[0-9]+"(?: s="([0-9]+)")?')
_PLACE = re.compile(rb'\br="[A-Z]{1,3}[0-9]{1,7}"')
_HIDDEN = re.compile(rb'\s*\bhidden="(?:1|true)"')
_NOT_FOR_NEW = re.compile(rb'\s*\b(?:hidden|collapsed|outlineLevel)="[^"]*"')


_Alike = tuple[Sequence[tuple[str, str, Body]], list[str]]  # The styles of the cells, and the attributes of each row.
_OwnCell = tuple[bytes, bytes | None, bytes]  # Its attributes, what is inside, and all of it.


@dataclass(slots=True)
class _OldRow:
    """What is kept of a row of data.

    Attributes:
        own: the cells of people's own columns.
        styles: those of our cells.
        alone: whether it surely has no cell beside the table.
    """

    attributes: bytes
    own: dict[int, _OwnCell]
    styles: Sequence[tuple[str, str, Body]]
    alone: bool = False


class SheetRows:
    """Writes the rows of a sheet that is fed."""

    def __init__(self, fed: FedSheet) -> None:
        self._fed = fed
        self._sheet, self._place, self._moves = fed.sheet, fed.place, fed.moves
        self._columns, self._plan, self._rows, self._manner = fed.columns, fed.plan, fed.rows, fed.manner
        self._span = fed.span
        self._styles = fed.styles[1]

    def write(self, part: IO[bytes], head: bytes, tail: bytes) -> None:
        """Write the whole sheet.

        Args:
            head, tail: what stands before the rows, and behind them.
        """
        part.write(head)
        for piece in self._pieces():
            part.write(piece.encode("utf-8"))
        part.write(tail)

    def _pieces(self) -> Iterator[str]:
        place, moves = self._place, self._moves
        yield from self._rows_above()
        yield self._heading_row()
        yield from self._data_rows()
        # Rows behind the table: where it shrank, cells beside it stay; what stands below is moved.
        last, new_last = place.last, self._fed.new_last
        numbers = self._sheet.numbers
        below = [number for number in numbers if number > last]
        if moves.whole_rows:
            if not moves.below:
                for number in (number for number in numbers if new_last < number <= last):
                    yield self._composed(number, number, None)
            for number in below:
                found = self._sheet.row(number)
                target = number + moves.below
                if found is not None and (moves.below or target > new_last):
                    yield self._as_it_is(found, target)
            return
        targets = {number + moves.below for number in below} | {number for number in numbers if number > new_last}
        for target in sorted(one for one in targets if one > new_last):
            source = target - moves.below
            yield self._composed(target, target, source if source > last else None)

    def _rows_above(self) -> Iterator[str]:
        """The rows above the headings, one of which may say as of when the table is."""
        stamp, head = self._fed.stamp, self._place.head
        column, stamped = stamp if stamp is not None else (0, head)
        for row in self._sheet.rows(1, stamped - 1):
            yield self._as_it_is(row, row.number)
        if stamp is None or self._manner.stamp is None:
            return
        row = self._sheet.row(stamped) or Row(stamped, b"", b"")
        cells = dict(self._kept(row, stamped, None))
        style = next((style_of(attributes) for at, attributes, _, _ in row.cells() if at == column), 0)
        told = f' s="{style}"' if style else ""
        cells[column] = f'<c r="{letters(column)}{stamped}"{told}{text_body(self._manner.stamp[1])}'
        inside = "".join(cells[at] for at in sorted(cells))
        yield f'<row r="{stamped}"{_spaced(row.attributes.decode())}>{inside}</row>'
        for row in self._sheet.rows(stamped + 1, head - 1):
            yield self._as_it_is(row, row.number)

    def _as_it_is(self, row: Row, target: int, without: tuple[int, int] | None = None) -> str:
        """A row whose cells are as they were, in its place now."""
        cells = "".join(self._kept_cells(row, target, without))
        attributes = row.attributes.decode()
        if not cells:
            return f'<row r="{target}"{_spaced(attributes)}/>' if attributes or target == row.number else ""
        return f'<row r="{target}"{_spaced(attributes)}>{cells}</row>'

    def _kept_cells(self, row: Row, target: int, without: tuple[int, int] | None = None) -> list[str]:
        if target == row.number and without is None and b"<f" not in row.inside:
            return [row.inside.decode()]
        return [text for _, text in self._kept(row, target, without)]

    def _kept(
        self, row: Row, target: int, without: tuple[int, int] | None, only: tuple[int, int] | None = None
    ) -> list[tuple[int, str]]:
        """Cells of a row as they are in another one, by column.

        Args:
            without, only: the columns that are left out, or the only ones.
        """
        out = []
        for column, attributes, inside, whole in row.cells():
            if without is not None and without[0] <= column <= without[1]:
                continue
            if only is not None and not only[0] <= column <= only[1]:
                continue
            out.append((column, self._kept_cell(column, row.number, target, attributes, inside, whole)))
        return out

    def _kept_cell(
        self,
        column: int,
        old: int,
        target: int,
        attributes: bytes,
        inside: bytes | None,
        whole: bytes,
        beside: bool = False,
    ) -> str:
        if is_formula(inside):
            formula = formula_of(inside, column, old, self._fed.masters)
            if formula is not None and not formula.other:
                if formula.array is not None:
                    formula = formula._replace(array=self._moves.cells(formula.array, grows=False))
                moved = formula._replace(text=self._fed.moved(formula.text, beside))
                return f'<c r="{letters(column)}{target}"{formula_body(attributes, moved)}'
        if old == target:
            return whole.decode()
        return _PLACE.sub(f'r="{letters(column)}{target}"'.encode(), whole, count=1).decode()

    def _composed(self, target: int, beside: int, inside: int | None) -> str:
        """A row made of what stands beside the table in one row, and in its columns in another."""
        parts: list[tuple[int, str]] = []
        attributes = ""
        if (row := self._sheet.row(beside)) is not None:
            parts += self._kept(row, target, self._span)
            attributes = row.attributes.decode()
        if inside is not None and (row := self._sheet.row(inside)) is not None:
            parts += self._kept(row, target, None, only=self._span)
        if not parts and not attributes:
            return ""
        return f'<row r="{target}"{_spaced(attributes)}>{"".join(text for _, text in sorted(parts))}</row>'

    def _heading_row(self) -> str:
        place, head = self._place, self._place.head
        row = self._sheet.row(head) or Row(head, b"", b"")
        cells = dict(self._kept(row, head, None))
        styles = {column: style_of(attributes) for column, attributes, _, _ in row.cells()}
        for at in self._columns.new:
            style = styles.get(at - 1 if not place.fresh else at, 0)
            if place.fresh or not style:
                style = self._styles.heading(styles.get(at, 0))
            styles[at] = style
            body = cell_body("text", cut=True)(self._columns.headings[at])
            cells[at] = f'<c r="{letters(at)}{head}" s="{style}"{body}'
        inside = "".join(cells[at] for at in sorted(cells))
        return f'<row r="{head}"{_spaced(row.attributes.decode())}>{inside}</row>'

    def _data_rows(self) -> Iterator[str]:
        plan, place, rows = self._plan, self._place, self._rows
        columns = rows.columns
        ours = sorted(self._columns.fed.items())
        self._bodies = {
            at: cell_body(columns[which].kind, self._fed.book.since_1904, self._manner.cut_texts) for at, which in ours
        }
        picks = [which for _, which in ours]
        self._prefixes: dict[Any, Sequence[tuple[str, str, Body]] | None] = {}
        self._signatures: dict[Any, tuple[Sequence[tuple[str, str, Body]], bool]] = {}
        self._texts: dict[tuple[str, str], dict[str, str]] = {}
        template = self._template_row()
        gone = self._gone_cell()
        n = place.head
        for start in range(0, plan.height, CHUNK):
            old = plan.old[start : start + CHUNK]
            source = plan.source[start : start + CHUNK]
            values = self._values(source, picks)
            plain = self._all_alike(old, source, n + 1, template)
            if plain is not None:
                some = list(values)
                try:
                    yield self._many(n + 1, plain, some)
                    n += len(old)
                    continue
                except TextTooLongError:
                    values = iter(some)  # One by one it is found which.
            out = []
            for was, number in zip(old.tolist(), source.tolist(), strict=True):
                n += 1
                if number < 0:
                    out.append(self._untouched(was, n, gone))
                    continue
                try:
                    out.append(self._row(n, was, next(values), template))
                except TextTooLongError:
                    raise self._too_long(rows.at(np.array([number]))[0], ours, n) from None
            yield "".join(out)
        if n < self._fed.new_last:
            yield self._row(n + 1, 0, [None] * len(ours), template)

    def _all_alike(self, old: Any, source: Any, first: int, template: _OldRow) -> _Alike | None:
        """How some rows are written where nothing in them tells them apart but their values; ``None`` elsewhere."""
        if self._columns.own or not len(old) or bool((source < 0).any()):
            return None
        styles: Any = None
        attributes: list[str] = []
        for n, was in enumerate(old.tolist(), first):
            row = self._sheet.row(n)
            one = self._old_row(row if was == n else self._sheet.row(was)) if was else template
            if not (was == n and one.alone) and self._beside(n, row) is not None:
                return None
            if styles is None:
                styles = one.styles
            elif one.styles is not styles:
                return None
            attributes.append(_spaced(one.attributes.decode()))
        return styles, attributes

    def _many(self, first: int, alike: _Alike, values: Sequence[Sequence[Any]]) -> str:
        """Rows that are written column by column, which is faster than cell by cell."""
        styles, attributes = alike
        numbers = range(first, first + len(values))
        columns = [
            many_cells(cells, numbers, start, style, body, self._texts.setdefault((start, style), {}))
            for (start, style, body), cells in zip(styles, zip(*values, strict=True), strict=True)
        ]
        rows = zip(numbers, attributes, map("".join, zip(*columns, strict=True)), strict=True)
        return "".join([f'<row r="{n}"{told}>{inside}</row>' for n, told, inside in rows])

    def _values(self, source: Any, picks: list[int]) -> Iterator[Sequence[Any]]:
        """The values of some rows of the table, those that are fed."""
        wanted = source[source >= 0]
        if not len(wanted):
            return iter(())
        first = int(wanted[0])
        if int(wanted[-1]) - first == len(wanted) - 1 and bool((np.diff(wanted) == 1).all()):
            found = self._rows.window(first, len(wanted))
        else:
            found = self._rows.at(wanted)
        if picks == list(range(len(self._rows.columns))):
            return iter(found)
        return iter([[row[which] for which in picks] for row in found])

    def _row(self, n: int, was: int, values: Sequence[Any], template: _OldRow) -> str:
        row = self._sheet.row(n)
        old = self._old_row(row if was == n else self._sheet.row(was)) if was else template
        beside = self._beside(n, row)
        attributes = (old if was or beside is None else beside).attributes.decode()
        if not self._columns.own and beside is None:
            inside = "".join(
                [
                    f"{start}{n}{style}{body(value)}"
                    for (start, style, body), value in zip(old.styles, values, strict=True)
                ]
            )
            return f'<row r="{n}"{_spaced(attributes)}>{inside}</row>'
        cells = list(self._kept(beside, n, self._span)) if beside is not None else []
        for (at, _), (start, style, body), value in zip(
            sorted(self._columns.fed.items()), old.styles, values, strict=True
        ):
            cells.append((at, f"{start}{n}{style}{body(value)}"))
        cells += self._own_cells(n, was, old)
        return f'<row r="{n}"{_spaced(attributes)}>{"".join(text for _, text in sorted(cells))}</row>'

    def _own_cells(self, n: int, was: int, old: _OldRow) -> list[tuple[int, str]]:
        """The cells of people's own columns in a row: kept with it, or filled down where they are formulas."""
        out = []
        keeps_notes = self._manner.way != "replace"
        for at in self._columns.own:
            kept = old.own.get(at)
            attributes, inside, whole = kept if kept is not None else (b"", None, b"")
            if was and kept is not None and (is_formula(inside) or (keeps_notes and has_content(inside))):
                if is_formula(inside):
                    formula = formula_of(inside, at, was, self._fed.masters)
                    if formula is not None:
                        self._fed.check_array(formula.array, at)
                out.append((at, self._kept_cell(at, was, n, attributes, inside, whole, beside=True)))
            elif at in self._fed.templates and (not was or not keeps_notes):
                out.append((at, self._filled_down(at, n, attributes)))
            elif style := style_of(attributes):
                out.append((at, f'<c r="{letters(at)}{n}" s="{style}"/>'))
        return out

    def _filled_down(self, at: int, n: int, attributes: bytes) -> str:
        row, text, first_attributes, array = self._fed.templates[at]
        style = style_of(attributes) or style_of(first_attributes)
        formula = Formula(translate(text, n - row), Cells(at, n, at, n) if array is not None else None)
        return f'<c r="{letters(at)}{n}"' + formula_body(f's="{style}"'.encode() if style else b"", formula)

    def _untouched(self, was: int, n: int, gone: tuple[int, str, str] | None) -> str:
        """A row that nothing is written into: it was there before, or is gone from the table."""
        row = self._sheet.row(was) or Row(was, b"", b"")
        cells = {
            column: self._kept_cell(column, was, n, attributes, inside, whole, beside=True)
            for column, attributes, inside, whole in row.cells()
            if self._fed.in_span(column)
        }
        if gone is not None and was in self._plan.gone:
            at, style, body = gone
            shown = next((inside for column, _, inside, _ in row.cells() if column == at), None)
            if not has_content(shown):
                cells[at] = f'<c r="{letters(at)}{n}"{style}{body}'
        beside = self._beside(n, self._sheet.row(n))
        parts = [*cells.items(), *(self._kept(beside, n, self._span) if beside is not None else [])]
        attributes = self._shown(row.attributes).decode()
        return f'<row r="{n}"{_spaced(attributes)}>{"".join(text for _, text in sorted(parts))}</row>'

    def _gone_cell(self) -> tuple[int, str, str] | None:
        """The cell that marks a row that is gone: its column, its style, and the rest of it."""
        if self._manner.gone is None or not self._plan.gone:
            return None
        name, date = self._manner.gone
        at = self._fed.sheet_column(name)
        if at is None:
            return None
        kind = next(column.kind for column in self._rows.columns if column.name == name)
        style = self._template_styles().get(at, 0)
        code = kind_of(kind).sheet_format
        style = self._styles.dated(style, code) if code else style
        return at, f' s="{style}"' if style else "", self._bodies[at](date)

    def _beside(self, n: int, row: Row | None) -> Row | None:
        """The row itself, where something stands beside the table in it."""
        if n > self._place.last and self._moves.below and self._moves.whole_rows:
            return None
        if row is None or not row.inside:
            return None
        # Where the row's first and last cell are the table's, so are all.
        start, end = row.inside.find(b'r="'), row.inside.rfind(b"<c ")
        first = _SIGNATURE.match(row.inside, max(0, start - 3))
        last = _SIGNATURE.match(row.inside, end)
        ends = [column_of(found[1]) for found in (first, last) if found is not None]
        return None if len(ends) == 2 and all(self._fed.in_span(column) for column in ends) else row

    # Styles ----------------------------------------------------------------------------------------------------

    def _shown(self, attributes: bytes) -> bytes:
        return _HIDDEN.sub(b"", attributes) if self._fed.filtered else attributes

    def _old_row(self, row: Row | None) -> _OldRow:
        if row is None:
            return _OldRow(b"", {}, self._prefix({}))
        if not self._columns.own and self._sheet.regular:
            signature = tuple(_SIGNATURE.findall(row.inside))
            found = self._signatures.get(signature)
            if found is None:
                styles = {column_of(name): int(style) if style else 0 for name, style in signature}
                found = self._signatures[signature] = self._prefix(styles), all(map(self._fed.in_span, styles))
            return _OldRow(self._shown(row.attributes), {}, *found)
        styles, own = {}, {}
        for column, attributes, inside, whole in row.cells():
            if column in self._columns.fed:
                styles[column] = style_of(attributes)
            elif self._fed.in_span(column):
                own[column] = (attributes, inside, whole)
        key = tuple(sorted(styles.items()))
        known = self._prefixes.get(key)
        if known is None:
            known = self._prefixes[key] = self._prefix(styles)
        return _OldRow(self._shown(row.attributes), own, known)

    def _model_row(self) -> Row | None:
        """The row that new ones are like: the last row of data; without one, what is prepared for the first."""
        place = self._place
        return None if place.fresh else self._sheet.row(max(place.last, place.first))

    def _template_styles(self) -> dict[int, int]:
        """The styles of a new row: those of its model, or of the sheet's columns."""
        row = self._model_row()
        styles = self._column_styles()
        if row is not None:
            styles |= {column: style_of(attributes) for column, attributes, _, _ in row.cells()}
        return styles

    def _column_styles(self) -> dict[int, int]:
        out: dict[int, int] = {}
        columns = self._sheet.find("cols")
        for one in columns if columns is not None else ():
            style = int(one.get("style") or 0)
            if style:
                first, last = int(one.get("min") or 1), int(one.get("max") or 1)
                out |= dict.fromkeys(range(max(first, self._span[0]), min(last, self._span[1]) + 1), style)
        return out

    def _template_row(self) -> _OldRow:
        styles = self._template_styles()
        row = self._model_row() if self._place.last >= self._place.first else None
        attributes = _NOT_FOR_NEW.sub(b"", row.attributes).strip() if row is not None else b""
        own: dict[int, _OwnCell] = {
            at: (f' s="{styles[at]}"'.encode(), None, b"") for at in self._columns.own if styles.get(at)
        }
        return _OldRow(attributes, own, self._prefix({at: styles.get(at, 0) for at in self._columns.fed}))

    def _prefix(self, styles: dict[int, int]) -> Sequence[tuple[str, str, Body]]:
        """For each column that is fed: how its cell begins, its style, and what writes the rest."""
        fallback = self._column_styles() if not styles else {}
        out = []
        for at, which in sorted(self._columns.fed.items()):
            style = styles.get(at, fallback.get(at, 0))
            code = kind_of(self._rows.columns[which].kind).sheet_format
            if code:
                style = self._styles.dated(style, code)
            out.append((f'<c r="{letters(at)}', f'" s="{style}"' if style else '"', self._bodies[at]))
        return out

    def _too_long(self, row: Sequence[Any], ours: list[tuple[int, int]], n: int) -> Exception:
        at, which = max(ours, key=lambda one: len(str(row[one[1]])))
        return fail(
            "text-too-long",
            f"A text of {len(str(row[which])):,} characters does not fit into {letters(at)}{n}: a cell of a workbook"
            f" holds {MOST_CHARACTERS:,}.",
            where=f"{self._fed.where}, column “{self._columns.headings[at]}”",
            do="Let the feed cut long texts, or work out a shorter one.",
        )


def _spaced(attributes: str) -> str:
    return f" {attributes}" if attributes else ""
