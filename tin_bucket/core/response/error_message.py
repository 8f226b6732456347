"""The API's own words in an error document."""

from __future__ import annotations

from typing import Any

_KEYS = ("message", "detail", "error_description", "error", "title", "reason", "description", "errors", "fault", "msg")


def api_words_in(value: Any, depth: int = 0) -> str:
    """The explanation in a JSON value; empty when there is none. Reads problem details (RFC 9457 §3.1) and what is
    usual."""
    if isinstance(value, str):
        return " ".join(value.split())
    if depth > 4:
        return ""
    if isinstance(value, list):
        return next((words for item in value[:5] if (words := api_words_in(item, depth + 1))), "")
    if isinstance(value, dict):
        lower = {key.lower(): item for key, item in value.items() if isinstance(key, str)}
        return next((words for key in _KEYS if key in lower and (words := api_words_in(lower[key], depth + 1))), "")
    return ""
