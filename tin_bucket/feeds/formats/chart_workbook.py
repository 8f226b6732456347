"""A chart → a new workbook with its figures and a chart of the workbook's own (Office Open XML, ISO/IEC 29500,
DrawingML), which whoever gets it can change."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime
from typing import Any, BinaryIO

import xlsxwriter

from tin_bucket.core.chart.drawing import Axis, Drawing, Panel

from .workbook import sheet_name

COLOURS = (
    "#6B2A5F", "#2F5878", "#B07D00", "#7B8794", "#B45F93", "#5B93B8",
    "#6D5300", "#3D454F", "#CF9DC3", "#9FC0D6", "#D3B655", "#AEB6C0", "#5C6773",
)  # fmt: skip
_DAY = "yyyy-mm-dd"
_MOMENT = "yyyy-mm-dd hh:mm"
_WIDTH, _HEIGHT = 880, 420


def write_chart(made: Drawing, title: str, about: Sequence[tuple[str, str]], out: BinaryIO) -> None:
    """Write a workbook with a sheet of figures and a chart for each panel, and a sheet that says where they are from.

    Args:
        title: what stands over the chart.
        about: names and values of the last sheet.
    """
    book = new_book(out)
    taken: set[str] = set()
    add_chart(book, made, title, "Figures", taken)
    add_about(book, about, taken)
    book.close()


def new_book(out: BinaryIO) -> Any:
    """A new workbook in which texts stay texts, whatever they begin with."""
    return xlsxwriter.Workbook(out, {"in_memory": True, "strings_to_formulas": False, "strings_to_urls": False})


def own_sheet(book: Any, words: str, taken: set[str]) -> tuple[Any, str]:
    """A sheet with a name of its own.

    Args:
        taken: the names that there are, in lower case; it is one of them from now on.
    """
    number = 1
    name = sheet_name(words, number)
    while name.casefold() in taken:
        number += 1
        name = sheet_name(words, number)
    taken.add(name.casefold())
    return book.add_worksheet(name), name


def add_chart(book: Any, made: Drawing, title: str, words: str, taken: set[str]) -> None:
    """Add a sheet of figures and a chart for each panel.

    Args:
        words: what a sheet is called whose panel has no name.
    """
    bold = book.add_format({"bold": True})
    dates = {"day": book.add_format({"num_format": _DAY}), "time": book.add_format({"num_format": _MOMENT})}
    for panel in made.panels:
        sheet, name = own_sheet(book, panel.name or words, taken)
        places = _figures(sheet, made, panel, bold, dates)
        if made.draw != "figure" and panel.series:
            chart = _chart(book, made, panel, name, places, f"{title}: {panel.name}" if panel.name else title)
            sheet.insert_chart(1, 2 + max(place[2] for place in places), chart)


def add_about(book: Any, about: Sequence[tuple[str, str]], taken: set[str]) -> None:
    """Add the sheet that says where a workbook is from.

    Args:
        about: its names and values.
    """
    bold = book.add_format({"bold": True})
    last, _ = own_sheet(book, "About", taken)
    for row, (key, value) in enumerate(about):
        last.write_string(row, 0, key, bold)
        last.write_string(row, 1, value)
    last.set_column(0, 0, 18)
    last.set_column(1, 1, 90)


def _figures(sheet: Any, made: Drawing, panel: Panel, bold: Any, dates: dict[str, Any]) -> list[tuple[int, int, int]]:
    """Write the figures of a panel; gives of each series its first column, its rows, and its last column."""
    places = []
    if made.x.kind == "category":
        sheet.write_string(0, 0, made.x.name or "of", bold)
        for row, name in enumerate(panel.categories, 1):
            sheet.write_string(row, 0, name)
        for at, one in enumerate(panel.series, 1):
            name = one.name or _named(made.y[one.axis])
            sheet.write_string(0, at, f"then, {name}" if one.then else name, bold)
            _column(sheet, at, one.y)
            places.append((0, len(panel.categories), at))
        return places
    for at, one in enumerate(panel.series):
        left = at * 2
        own = one.x[:-1] if made.draw == "spread" else one.x
        x_name = f"{_named(made.x)}, from" if made.draw == "spread" else _named(made.x)
        sheet.write_string(0, left, x_name + (", UTC" if made.x.kind == "time" else ""), bold)
        name = one.name or _named(made.y[one.axis])
        sheet.write_string(0, left + 1, f"then, {name}" if one.then else name, bold)
        for row, x in enumerate(own, 1):
            if made.x.kind in dates:
                moment = datetime.fromtimestamp(x / 1000, UTC).replace(tzinfo=None)
                sheet.write_datetime(row, left, moment, dates[made.x.kind])
            else:
                sheet.write_number(row, left, x)
        _column(sheet, left + 1, one.y)
        sheet.set_column(left, left, 17)
        places.append((left, len(own), left + 1))
    return places


def _column(sheet: Any, at: int, values: Sequence[float | None]) -> None:
    for row, value in enumerate(values, 1):
        if value is not None:
            sheet.write_number(row, at, value)


def _chart(book: Any, made: Drawing, panel: Panel, name: str, places: list[tuple[int, int, int]], title: str) -> Any:
    chart = book.add_chart(_kind(made, panel))
    for at, (one, (first, rows, last)) in enumerate(zip(panel.series, places, strict=True)):
        colour = COLOURS[at % len(COLOURS)]
        series: dict[str, Any] = {
            "name": [name, 0, last],
            "categories": [name, 1, first, max(1, rows), first],
            "values": [name, 1, last, max(1, rows), last],
            "gap": 8 if made.draw == "spread" else 60,
        }
        if made.draw == "line":
            series |= {"line": {"color": colour, "width": 0.75 if one.then else 1.75}, "marker": {"type": "none"}}
        elif made.draw == "points":
            series |= {"marker": {"type": "circle", "size": 5, "fill": {"color": colour}, "border": {"none": True}}}
        else:
            series["fill"] = {"color": colour}
        if one.axis:
            series["y2_axis"] = True
        chart.add_series(series)
    chart.set_title({"name": title[:250], "name_font": {"size": 12}})
    along: dict[str, Any] = {"name": _named(made.x)}
    if made.x.kind in ("day", "time"):
        along |= {"num_format": _DAY if made.x.kind == "day" else _MOMENT}
        ends = [x for one in panel.series for x in (one.x[:1] + one.x[-1:])]
        if ends:
            along |= {"min": _serial(min(ends)), "max": _serial(max(ends))}
    chart.set_x_axis(along)
    chart.set_y_axis({"name": _named(made.y[0]), "major_gridlines": {"visible": True, "line": {"color": "#E3E6EA"}}})
    if len(made.y) > 1:
        chart.set_y2_axis({"name": _named(made.y[1])})
    if len(panel.series) < 2:
        chart.set_legend({"none": True})
    chart.show_blanks_as("gap")
    chart.set_size({"width": _WIDTH, "height": _HEIGHT})
    return chart


def _kind(made: Drawing, panel: Panel) -> dict[str, str]:
    if made.draw == "line":
        return {"type": "scatter", "subtype": "straight"}  # Along real numbers, as dates are.
    if made.draw == "points":
        return {"type": "scatter"}
    if made.draw == "bars" and len(panel.series) > 1 and made.stacked:
        return {"type": "column", "subtype": "stacked"}
    return {"type": "column"}


def _named(axis: Axis) -> str:
    return f"{axis.name}, {axis.unit}" if axis.unit and axis.name else axis.name or axis.unit or "value"


def _serial(milliseconds: float) -> float:
    """A moment as a workbook counts it: days since 1899-12-30 (ISO/IEC 29500-1 §18.17.4)."""
    return milliseconds / 86_400_000 + 25_569
