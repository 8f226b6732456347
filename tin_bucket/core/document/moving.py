"""Dates of an example that lie near today, and are most often meant to move with the calendar."""

from __future__ import annotations

from collections.abc import Collection
from datetime import date

from tin_bucket.core.request.parameters.models import DateParameter, RelativeDate
from tin_bucket.core.request.parameters.moment import Moment

from .query import Brief

_NEAR = 92  # Days: a quarter.


def near_dates(brief: Brief, moment: Moment) -> dict[str, str]:
    """How far the dates of a brief's parameters lie from today, where they are near.

    Returns:
        Parameter name → ISO 8601 duration in days, such as ``-P7D``.
    """
    out = {}
    for parameter in brief.parameters:
        if isinstance(parameter, DateParameter) and isinstance(parameter.default, date):
            days = (parameter.default - moment.today(parameter.zone)).days
            if abs(days) <= _NEAR:
                out[parameter.name] = f"{'-' if days < 0 else ''}P{abs(days)}D"
    return out


def move_dates(brief: Brief, names: Collection[str], moment: Moment) -> Brief:
    """A brief in which the near dates of some parameters move with the calendar: today they are what they were."""
    near = near_dates(brief, moment)
    parameters = [
        parameter.model_copy(update={"default": RelativeDate(offset=near[parameter.name])})
        if parameter.name in names and parameter.name in near
        else parameter
        for parameter in brief.parameters
    ]
    return brief.model_copy(update={"parameters": parameters})
