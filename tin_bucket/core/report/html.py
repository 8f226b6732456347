"""Exhibits as HTML (HTML Living Standard): the same on screen, at a reader's address, in a file and in a mail."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from tin_bucket.core.analysis.compare import Comparison
from tin_bucket.core.chart.drawing import Axis, Drawing
from tin_bucket.core.chart.words import place_words

from .seen import BlockSeen, CellSeen, RowSeen, SourceSeen, TableSeen
from .text import harmless
from .words import change_words, number_words

_MOST_NAMED = 12  # Columns that changed.
_SIGNS = {"new": "+", "gone": "−", "changed": "●", "": ""}


def changes_html(found: Comparison, link: Callable[[str], str]) -> tuple[str, str]:
    """What is new, gone and changed, as HTML and as text.

    Args:
        link: gives where the changes of a column are; an empty text where nobody can go there.
    """
    counts = found.counts()
    if not counts["new"] and not counts["gone"] and not counts["changed"]:
        words = "Nothing changed."
        return f"<p>{words}</p>", words
    parts = [f"{counts['new']:,} rows are new", f"{counts['gone']:,} are gone", f"{counts['changed']:,} changed"]
    strong = [f"<strong>{counts[one]:,}</strong>" for one in ("new", "gone", "changed")]
    html = f"<p>{strong[0]} rows are new, {strong[1]} are gone, {strong[2]} changed"
    text = ", ".join(parts)
    columns = found.columns
    if columns:
        told = f" in {len(columns)} column{'' if len(columns) == 1 else 's'}: "
        some = columns[:_MOST_NAMED]
        html += told + ", ".join(_linked(f"{one.name} {one.cells:,}", link(one.name)) for one in some)
        text += told + ", ".join(f"{one.name} {one.cells:,}" for one in some)
        if len(columns) > len(some):
            html += f" and {len(columns) - len(some)} more"
            text += f" and {len(columns) - len(some)} more"
    return f"{html}.</p>", f"{text}."


def _linked(words: str, link: str) -> str:
    return f'<a href="{harmless(link)}">{harmless(words)}</a>' if link else harmless(words)


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
        name for name, on in (("number", number), ("changed", cell.was is not None), ("noted", cell.marked)) if on
    ]
    attribute = f' class="{" ".join(classes)}"' if classes else ""
    was = "" if cell.was is None else f"<s>{harmless(cell.was or 'empty')}</s> "
    text = harmless(cell.text or ("empty" if cell.was is not None else ""))
    if cell.marked:
        text = f'<strong>{text}</strong><span class="sr-only">, marked</span>'
    if link:
        text = f'<a href="{harmless(link)}">{text or "row"}</a>'
    return f"<td{attribute}>{was}{text}</td>"


MOST_FIGURES = 400
_CHART_HEIGHT = 290


def margin_html(sources: Sequence[SourceSeen], when: Callable[[str], str]) -> str:
    """The margin of a block: from which table it is, as of when, and whether that is complete.

    Args:
        when: a moment, ISO 8601, in words.
    """
    out = []
    for one in sources:
        doubt = bool(one.doubt)
        name = f"<b>{harmless(one.name)}</b>" if doubt else harmless(one.name)
        lines = [name + (f" · {harmless(when(one.taken))}" if one.taken else "")]
        if one.state == "complete" and not one.old:
            lines[0] += ' <span aria-hidden="true">✓</span><span class="sr-only">, complete</span>'
        if one.state == "missing":
            lines.append("no table")
        elif one.state == "incomplete":
            lines.append("incomplete" + (f": {harmless(one.evidence)}" if one.evidence else ""))
        else:
            lines.append(f"{one.rows:,} rows" + (", unverified" if one.state == "unverified" else ""))
        if one.old:
            lines.append(f"old: {harmless(one.old)}")
        lines.extend(harmless(note) for note in one.notes)
        out.append(f"<p{' class=doubt' if doubt else ''}>{'<br>'.join(lines)}</p>")
    return "".join(out)


def block_html(block: BlockSeen, when: Callable[[str], str], drawing: int | None = None) -> str:
    """A block with its margin.

    Args:
        when: as for :func:`margin_html`.
        drawing: the number under which the page knows what is drawn; without one a chart is told as a table.
    """
    if block.block == "text":
        inner = f'<div class="words">{block.html}</div>'
    else:
        inner = (
            f'<section class="exhibit{" long" if block.block == "table" else ""}">'
            f'<h2 class="exhibit-title">{block.number} · {harmless(block.title)}</h2>'
            f"{_inside(block, drawing)}</section>"
        )
    odd = "".join(f'<p class="odd">{harmless(one)}</p>' for one in block.odd)
    margin = margin_html(block.sources, when)
    return f'<div class="piece"><aside class="margin">{margin}</aside><div class="body">{inner}{odd}</div></div>'


def _inside(block: BlockSeen, drawing: int | None) -> str:
    made = block.drawing
    if made is None:
        return block.html
    if made.draw == "figure":
        return _figures(made)
    table = drawing_table(made)
    if drawing is None:
        return f'<p class="quiet">{harmless(made.sentence)}</p>{table}'
    height = drawn_height(made)
    told = f"{harmless(made.sentence)} {other_date(made)}".strip()
    return (
        f'<div data-drawing="{drawing}" data-height="{height}"><p class="quiet">{harmless(made.sentence)}</p></div>'
        f'<p class="quiet">{told}</p>'
        f'<details class="figures-of"><summary>The figures as a table</summary>{table}</details>'
    )


def other_date(made: Drawing) -> str:
    """How the other date stands in a chart, in words; empty where it does not, or says so itself."""
    if made.draw == "figure" or not any(one.then for panel in made.panels for one in panel.series):
        return ""
    return "Thin: the other date." if made.draw == "line" else "Marked: the other date."


def drawn_height(made: Drawing) -> int:
    """How high a chart is drawn, in pixels: a few bars need little."""
    if made.draw != "bars" or len(made.panels) > 1:
        return _CHART_HEIGHT
    bars = len(made.panels[0].categories) if made.panels else 0
    return min(_CHART_HEIGHT, 70 + 38 * bars) if bars <= 6 else _CHART_HEIGHT


def _figures(made: Drawing) -> str:
    out = []
    for panel in made.panels:
        values = [one.y[0] for one in panel.series if not one.then]
        value = values[0] if values else None
        told = "–" if value is None else harmless(number_words(value, made.y[0].unit))
        then = next((one.y[0] for one in panel.series if one.then), None)
        change = ""
        if value is not None and then is not None:
            change = f' <span class="chg">{harmless(change_words(value, then, made.y[0].unit))}</span>'
        name = harmless(panel.name or made.y[0].name)
        out.append(f'<div><strong>{told}</strong>{change}<p class="quiet">{name}</p></div>')
    return f'<div class="figures">{"".join(out)}</div>'


def drawing_table(made: Drawing) -> str:
    """What is drawn, as a table."""
    several = len(made.panels) > 1
    named = any(one.name for panel in made.panels for one in panel.series)
    heads = (
        (["chart"] if several else []) + (["series"] if named else []) + [made.x.name or "of", _value_name(made.y[0])]
    )
    rows = []
    total = 0
    for panel in made.panels:
        for one in panel.series:
            for at, value in enumerate(one.y):
                if value is None:
                    continue
                total += 1
                if total > MOST_FIGURES:
                    continue
                cells = ([panel.name] if several else []) + (
                    [("then, " if one.then else "") + one.name] if named else []
                )
                axis = made.y[min(one.axis, len(made.y) - 1)]
                cells += [place_words(made.x, panel, one, at), number_words(value, axis.unit)]
                rows.append("".join(f"<td>{harmless(cell)}</td>" for cell in cells))
    head = "".join(f'<th scope="col">{harmless(name)}</th>' for name in heads)
    more = f'<p class="quiet">The first {MOST_FIGURES:,} of {total:,}.</p>' if total > MOST_FIGURES else ""
    body = "".join(f"<tr>{row}</tr>" for row in rows)
    return f'<div class="scroll"><table><thead><tr>{head}</tr></thead><tbody>{body}</tbody></table></div>{more}'


def _value_name(axis: Axis) -> str:
    return axis.name or axis.unit or "value"
