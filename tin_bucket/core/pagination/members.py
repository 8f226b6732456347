"""The members of an answer that stand around its records, and what the names of some mean."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from itertools import islice
from typing import Any

from tin_bucket.core.formats.jsonpath import format_place

MORE_NAMES = {"hasmore", "more", "hasnext", "hasnextpage", "morepages", "ismore", "truncated", "istruncated"}


# What may be a mark of this page, or of the next one.
MARKS = {
    "nextcursor", "cursor", "nextpagetoken", "continuation", "continuationtoken", "endcursor", "nexttoken", "pagetoken",
    "scrollid", "after", "nextpage", "next", "marker", "nextmarker", "bookmark",
}  # fmt: skip


NEXT_ADDRESS = {"next", "nexturl", "nextpageurl", "nextlink", "nextpage", "nexthref", "nexturi"}


_DEPTH = 3


_MANY = 500


def flat_name(name: str) -> str:
    return re.sub(r"[^a-z]", "", name.lower())


def members(document: Any, records: Sequence[Any] = ()) -> Iterator[tuple[str, str, Any]]:
    """Flat name, place and value of the members of the outer objects, outer ones first; not those of `records`."""
    inside = {id(record) for record in records}
    level: list[tuple[tuple[str, ...], Any]] = [((), document)]
    for _ in range(_DEPTH):
        following = []
        for place, value in level:
            # Page information is among few members; very many are records by their ids.
            if not isinstance(value, dict) or id(value) in inside:
                continue
            for key, item in islice(value.items(), _MANY):
                if isinstance(key, str):
                    yield flat_name(key), format_place((*place, key)), item
                    following.append(((*place, key), item))
        level = following


def next_address_in(flat: str, place: str, value: Any) -> tuple[str, str] | None:
    """The place and the text of a next page's address, where a member is one: a text, or an object with ``href``."""
    target = value.get("href") if isinstance(value, dict) else value
    if flat not in NEXT_ADDRESS or not isinstance(target, str) or not re.match(r"https?://|/|\?", target):
        return None
    return (f"{place}.href" if isinstance(value, dict) else place), target


def shortened(text: str) -> str:
    address = re.sub(r"^https?://[^/?]+", "", text) or text
    return address if len(address) <= 48 else f"{address[:47]}…"
