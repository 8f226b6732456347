"""Options of commands that write tables."""

from __future__ import annotations

from typing import TYPE_CHECKING, Annotated

import typer

if TYPE_CHECKING:
    from tin_bucket.feeds.options import ExportOptions

# The registry of formats takes a while to import; a test compares the two.
ENDINGS = ("xlsx", "csv", "tsv", "ods", "json", "jsonl", "parquet", "html")
OUT_HELP = f"File to write: {', '.join(f'*.{ending}' for ending in ENDINGS)}; - for standard output."
FormulasAsText = Annotated[
    bool,
    typer.Option(
        "--formulas-as-text",
        help="In CSV, put an apostrophe before texts that a workbook would take for formulas: they stay texts.",
    ),
]
Separator = Annotated[str, typer.Option(help="Between the fields of CSV: comma, semicolon, tab.")]
Decimal = Annotated[str, typer.Option(help="What parts the digits of a number in CSV: point, comma.")]
Encoding = Annotated[
    str, typer.Option(help="Of CSV: utf-8, utf-8-bom, utf-16; with a byte order mark it opens right by a double click.")
]
Form = Annotated[
    str | None, typer.Option("--format", help=f"{', '.join(ENDINGS)}; else what the file's name ends in, or CSV.")
]
Headings = Annotated[bool, typer.Option("--headings/--no-headings", help="Whether the first row holds the names.")]


def options_of(formulas_as_text: bool, headings: bool, separator: str, decimal: str, encoding: str) -> ExportOptions:
    """The options that a command was given."""
    from tin_bucket.feeds.options import ExportOptions

    return ExportOptions(formulas_as_text, headings, separator, decimal, encoding)
