"""Formulas in cells (ISO/IEC 29500-1, §18.3.1.40): shared ones written out, moved ones, and those of other parts."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable
from typing import NamedTuple
from xml.sax.saxutils import escape

from .cells import read_text
from .references import Cells, Move, cells_of, move_references, translate
from .sheet_xml import CELL, column_of

_FORMULA = re.compile(rb"<f\b([^>]*?)(?:/>|>(.*?)</f>)", re.DOTALL)
_KIND = re.compile(rb'\bt="([A-Za-z]+)"')
_GROUP = re.compile(rb'\bsi="([0-9]+)"')
_REF = re.compile(rb'\bref="([^"]*)"')
_VALUE = re.compile(rb"<v\b[^>]*?(?:/>|>.*?</v>)", re.DOTALL)
_TEXT_TYPE = re.compile(rb'\s*\bt="[A-Za-z]+"')
_PLACE = re.compile(rb'\br="([A-Z]{1,3})([0-9]{1,7})"')
# Where other parts and the ends of sheets hold formulas: charts, conditional formats, validations, sparklines.
_ELSEWHERE = re.compile(rb"(<(?:\w+:)?(?:f|formula|formula1|formula2)(?:\s[^>]*)?>)([^<]+)(</)")


class Master(NamedTuple):
    """The formula that a group shares, and the cell that it is written for."""

    column: int
    row: int
    text: str


class Formula(NamedTuple):
    """A formula of a cell.

    Attributes:
        text: as it reads in this cell.
        array: the range that it fills, where it is an array formula.
        other: whether it is of a kind that is left as it is, such as a data table.
    """

    text: str
    array: Cells | None = None
    other: bool = False


def shared_masters(insides: Iterable[tuple[int, int, bytes]]) -> dict[int, Master]:
    """The groups of shared formulas, by number.

    Args:
        insides: column, row and content of cells.
    """
    out: dict[int, Master] = {}
    for column, row, inside in insides:
        found = _FORMULA.search(inside)
        if found is None or b"shared" not in found[1] or not found[2]:
            continue
        group = _GROUP.search(found[1])
        if group is not None:
            out[int(group[1])] = Master(column, row, read_text(found[2]))
    return out


def formula_of(inside: bytes | None, column: int, row: int, masters: dict[int, Master]) -> Formula | None:
    """The formula of a cell, where it has one."""
    found = _FORMULA.search(inside) if inside else None
    if found is None:
        return None
    kind = _KIND.search(found[1])
    text = read_text(found[2]) if found[2] else ""
    told = kind[1] if kind else b"normal"
    if told == b"shared":
        group = _GROUP.search(found[1])
        master = masters.get(int(group[1])) if group else None
        if master is not None:
            return Formula(translate(master.text, row - master.row, column - master.column))
        return Formula(text)
    if told == b"array":
        ref = _REF.search(found[1])
        try:
            return Formula(text, cells_of(ref[1].decode()) if ref else Cells(column, row, column, row))
        except ValueError:
            return Formula(text, other=True)
    return Formula(text, other=told != b"normal")


def formula_body(attributes: bytes, formula: Formula) -> str:
    """The rest of a cell behind its place that works something out. What it showed before is left out, so every
    program works it out anew."""
    kept = _TEXT_TYPE.sub(b"", attributes).decode().strip()
    inside = f'<f t="array" ref="{formula.array}">' if formula.array is not None else "<f>"
    return f"{' ' + kept if kept else ''}>{inside}{escape(formula.text)}</f></c>"


def without_figures(data: bytes) -> bytes:
    """A sheet's part without what its formulas showed."""

    def bare(found: re.Match[bytes]) -> bytes:
        cell = found[0]
        return _VALUE.sub(b"", cell) if found[2] and b"<f" in found[2] else cell

    return CELL.sub(bare, data)


def move_in_part(data: bytes, own_sheet: str, sheet: str, move: Move, cells: bool = False) -> bytes:
    """A part whose formulas mean other rows of a sheet now; all else in it stays as it is.

    Args:
        own_sheet: the sheet that references without one mean; empty where there is none.
        cells: whether the part is a sheet, whose cells may share formulas.
    """

    def moved(text: str) -> str:
        return move_references(text, own_sheet, sheet, move)

    def elsewhere(found: re.Match[bytes]) -> bytes:
        old = read_text(found[2])
        new = moved(old)
        return found[0] if new == old else found[1] + escape(new).encode() + found[3]

    if cells and b't="shared"' in data:
        data = _write_out_shared(data, moved)
    return _ELSEWHERE.sub(elsewhere, data)


def _write_out_shared(data: bytes, moved: Callable[[str], str]) -> bytes:
    """Write out the groups of shared formulas that do not move alike in every cell."""
    members: dict[int, list[tuple[int, int]]] = {}
    masters = shared_masters(_formula_cells(data))
    for column, row, inside in _formula_cells(data):
        found = _FORMULA.search(inside)
        group = _GROUP.search(found[1]) if found is not None and b"shared" in found[1] else None
        if group is not None:
            members.setdefault(int(group[1]), []).append((column, row))
    apart = set()
    for number, cells in members.items():
        master = masters.get(number)
        if master is None:
            continue
        new = moved(master.text)
        for column, row in cells:
            rows, columns = row - master.row, column - master.column
            if moved(translate(master.text, rows, columns)) != translate(new, rows, columns):
                apart.add(number)
                break

    def plain(found: re.Match[bytes]) -> bytes:
        inside = found[2]
        formula = _FORMULA.search(inside) if inside else None
        group = _GROUP.search(formula[1]) if formula is not None and b"shared" in formula[1] else None
        place = _PLACE.search(found[1])
        if formula is None or group is None or place is None or int(group[1]) not in apart:
            return found[0]
        text = formula_of(inside, column_of(place[1]), int(place[2]), masters)
        assert text is not None
        made = f"<f>{escape(text.text)}</f>".encode()
        return found[0].replace(formula[0], made, 1)

    return CELL.sub(plain, data) if apart else data


def _formula_cells(data: bytes) -> Iterable[tuple[int, int, bytes]]:
    for found in CELL.finditer(data):
        place = _PLACE.search(found[1])
        if found[2] and place is not None and b"<f" in found[2]:
            yield column_of(place[1]), int(place[2]), found[2]
