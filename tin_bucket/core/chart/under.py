"""A chart with the same chart of another date under it, as thin lines."""

from __future__ import annotations

from dataclasses import replace

from .drawing import Drawing, Panel, Series

DRAWN = ("line", "bars", "spread")


def laid_under(now: Drawing, then: Drawing) -> Drawing:
    """A chart with what was drawn on another date under it. Points have no place that would stay; they are left out.

    Args:
        then: the same chart of the other date.
    """
    if then.draw != now.draw:
        return now
    if now.draw not in DRAWN or now.stacked or (now.draw == "bars" and len(now.panels[0].series) > 1):
        return now if now.draw == "figure" else replace(now, notes=[*now.notes, "The other date is not drawn in it."])
    earlier = {panel.name: panel for panel in then.panels}
    panels = []
    for panel in now.panels:
        own = earlier.get(panel.name)
        series = [] if own is None else _fitted(now, panel, own)
        panels.append(Panel([*panel.series, *series], panel.name, panel.categories))
    return replace(now, panels=panels)


def _fitted(now: Drawing, panel: Panel, then: Panel) -> list[Series]:
    names = {one.name for one in panel.series}
    out = []
    for one in then.series:
        if one.name not in names:
            continue
        if now.draw == "line":
            out.append(replace(one, rows=[-1] * len(one.y), then=True))
        elif now.draw == "bars":
            was = dict(zip(then.categories, one.y, strict=True))
            y = [was.get(name) for name in panel.categories]
            out.append(replace(one, y=y, rows=[-1] * len(y), then=True))
        elif one.x == next(own.x for own in panel.series if own.name == one.name):
            out.append(replace(one, rows=[-1] * len(one.y), then=True))
    return out
