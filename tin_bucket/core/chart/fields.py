"""The fields that the forms of several charts have."""

from __future__ import annotations

from tin_bucket.core.choice import FormField, Option
from tin_bucket.core.work_out.figures import FIGURES

SERIES = FormField("series", "One colour for each", "column", placeholder="none")
EACH = FormField("each", "Small charts for each", "column", placeholder="none")
LOGARITHMIC = FormField("logarithmic", "Logarithmic scale", "yes", more=True)
REFERENCES = FormField("references", "Lines to hold against", "references", more=True)
_FIGURES = tuple(Option(one.key, one.label) for one in FIGURES if one.over_time)


def figure_field(label: str, none: str = "") -> FormField:
    """The figure of several rows; with `none` the option that takes each of them."""
    options = (Option("", none), *_FIGURES) if none else _FIGURES
    return FormField("figure", label, "code", options=options)
