"""Exhibits as HTML (HTML Living Standard): the same on screen, at a reader's address, in a file and in a mail."""

from __future__ import annotations

from .seen import CellSeen, RowSeen, TableSeen
from .text import harmless

_SIGNS = {"new": "+", "gone": "−", "changed": "●", "": ""}


def table_html(table: TableSeen, caption: str) -> str:
    """A table, its rows marked as new, gone or changed. The caption is for those who do not see it."""
    marks = any(row.state for row in table.rows)
    heads = ['<th class="sign"><span class="sr-only">since then</span></th>'] if marks else []
    for name, unit, number in table.headings:
        told = f'{harmless(name)}<span class="unit">, {harmless(unit)}</span>' if unit else harmless(name)
        heads.append(f'<th scope="col"{" class=number" if number else ""}>{told}</th>')
    body = "".join(_row(row, table, marks) for row in table.rows)
    foot = ""
    if any(table.totals):
        cells = ['<td class="sign"></td>'] if marks else []
        for text, (_, _, number) in zip(table.totals, table.headings, strict=True):
            cells.append(f"<td{' class=number' if number else ''}>{harmless(text)}</td>")
        foot = f"<tfoot><tr>{''.join(cells)}</tr></tfoot>"
    more = ""
    if table.more > 0:
        more = f'<p class="quiet">{table.more:,} more row{"" if table.more == 1 else "s"}.</p>'
    if not table.rows:
        more = '<p class="quiet">No row meets the conditions.</p>'
    return (
        f'<div class="scroll" tabindex="0" role="group" aria-label="{harmless(caption)}"><table>'
        f'<caption class="sr-only">{harmless(caption)}</caption><thead><tr>{"".join(heads)}</tr></thead>'
        f"<tbody>{body}</tbody>{foot}</table></div>{more}"
    )


def _row(row: RowSeen, table: TableSeen, marks: bool) -> str:
    cells = []
    if marks:
        words = f'<span class="sr-only">{row.state}</span>' if row.state else ""
        cells.append(f'<td class="sign"><span aria-hidden="true">{_SIGNS[row.state]}</span>{words}</td>')
    for at, (cell, (_, _, number)) in enumerate(zip(row.cells, table.headings, strict=True)):
        cells.append(_cell(cell, number, row.link if at == 0 else ""))
    return f"<tr{f' class={row.state}' if row.state else ''}>{''.join(cells)}</tr>"


def _cell(cell: CellSeen, number: bool, link: str) -> str:
    classes = [
        name for name, on in (("number", number), ("changed", cell.was is not None), ("mark", cell.marked)) if on
    ]
    attribute = f' class="{" ".join(classes)}"' if classes else ""
    was = "" if cell.was is None else f"<s>{harmless(cell.was or 'empty')}</s> "
    text = harmless(cell.text or ("empty" if cell.was is not None else ""))
    if cell.marked:
        text = f'<strong>{text}</strong><span class="sr-only">, marked</span>'
    if link:
        text = f'<a href="{harmless(link)}">{text or "row"}</a>'
    return f"<td{attribute}>{was}{text}</td>"
