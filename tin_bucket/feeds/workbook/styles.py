"""The styles of a workbook (ISO/IEC 29500-1, §18.8): read, and added to where a date needs one."""

from __future__ import annotations

import re
from copy import deepcopy
from typing import Any

from lxml import etree

# Formats of dates and times that have a number of their own (§18.8.30).
_DATED = {*range(14, 23), *range(27, 37), *range(45, 48), *range(50, 59)}
_FIRST_OWN = 164
_NO_CODE = re.compile(r'"[^"]*"|\\.|\[[^\]]*\]|_.|\*.')
EMPTY = (
    '<styleSheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">'
    '<fonts count="1"><font><sz val="11"/><name val="Calibri"/></font></fonts>'
    '<fills count="2"><fill><patternFill patternType="none"/></fill><fill><patternFill patternType="gray125"/></fill>'
    '</fills><borders count="1"><border><left/><right/><top/><bottom/><diagonal/></border></borders>'
    '<cellStyleXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0"/></cellStyleXfs>'
    '<cellXfs count="1"><xf numFmtId="0" fontId="0" fillId="0" borderId="0" xfId="0"/></cellXfs></styleSheet>'
)  # fmt: skip


class Styles:
    """The styles of cells.

    Attributes:
        tree: the part.
        changed: whether a style was added.
    """

    def __init__(self, tree: Any) -> None:
        self.tree = tree
        self.changed = False
        self._ns = etree.QName(tree).namespace
        self._made: dict[tuple[int, str], int] = {}
        self._codes = {
            int(one.get("numFmtId")): str(one.get("formatCode", ""))
            for one in tree.iterfind(f"{self._tag('numFmts')}/{self._tag('numFmt')}")
        }

    def _tag(self, name: str) -> str:
        return f"{{{self._ns}}}{name}"

    def _list(self, name: str) -> Any:
        found = self.tree.find(self._tag(name))
        if found is None:
            found = etree.Element(self._tag(name))
            self.tree.insert(0, found)  # Number formats stand first (§18.8.39); the other lists are always there.
        return found

    def shows_dates(self, style: int) -> bool:
        """Whether a style shows numbers as dates or times."""
        formats = self._list("cellXfs")
        if not 0 <= style < len(formats):
            return False
        number = int(formats[style].get("numFmtId") or 0)
        if number in _DATED:
            return True
        code = _NO_CODE.sub("", self._codes.get(number, "")).lower()
        return code != "general" and any(char in code for char in "dmyhs")

    def dated(self, style: int, code: str) -> int:
        """A style that is like another one and shows numbers as dates; that one itself where it does."""
        return style if self.shows_dates(style) else self._like(style, code, self._with_code)

    def heading(self, style: int) -> int:
        """A style that is like another one, and bold."""
        return self._like(style, "bold", self._bold)

    def _like(self, style: int, what: str, change: Any) -> int:
        known = self._made.get((style, what))
        if known is not None:
            return known
        formats = self._list("cellXfs")
        base = formats[style] if 0 <= style < len(formats) else formats[0]
        made = deepcopy(base)
        change(made, what)
        formats.append(made)
        formats.set("count", str(len(formats)))
        self.changed = True
        self._made[style, what] = len(formats) - 1
        return len(formats) - 1

    def _with_code(self, style: Any, code: str) -> None:
        number = next((at for at, known in self._codes.items() if known == code), None)
        if number is None:
            number = max([_FIRST_OWN - 1, *self._codes]) + 1
            codes = self._list("numFmts")
            etree.SubElement(codes, self._tag("numFmt"), numFmtId=str(number), formatCode=code)
            codes.set("count", str(len(codes)))
            self._codes[number] = code
        style.set("numFmtId", str(number))
        style.set("applyNumberFormat", "1")

    def _bold(self, style: Any, what: str) -> None:
        fonts = self._list("fonts")
        font = deepcopy(fonts[int(style.get("fontId") or 0)])
        bold = font.find(self._tag("b"))
        if bold is None:
            font.insert(0, etree.Element(self._tag("b")))
        else:
            bold.attrib.pop("val", None)
        fonts.append(font)
        fonts.set("count", str(len(fonts)))
        style.set("fontId", str(len(fonts) - 1))
        style.set("applyFont", "1")
