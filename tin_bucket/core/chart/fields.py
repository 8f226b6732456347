"""The fields that the forms of several charts have."""

from __future__ import annotations

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.work_out.figures import FIGURES

SERIES = FormField("series", "One colour for each", "column", placeholder="none")
EACH = FormField("each", "Small charts for each", "column", placeholder="none")
SCALE = (
    FormField("logarithmic", "Logarithmic scale", "yes", more=True),
    FormField("references", "Lines to hold against", "references", more=True),
)
_FIGURES = tuple(Option(one.key, one.label) for one in FIGURES if one.over_time)
OF_COLUMN = tuple(one.key for one in FIGURES if one.over_time and one.column)
"""The figures that are of a column."""


def figure_field(label: str, none: str = "") -> FormField:
    """The figure of several rows; with `none` the option that takes each of them."""
    options = (Option("", none), *_FIGURES) if none else _FIGURES
    return FormField("figure", label, "code", options=options)
