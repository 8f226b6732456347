"""Errors inside an answer whose status says that all is well."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import Field, field_validator

from tin_bucket.core.base import Part
from tin_bucket.core.formats.json import json_text
from tin_bucket.core.formats.jsonpath import known_path, pick
from tin_bucket.core.problem import Problem

from .error_message import api_words_in

_ERRORS = ("error", "errors", "fault", "exception")
_FLAGS = ("ok", "success", "succeeded")
_STATUS = ("error", "fail", "failed", "failure")


class ErrorRule(Part):
    """A service's own rule: an answer is an error, or comes with a warning, when something stands at a place."""

    at: str = Field(description="JSONPath; an error when it finds something that is not empty, false, 0 or null")
    warns: bool = Field(default=False, description="whether it is a warning: its message is shown, and the rows stay")
    words: str | None = Field(default=None, description="JSONPath to the service's words; looked for when absent")

    _paths = field_validator("at", "words")(known_path)


def error_inside(document: Any, error_rules: Sequence[ErrorRule] = ()) -> Problem | None:
    """The error that an answer of status 2xx holds, by the service's own rules, else by what is usual.

    Without a rule only an answer that holds nothing else is taken for an error: one that says “no” (``ok`` or
    ``success`` is false, ``status`` is ``error``) or has an error, beside no list and no object with anything in it.
    """
    own = [rule for rule in error_rules if not rule.warns]
    for rule in own:
        found = _found(document, rule)
        if found:
            return _problem(_words(document, rule, found), f"by the service's rule {rule.at}")
    if own or not isinstance(document, dict):
        return None
    lower = {key.lower(): value for key, value in document.items() if isinstance(key, str)}
    errors = [key for key in _ERRORS if not _empty(lower.get(key))]
    denies = any(lower.get(key) is False for key in _FLAGS)
    status = lower.get("status")
    fails = isinstance(status, str) and status.lower() in _STATUS
    holds = any(isinstance(value, dict | list) and value for key, value in lower.items() if key not in _ERRORS)
    if (errors or denies or fails) and not holds:
        told = [lower[key] for key in errors]
        words = api_words_in(told) or api_words_in(document)
        return _problem(words or json_text(document), "")
    return None


def warnings_inside(document: Any, error_rules: Sequence[ErrorRule]) -> tuple[str, ...]:
    """The messages of an answer that a service's rules take for warnings, each at most 300 characters."""
    out = []
    for rule in error_rules:
        found = _found(document, rule) if rule.warns else []
        if found:
            out.append(" ".join(_words(document, rule, found).split())[:300])
    return tuple(out)


def warning_words(words: str) -> str:
    """A warning as it is told."""
    return f"The service warns: “{words}”."


def _found(document: Any, rule: ErrorRule) -> list[Any]:
    return [value for value in pick(document, rule.at).values if not _empty(value)]


def _words(document: Any, rule: ErrorRule, found: list[Any]) -> str:
    told = pick(document, rule.words).values if rule.words else found
    return api_words_in(told) or (api_words_in(document) if not rule.warns else "") or json_text(found[0])


def _empty(value: Any) -> bool:
    return value is None or value is False or value in ("", 0) or (isinstance(value, list | dict) and not value)


def _problem(words: str, why: str) -> Problem:
    return Problem(
        "error-inside",
        "The answer contains an error, although its status reports success" + (f" ({why})" if why else "") + ".",
        do="Read its message; often a parameter or the key is wrong. Error rules are set on the service.",
        words=" ".join(words.split())[:300],
    )
