"""The headers of live addresses: how old a table is, whether it is complete, and whether a reader has it already."""

from __future__ import annotations

import hashlib
from datetime import datetime
from email.utils import format_datetime, parsedate_to_datetime

from starlette.datastructures import Headers

from tin_bucket.engine.hand_over.live import LiveTable


def entity_tag(table: LiveTable, *also: object) -> str:
    """The tag of what a reader gets (RFC 9110 §8.8.3): another one for each content."""
    told = repr((table.source.key, table.query.brief_id, *also)).encode("utf-8", "replace")
    return f'"{hashlib.blake2b(told, digest_size=12).hexdigest()}"'


def table_headers(table: LiveTable, tag: str, now: datetime) -> dict[str, str]:
    """How old the table is, whether it is complete, and where it is from."""
    headers = {
        "ETag": tag,
        "Last-Modified": format_datetime(table.taken.astimezone(tz=now.tzinfo), usegmt=True),
        "Age": str(max(0, int((now - table.taken).total_seconds()))),
        "Cache-Control": "private, no-cache",
        "Table-State": table.state,
        "Vary": "Authorization, Accept, Accept-Encoding",
    }
    if table.snapshot is not None:
        run = table.snapshot.run_id
        headers["Link"] = f'</#/query/{table.query.id}>; rel="describedby", </#/runs?run={run}>; rel="via"'
    return headers


def is_known(headers: Headers, tag: str, taken: datetime) -> bool:
    """Whether a reader has just this already (RFC 9110 §13.1): its tag matches, or without one its date."""
    tags = headers.get("if-none-match")
    if tags is not None:
        return tags.strip() == "*" or tag in [one.strip().removeprefix("W/") for one in tags.split(",")]
    since = headers.get("if-modified-since")
    if since is None:
        return False
    try:
        return taken.replace(microsecond=0) <= parsedate_to_datetime(since)
    except (TypeError, ValueError):
        return False
