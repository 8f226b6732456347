"""Cells → the fields of CSV (RFC 4180 §2), a column at a time: most columns hold one kind of value, and few texts need
quotes."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from tin_bucket.core.columns.missing import Miss
from tin_bucket.feeds.options import DECIMALS, SEPARATORS, ExportOptions

_NUMBERS = {int, float}
_BARE = {*_NUMBERS, type(None)}  # What never needs quotes.


def fields_of(cells: Sequence[Any], types: set[type], options: ExportOptions) -> Sequence[str]:
    """The fields of some cells of a column.

    Args:
        types: of the cells.
    """
    texts = _texts(cells, types, DECIMALS[options.decimal])
    if options.quotes == "all":
        return list(map(_quoted, texts))
    if options.quotes == "texts":
        return [text if type(value) in _NUMBERS else _quoted(text) for text, value in zip(texts, cells, strict=True)]
    return texts if types <= _BARE else quoted_where_needed(texts, SEPARATORS[options.separator])


def quoted_where_needed(texts: Sequence[str], separator: str) -> Sequence[str]:
    """Texts, in quotes where they hold what parts fields or lines."""
    joined = "".join(texts)
    if not _needs_quotes(joined, separator):
        return texts
    return [_quoted(text) if _needs_quotes(text, separator) else text for text in texts]


def _needs_quotes(text: str, separator: str) -> bool:
    return '"' in text or separator in text or "\n" in text or "\r" in text


def _quoted(text: str) -> str:
    doubled = text.replace('"', '""')
    return f'"{doubled}"'


def _texts(cells: Sequence[Any], types: set[type], mark: str) -> Sequence[str]:
    """Cells as texts, which those of most columns are."""
    if types == {str}:
        return cells
    if types == {int}:
        return list(map(str, cells))
    if types == {str, type(None)}:
        return [value or "" for value in cells]
    if types <= _BARE and mark == ".":
        return ["" if value is None else repr(value) for value in cells]
    return [_text(value, mark) for value in cells]


def _text(value: Any, mark: str) -> str:
    if type(value) is float:
        return repr(value).replace(".", mark)
    if value is None or isinstance(value, Miss):
        return ""
    if value is True:
        return "true"
    if value is False:
        return "false"
    return str(value)
