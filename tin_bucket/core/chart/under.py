"""A chart with the same chart of another date under it, as thin lines."""

from __future__ import annotations

from dataclasses import replace

from .drawing import Drawing, Panel, Series

DRAWN = ("line", "bars", "spread", "figure")


_DAY = 86_400_000  # Milliseconds.


def laid_under(now: Drawing, then: Drawing, days: int = 0) -> Drawing:
    """A chart with what was drawn on another date under it. Points have no place that would stay; they are left out.
    A line over other times than those of now, such as last week's, is drawn later by the days between the two dates,
    and that is said.

    Args:
        then: the same chart of the other date.
        days: how many there are between the two dates.
    """
    if then.draw != now.draw:
        return now
    if now.draw not in DRAWN or now.stacked or (now.draw == "bars" and len(now.panels[0].series) > 1):
        return replace(now, notes=[*now.notes, "The other date is not drawn in it."])
    notes = list(now.notes)
    if days and now.draw == "line" and now.x.kind in ("time", "day") and not _overlap(now, then):
        then = _later(then, days)
        notes.append(f"The thin line of the other date is drawn {days:,} day{'' if days == 1 else 's'} later.")
    earlier = {panel.name: panel for panel in then.panels}
    panels = []
    for panel in now.panels:
        own = earlier.get(panel.name)
        series = [] if own is None else _fitted(now, panel, own)
        panels.append(Panel([*panel.series, *series], panel.name, panel.categories))
    return replace(now, panels=panels, notes=notes)


def _overlap(now: Drawing, then: Drawing) -> bool:
    """Whether most of the earlier times are among those of now."""
    times = [x for panel in now.panels for one in panel.series for x in one.x]
    earlier = [x for panel in then.panels for one in panel.series for x in one.x]
    if not times or not earlier:
        return True
    low, high = min(times), max(times)
    return sum(low <= x <= high for x in earlier) * 2 >= len(earlier)


def _later(then: Drawing, days: int) -> Drawing:
    panels = [
        Panel([replace(one, x=[x + days * _DAY for x in one.x]) for one in panel.series], panel.name, panel.categories)
        for panel in then.panels
    ]
    return replace(then, panels=panels)


def _fitted(now: Drawing, panel: Panel, then: Panel) -> list[Series]:
    names = {one.name for one in panel.series}
    out = []
    for one in then.series:
        if one.name not in names:
            continue
        if now.draw == "line":
            out.append(replace(one, rows=[-1] * len(one.y), then=True))
        elif now.draw == "figure":
            out.append(replace(one, then=True))
        elif now.draw == "bars":
            was = dict(zip(then.categories, one.y, strict=True))
            y = [was.get(name) for name in panel.categories]
            out.append(replace(one, y=y, rows=[-1] * len(y), then=True))
        elif one.x == next(own.x for own in panel.series if own.name == one.name):
            out.append(replace(one, rows=[-1] * len(one.y), then=True))
    return out
