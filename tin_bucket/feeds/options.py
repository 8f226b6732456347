"""How a table is written: what a person chooses beside the format."""

from __future__ import annotations

from dataclasses import dataclass

from tin_bucket.core.problem import fail

# Name → codec and what stands in front. A byte order mark tells a workbook program which encoding a file has.
ENCODINGS: dict[str, tuple[str, bytes]] = {
    "utf-8": ("utf-8", b""),
    "utf-8-bom": ("utf-8", b"\xef\xbb\xbf"),
    "utf-16": ("utf-16-le", b"\xff\xfe"),
}
SEPARATORS = {"comma": ",", "semicolon": ";", "tab": "\t"}
DECIMALS = {"point": ".", "comma": ","}
LINE_ENDS = {"crlf": "\r\n", "lf": "\n"}
QUOTES = ("needed", "texts", "all")
# Cells have no offset: all of a column in the zone of its first one, which the heading says; or as texts.
MOMENTS = ("zone", "text")


@dataclass(frozen=True, slots=True)
class ExportOptions:
    """How a table is written.

    Attributes:
        formulas_as_text: whether CSV puts an apostrophe before texts that a workbook would take for formulas.
        headings: whether the first row holds the columns' names.
        separator: between the fields of CSV, by its name in :data:`SEPARATORS`.
        decimal: what parts the digits of a number in CSV, by its name in :data:`DECIMALS`.
        encoding: of CSV, by its name in :data:`ENCODINGS`.
        line_ends: of CSV, by their name in :data:`LINE_ENDS`.
        quotes: what stands in quotes in CSV, by its name in :data:`QUOTES`.
        moments: how a workbook holds moments of time that say their offset, by its name in :data:`MOMENTS`.
    """

    formulas_as_text: bool = False
    headings: bool = True
    separator: str = "comma"
    decimal: str = "point"
    encoding: str = "utf-8"
    line_ends: str = "crlf"
    quotes: str = "needed"
    moments: str = "zone"

    def checked(self, where: str = "export") -> ExportOptions:
        """The options, where they can be used.

        Raises:
            ProblemError: ``options-unfit``.
        """
        for what, value, known in (
            ("separator", self.separator, SEPARATORS),
            ("decimal mark", self.decimal, DECIMALS),
            ("encoding", self.encoding, ENCODINGS),
            ("line end", self.line_ends, LINE_ENDS),
            ("choice of quotes", self.quotes, QUOTES),
            ("way to write moments", self.moments, MOMENTS),
        ):
            if value not in known:
                do = f"Use {', '.join(known)}."
                raise fail("options-unfit", f"“{value[:40]}” is no {what}.", where=where, do=do)
        if self.separator == "comma" and self.decimal == "comma":
            raise fail(
                "options-unfit",
                "A comma cannot both separate the fields and part the digits of a number.",
                where=where,
                do="Separate the fields by a semicolon or a tab.",
            )
        return self


USUAL = ExportOptions()
