"""Whole numbers."""

from __future__ import annotations

from tin_bucket.core.columns.kind import ColumnKind, Convert
from tin_bucket.core.columns.reads import Reads

from .numbers import as_whole, without_comma


def _converter(reads: Reads) -> Convert | None:
    return (lambda value: as_whole(without_comma(value))) if reads.comma else None


KIND = ColumnKind(
    name="whole number",
    label="whole number",
    convert=as_whole,
    converter=_converter,
    of_types=(frozenset({int}),),
    read_with=("comma",),
    numeric=True,
)
