"""What APIs call the parameters that ask for another page, and how often each is met: the weights of a kind are
relative to each other."""

from __future__ import annotations

import re

NUMBER = {
    "page": 40, "pageNumber": 6, "page_number": 6, "p": 5, "pageNo": 4, "page_no": 4, "pageNum": 3, "page_num": 3,
    "pg": 3, "pageIndex": 3, "page_index": 2, "currentPage": 2, "current_page": 2, "page[number]": 2, "PageNumber": 1,
    "Page": 1, "pagenum": 1, "paged": 1,
}  # fmt: skip
OFFSET = {
    "offset": 30, "skip": 10, "start": 8, "startAt": 4, "start_at": 3, "startIndex": 4, "start_index": 3, "from": 4,
    "$skip": 3, "from_row": 2, "fromRow": 1, "startRow": 2, "start_row": 2, "page[offset]": 1, "firstResult": 1,
    "begin": 1, "Offset": 1, "row": 1,
}  # fmt: skip
SIZE = {
    "limit": 30, "per_page": 12, "pageSize": 10, "page_size": 10, "size": 8, "count": 5, "perPage": 4, "max_results": 3,
    "maxResults": 4, "rows": 3, "top": 2, "$top": 2, "page[size]": 2, "pagesize": 2, "page_limit": 1, "PageSize": 1,
    "resultsPerPage": 1, "results": 1,
    "first": 2,
}  # fmt: skip
LAST = {
    "since_id": 8, "after_id": 8, "last_id": 8, "after": 8, "starting_after": 8, "start_after": 3, "startAfter": 3,
    "lastId": 3, "afterId": 3, "sinceId": 3, "from_id": 2, "min_id": 2, "max_id": 3, "before_id": 2, "before": 2,
    "since": 2, "last_key": 1, "exclusive_start_key": 1,
}  # fmt: skip
CURSOR = {
    "cursor": 30, "after": 14, "page_token": 10, "pageToken": 10, "continuation": 6, "continuationToken": 6,
    "continuation_token": 6, "starting_after": 5, "next_token": 4, "nextToken": 4, "scroll_id": 4, "scrollId": 3,
    "marker": 4, "token": 3, "bookmark": 3, "next_cursor": 3, "nextCursor": 3, "next": 3, "startingAfter": 2,
    "page[after]": 2, "page[cursor]": 2, "pageCursor": 1, "page_cursor": 1, "startCursor": 1, "start_cursor": 1,
    "$skiptoken": 2, "position": 1, "from": 1, "start": 1, "since": 1, "page": 2, "offset": 1, "nextPageToken": 1,
}  # fmt: skip


def names_of_mark(place: str) -> dict[str, float]:
    """Names that a mark may be asked with, those made of its own place first.

    Args:
        place: where the mark stands, such as ``$.meta.nextPageToken`` or ``header:x-next-cursor``.
    """
    last = re.split(r"[.:]", place.replace("['", ".").replace("']", ""))[-1].removeprefix("x-").removeprefix("X-")
    found: dict[str, float] = {}
    words = last.replace("-", "_")
    # nextPageToken → pageToken; next_cursor → cursor; endCursor → cursor.
    short = re.sub(r"^(next|end|last)_?", "", words, flags=re.IGNORECASE)
    short = short[:1].lower() + short[1:] if short and words[:1].islower() else short
    for name, weight in ((short, 30.0), (words, 10.0)):
        if name and name.lower() not in ("next", "end", "last"):
            found[name] = max(found.get(name, 0), weight)
    other = _other_style(short)
    if other:
        found.setdefault(other, 8.0)
    for name, weight in CURSOR.items():
        found[name] = found.get(name, 0) + weight
    return found


def _other_style(name: str) -> str:
    """page_token → pageToken, and the other way round; empty where there is none."""
    if "_" in name:
        return re.sub(r"_([a-z])", lambda found: found[1].upper(), name)
    parted = re.sub(r"(?<=[a-z])([A-Z])", lambda found: f"_{found[1].lower()}", name)
    return parted if parted != name else ""
