"""A refusal that speaks of an allowance and not of the key: some services answer 403 where RFC 6585 §4 has 429."""

from __future__ import annotations

import re

from .response import Answer

_WORDS = re.compile(
    r"\bquota|\brate[ -]?limit|\btoo many (?:requests|calls)|\bthrottl|\busage limit"
    r"|\b(?:daily|hourly|monthly|weekly|request|call|api|plan) (?:limit|allowance)"
    r"|\b(?:limit|allowance)\b[^.]{0,40}\b(?:exceeded|reached|used up|exhausted)"
    r"|\b(?:exceeded|reached|exhausted|used up)\b[^.]{0,40}\b(?:limit|allowance)",
    re.IGNORECASE,
)


def says_allowance(answer: Answer, words: str) -> bool:
    """Whether an answer of status 403 says that an allowance is used up.

    Args:
        words: the service's own.
    """
    if answer.status != 403:
        return False
    headers = answer.headers
    if headers.get("retry-after", "").strip():
        return True
    left = next((headers[name] for name in headers if name.endswith("ratelimit-remaining")), "")
    return left.strip() == "0" or _WORDS.search(words) is not None
