"""The workbook part (ISO/IEC 29500-1, §18.2): its sheets, its names, and how it works out."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from lxml import etree

from tin_bucket.core.problem import fail

from .cells import escape, shared_texts
from .package import Package, main_part, serialise
from .references import Cells, Move, cells_of, letters, move_references, quoted, sheet_named
from .sheet_xml import MAIN
from .styles import EMPTY, Styles

_TYPE = "application/vnd.openxmlformats-officedocument.spreadsheetml"
_RELATION = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
_RELATION_STRICT = "http://purl.oclc.org/ooxml/officeDocument/relationships"
_NAME_CHARACTERS = re.compile(r"[\[\]:*?/\\\x00-\x1f]")
_AFTER_NAMES = (
    "calcPr", "oleSize", "customWorkbookViews", "pivotCaches", "smartTagPr", "smartTagTypes", "webPublishing",
    "fileRecoveryPr", "webPublishObjects", "extLst",
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class SheetEntry:
    """A sheet of a workbook: its name, its part, and its place among the sheets, counted from 0."""

    name: str
    part: str
    at: int


class Book:
    """The workbook part of a package.

    Attributes:
        sheets: the sheets with rows and columns, in order.
        since_1904: whether days are counted from 1904.
    """

    def __init__(self, package: Package) -> None:
        """
        Raises:
            ProblemError: ``workbook-damaged``, ``not-a-workbook``.
        """
        self.package = package
        self.part = main_part(package)
        self._tree = package.tree(self.part)
        self._ns = etree.QName(self._tree).namespace or ""
        if self._ns not in MAIN:
            raise fail(
                "not-a-workbook", "The file is no workbook.", where=package.where, do="Name an .xlsx or .xlsm file."
            )
        self._strict = self._ns == MAIN[1]
        relation = _RELATION_STRICT if self._strict else _RELATION
        targets = {one.id: one.target for one in package.relations(self.part) if one.kind == "worksheet"}
        entries = self._tree.findall(f"{self._tag('sheets')}/{self._tag('sheet')}")
        ids = [one.get(f"{{{relation}}}id") for one in entries]
        self.sheets = [
            SheetEntry(str(one.get("name")), targets[id_], at)
            for at, (one, id_) in enumerate(zip(entries, ids, strict=True))
            if id_ in targets
        ]
        properties = self._tree.find(self._tag("workbookPr"))
        self.since_1904 = properties is not None and properties.get("date1904") in ("1", "true")
        self._texts: list[str] | None = None

    def _tag(self, name: str) -> str:
        return f"{{{self._ns}}}{name}"

    def sheet(self, name: str) -> SheetEntry | None:
        """A sheet by its name, in which case does not matter."""
        return next((one for one in self.sheets if one.name.casefold() == name.casefold()), None)

    def text(self, number: int) -> str:
        """A text of the list that all sheets share; an empty one where there is none of that number."""
        if self._texts is None:
            part = next(iter(self.package.related(self.part, "sharedStrings")), None)
            self._texts = shared_texts(self.package.tree(part)) if part else []
        return self._texts[number] if 0 <= number < len(self._texts) else ""

    def styles(self) -> tuple[str, Styles]:
        """The part of the styles, and the styles; the part is made where there is none."""
        part = next(iter(self.package.related(self.part, "styles")), None)
        if part is None:
            part = f"{self.part.rpartition('/')[0]}/styles.xml".lstrip("/")
            styles = EMPTY.replace(MAIN[0], self._ns).encode()
            self.package.add(part, styles, f"{_TYPE}.styles+xml", of=self.part, kind=f"{self._relation}/styles")
        return part, Styles(self.package.tree(part))

    @property
    def _relation(self) -> str:
        return _RELATION_STRICT if self._strict else _RELATION

    # Names -----------------------------------------------------------------------------------------------------

    def named(self, name: str) -> tuple[str, Cells] | None:
        """The sheet and the range that a name means; ``None`` where it means no range, or there is no such name."""
        for one in self._names():
            if str(one.get("name")).casefold() != name.casefold():
                continue
            sheet, mark, ref = (one.text or "").strip().rpartition("!")
            try:
                return (sheet_named(sheet), cells_of(ref)) if mark else None
            except ValueError:
                return None
        return None

    def names_of(self, sheet: str) -> list[str]:
        """The names that mean something in a sheet."""
        word = escape(sheet).replace("'", "''").casefold()
        return [str(one.get("name")) for one in self._names() if word in (one.text or "").casefold()]

    def set_name(self, name: str, sheet: str, cells: Cells) -> None:
        """Let a hidden name mean a range, so that it follows what people insert, delete and rename."""
        first, last = cells, cells
        text = (
            f"{quoted(sheet)}!${letters(first.first_column)}${first.first_row}"
            f":${letters(last.last_column)}${last.last_row}"
        )  # fmt: skip
        for one in self._names():
            if one.get("name") == name:
                one.text = text
                return
        names = self._tree.find(self._tag("definedNames"))
        if names is None:
            names = etree.Element(self._tag("definedNames"))
            self._insert(names)
        made = etree.SubElement(names, self._tag("definedName"), name=name, hidden="1")
        made.text = text

    def _names(self) -> list[Any]:
        found: list[Any] = self._tree.findall(f"{self._tag('definedNames')}/{self._tag('definedName')}")
        return found

    def _insert(self, element: Any) -> None:
        """Insert an element where the order of the format has it (§18.2.27)."""
        behind = {self._tag(name) for name in _AFTER_NAMES}
        if etree.QName(element).localname == "calcPr":
            behind.discard(self._tag("calcPr"))
        at = next((at for at, one in enumerate(self._tree) if one.tag in behind), len(self._tree))
        self._tree.insert(at, element)

    def move_names(self, sheet: str, move: Move) -> None:
        """Let the names that mean rows of a sheet mean them where they are now."""
        for one in self._names():
            if one.text:
                one.text = move_references(one.text, "", sheet, move)

    # Sheets ----------------------------------------------------------------------------------------------------

    def add_sheet(self, name: str) -> SheetEntry:
        """Add an empty sheet behind the others.

        Raises:
            ProblemError: ``sheet-name``.
        """
        check_sheet_name(name)
        folder = self.part.rpartition("/")[0]
        number = next(at for at in range(1, 100_000) if not self.package.has(f"{folder}/worksheets/sheet{at}.xml"))
        part = f"{folder}/worksheets/sheet{number}.xml".lstrip("/")
        data = f'<worksheet xmlns="{self._ns}"><sheetData/></worksheet>'
        kind = f"{self._relation}/worksheet"
        relation = self.package.add(part, data.encode(), f"{_TYPE}.worksheet+xml", of=self.part, kind=kind)
        sheets = self._tree.find(self._tag("sheets"))
        ids = [int(one.get("sheetId") or 0) for one in sheets]
        made = etree.SubElement(sheets, self._tag("sheet"), name=name, sheetId=str(max([0, *ids]) + 1))
        made.set(f"{{{self._relation}}}id", relation)
        entry = SheetEntry(name, part, len(sheets) - 1)
        self.sheets.append(entry)
        return entry

    # Writing ---------------------------------------------------------------------------------------------------

    def recalculate(self) -> None:
        """Let programs work out every formula when they open the workbook (§18.2.2)."""
        calculation = self._tree.find(self._tag("calcPr"))
        if calculation is None:
            calculation = etree.Element(self._tag("calcPr"))
            self._insert(calculation)
        calculation.set("fullCalcOnLoad", "1")

    def save(self) -> None:
        """Put the part back into the package."""
        self.package.put(self.part, serialise(self._tree))


def check_sheet_name(name: str) -> None:
    """
    Raises:
        ProblemError: ``sheet-name``: a sheet cannot have this name.
    """
    units = len(name.encode("utf-16-le", "surrogatepass")) // 2
    wrong = _NAME_CHARACTERS.search(name)
    if not name or units > 31 or wrong or name.startswith("'") or name.endswith("'"):
        why = (
            f"it holds “{wrong[0]}”"
            if wrong
            else "it is empty, longer than 31 characters, or begins with an apostrophe"
        )
        raise fail(
            "sheet-name", f"No sheet can be named “{name[:60]}”: {why}.", where="sheet", do="Choose another name."
        )
