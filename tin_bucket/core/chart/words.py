"""What a chart shows, in a sentence: for those who do not see it, and beside the picture."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime

from .drawing import Axis, Drawing, Panel, Series


@dataclass(frozen=True, slots=True)
class _Mark:
    """A mark of a drawing: its value, and where it stands."""

    value: float
    series: str
    panel: str
    place: str


def sentence(made: Drawing) -> str:
    """What the chart shows: what is drawn, how much of it, and where the lowest and the highest stand."""
    if made.draw == "figure":
        return _of_figures(made)
    marks = list(_marks(made))
    axis = made.y[0]
    if not marks:
        return f"{_what(made) or 'The chart'}: there is nothing to draw."
    names = {one.name for panel in made.panels for one in panel.series if one.name}
    parts = [heading(made)]
    if len(names) > 1:
        parts.append(f"{len(names):,} {'lines' if made.draw == 'line' else 'kinds'}")
    if len(made.panels) > 1:
        parts.append(f"{len(made.panels):,} small charts")
    low, high = min(marks, key=lambda one: one.value), max(marks, key=lambda one: one.value)
    if low.value == high.value:
        return f"{', '.join(parts)}: {_number(low.value, axis)} throughout."
    told = f"{', '.join(parts)}. Lowest: {_told(low, axis)}; highest: {_told(high, axis)}."
    return told


def heading(made: Drawing) -> str:
    """What is drawn: “mean delay by departs”."""
    what = _what(made)
    return f"{what} by {made.x.name}" if made.x.name else what


def _what(made: Drawing) -> str:
    names = (one.name for panel in made.panels for one in panel.series if one.name)
    return made.y[0].name or ", ".join(dict.fromkeys(names))


def _of_figures(made: Drawing) -> str:
    axis = made.y[0]
    values = [(panel.name, panel.series[0].y[0]) for panel in made.panels]
    if len(values) == 1:
        value = values[0][1]
        return f"{axis.name}: {'nothing' if value is None else _number(value, axis)}."
    found = ", ".join(f"{name} {'nothing' if value is None else _number(value, axis)}" for name, value in values)
    return f"{axis.name}: {found}."


def _marks(made: Drawing) -> Iterator[_Mark]:
    for panel in made.panels:
        for one in panel.series:
            if one.axis or one.then:
                continue  # Numbers of another unit, or of another date, are not held against these.
            for at, value in enumerate(one.y):
                if value is not None:
                    yield _Mark(value, one.name, panel.name, place_words(made.x, panel, one, at))


def place_words(axis: Axis, panel: Panel, series: Series, at: int) -> str:
    """Where a mark stands along the first axis."""
    if axis.kind == "category":
        return panel.categories[at]
    if axis.kind == "number":
        unit = f" {axis.unit}" if axis.unit else ""
        return f"{series.x[at]:,.6g}{unit}"
    moment = datetime.fromtimestamp(series.x[at] / 1000, UTC)
    return (
        f"{moment:%Y-%m-%d}"
        if axis.kind == "day" or not (moment.hour or moment.minute)
        else f"{moment:%Y-%m-%d %H:%M} UTC"
    )


def _told(mark: _Mark, axis: Axis) -> str:
    where = ", ".join(filter(None, (mark.series, mark.panel, mark.place)))
    return f"{_number(mark.value, axis)} ({where})"


def _number(value: float, axis: Axis) -> str:
    text = f"{value:,.0f}" if float(value).is_integer() and abs(value) < 1e15 else f"{value:,.4g}"
    return f"{text} {axis.unit}".rstrip()
