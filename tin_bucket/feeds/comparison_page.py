"""A comparison as a page that stands alone: one HTML file (HTML Living Standard) that loads nothing from elsewhere."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from html import escape
from itertools import islice
from typing import Any, BinaryIO

from tin_bucket.core.columns.missing import Miss

from .comparison import KindOfChange

MOST_ROWS = 5_000  # Of each part; a longer one says how many there are.

_STYLE = """
body{font:15px/1.45 system-ui,sans-serif;color:#1e242b;background:#fbfbfc;margin:24px auto;
max-width:1200px;padding:0 16px}
h1{font-size:22px;margin:0 0 4px}h2{font-size:16px;margin:28px 0 6px}p{margin:4px 0;max-width:80ch}
.muted{color:#5f6975}.scroll{overflow:auto;border:1px solid #dde1e6;border-radius:7px;background:#fff}
table{border-collapse:collapse;font-size:13px;font-variant-numeric:tabular-nums}
th,td{padding:4px 10px;border-bottom:1px solid #e9ecef;text-align:left;white-space:nowrap}
th{position:sticky;top:0;background:#f1f2f4}td.number{text-align:right}
td.changed{background:#fff8d9;box-shadow:inset 0 0 0 1px #f3df8c}td s{display:block;color:#5f6975;font-size:11px}
tr.new td:first-child{box-shadow:inset 4px 0 0 #2f5878}
tr.gone td{color:#5f6975;background:repeating-linear-gradient(135deg,#fff 0 5px,#eceef1 5px 8px)}
@media print{body{margin:0;max-width:none}.scroll{overflow:visible;border:0}th{position:static}tr{break-inside:avoid}}
"""


def write_page(title: str, sentences: Sequence[str], parts: Sequence[KindOfChange], out: BinaryIO) -> None:
    """Write a page.

    Args:
        sentences: what is said before the tables.
    """
    for piece in _page(title, sentences, parts):
        out.write(piece.encode("utf-8", "replace"))


def _page(title: str, sentences: Sequence[str], parts: Sequence[KindOfChange]) -> Iterator[str]:
    yield (
        "<!doctype html><html lang=en><head><meta charset=utf-8>"
        "<meta name=viewport content='width=device-width,initial-scale=1'>"
        "<meta http-equiv=Content-Security-Policy content=\"default-src 'none'; style-src 'unsafe-inline'\">"
        f"<title>{escape(title)}</title><style>{_STYLE}</style></head><body><h1>{escape(title)}</h1>"
    )
    for sentence in sentences:
        yield f"<p>{escape(sentence)}</p>"
    for part in parts:
        if part.total:
            yield from _table(part)
    yield "</body></html>"


def _table(part: KindOfChange) -> Iterator[str]:
    before = dict(part.marks)
    hidden = set(before.values())
    places = {column.name: at for at, column in enumerate(part.columns)}
    shown = [
        (at, column, places.get(before.get(column.name, "")))
        for at, column in enumerate(part.columns)
        if column.name not in hidden and not column.hidden
    ]
    yield f"<h2>{part.total:,} {part.kind}</h2><div class=scroll><table><thead><tr>"
    for _, column, _ in shown:
        unit = f", {column.unit}" if column.unit else ""
        yield f"<th scope=col>{escape(column.name + unit)}</th>"
    yield "</tr></thead><tbody>"
    for row in islice(part.rows, MOST_ROWS):
        cells = "".join(_cell(row[at], None if was is None else row[was]) for at, _, was in shown)
        yield f"<tr class={part.kind}>{cells}</tr>"
    yield "</tbody></table></div>"
    if part.total > MOST_ROWS:
        yield f"<p class=muted>The first {MOST_ROWS:,} of {part.total:,} rows.</p>"


def _cell(value: Any, was: Any) -> str:
    number = isinstance(value, int | float) and not isinstance(value, bool)
    if was is None:
        return f"<td class=number>{_text(value)}</td>" if number else f"<td>{_text(value)}</td>"
    return f'<td class="changed{" number" if number else ""}"><s>{_text(was)}</s>{_text(value) or "empty"}</td>'


def _text(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, Miss):
        return escape(value.words)
    return escape(str(value))
