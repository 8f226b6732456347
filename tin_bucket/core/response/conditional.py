"""Conditional requests (RFC 9110 §13): a call that says what is saved of it, and the answer that it did not change."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from email.utils import parsedate_to_datetime

from tin_bucket.core.request.call import Call

from .response import Answer

_CONDITIONS = {"if-none-match", "if-modified-since", "if-match", "if-unmodified-since", "range", "if-range"}
_OF_THE_BODY = ("content-", "transfer-encoding")  # A 304 has no body; what describes one is that of the saved answer.
_ETAG = re.compile(r'(?:W/)?"[^"\x00-\x20\x7f]*"')  # RFC 9110 §8.8.3


@dataclass(frozen=True, slots=True)
class Validators:
    """What a service said of the version of an answer; at least one of them.

    Attributes:
        etag: its entity tag, as it came.
        modified: when it was last modified, as it came.
    """

    etag: str = ""
    modified: str = ""


def validators_of(headers: Mapping[str, str]) -> Validators | None:
    """The validators of an answer that a later call may name; ``None`` when it has none that can be relied on.

    A time of modification that is not older than the answer itself is no proof: the next change may bear the same
    second (RFC 9110 §8.8.2.2). What varies by all that there is cannot be asked for so (§12.5.5), and what must not be
    stored is asked for anew (RFC 9111 §5.2.2.5).

    Args:
        headers: names in lower case.
    """
    if "*" in headers.get("vary", "") or "no-store" in headers.get("cache-control", "").lower():
        return None
    etag = headers.get("etag", "").strip()
    if not _ETAG.fullmatch(etag):
        etag = ""
    modified = headers.get("last-modified", "").strip()
    if modified and not etag:
        changed, sent = _moment(modified), _moment(headers.get("date", ""))
        if changed is None or sent is None or sent - changed < timedelta(seconds=1):
            modified = ""
    return Validators(etag, modified) if etag or modified else None


def may_be_conditional(call: Call) -> bool:
    """Whether a call can say what is saved of it: it only reads, and makes no condition of its own."""
    own = {name.lower() for name, _ in call.headers}
    return call.method == "GET" and call.body is None and not own & _CONDITIONS


def conditional(call: Call, validators: Validators) -> Call:
    """The call with If-None-Match and If-Modified-Since (RFC 9110 §13.1.2, §13.1.3)."""
    said = [("If-None-Match", validators.etag), ("If-Modified-Since", validators.modified)]
    return replace(call, headers=(*call.headers, *((name, value) for name, value in said if value)))


def unchanged(answer: Answer, saved: Answer) -> Answer:
    """The saved answer as a 304 freshens it: its body, with the headers that came now (RFC 9111 §4.3.4).

    Args:
        answer: the 304.
        saved: the answer that was saved, with its body.
    """
    now = {name: value for name, value in answer.headers.items() if not name.startswith(_OF_THE_BODY)}
    return replace(answer, status=saved.status, headers={**saved.headers, **now}, body=saved.body)


def _moment(text: str) -> datetime | None:
    try:
        return parsedate_to_datetime(text.strip())
    except ValueError:
        return None
