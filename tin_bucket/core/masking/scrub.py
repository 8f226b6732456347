"""Masks secrets in what comes back from a service."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import replace

from tin_bucket.core.problem import Problem

from .spellings import traces_of

MASKED = b"*" * 8
SHORTEST = 8  # A shorter secret may well be part of other words.
_LEAST = 4  # A still shorter one may well be a value by itself, and masking it would ruin the data unseen.
# What may belong to the first and the last characters of a secret in Base64.
_EDGE = re.compile(rb"[A-Za-z0-9+/_=-]{0,3}")


def scrub(data: bytes, secrets: Iterable[str]) -> bytes:
    """Mask secrets in bytes that came back from a service, in every spelling in which they may be echoed.

    A secret of four to seven characters is masked where it is a word of its own, a shorter one is left.
    """
    for secret in secrets:
        if len(secret) < _LEAST:
            continue
        if len(secret) < SHORTEST:
            word = re.escape(secret.encode("utf-8", "surrogateescape"))
            data = re.sub(rb"(?<![A-Za-z0-9_])" + word + rb"(?![A-Za-z0-9_])", MASKED, data)
            continue
        for trace in traces_of(secret):
            if trace.data in data:
                data = _with_edges(data, trace.data) if trace.partial else data.replace(trace.data, MASKED)
    return data


def scrub_text(text: str, secrets: Iterable[str]) -> str:
    """As :func:`scrub`, for text."""
    return scrub(text.encode("utf-8", "surrogateescape"), secrets).decode("utf-8", "surrogateescape")


def scrub_problem(problem: Problem, secrets: Iterable[str]) -> Problem:
    """A problem whose sentences may hold what a service sent."""
    known = list(secrets)
    return replace(
        problem,
        what=scrub_text(problem.what, known),
        where=scrub_text(problem.where, known),
        do=scrub_text(problem.do, known),
        words=scrub_text(problem.words, known),
    )


def holds_secret(text: str | bytes, secrets: Iterable[str]) -> bool:
    """Whether a text holds one of the secrets, in any spelling."""
    data = text if isinstance(text, bytes) else text.encode("utf-8", "surrogateescape")
    return any(trace.data in data for secret in secrets if secret for trace in traces_of(secret))


def longest_trace(secrets: Iterable[str]) -> int:
    """How many bytes a secret takes at most in an answer."""
    return max((len(traces_of(secret)[0].data) for secret in secrets if secret), default=0)


def _with_edges(data: bytes, trace: bytes) -> bytes:
    """The data without a trace in Base64, and without the characters beside it that may hold a part of the ends."""
    out, at = [], 0
    while (found := data.find(trace, at)) >= 0:
        start = max(at, found - 3)
        before = re.search(rb"[A-Za-z0-9+/_-]{0,3}\Z", data[start:found])
        after = _EDGE.match(data, found + len(trace))
        assert before is not None
        assert after is not None
        out += [data[at : start + before.start()], MASKED]
        at = after.end()
    return b"".join([*out, data[at:]])
