"""Masks secrets in what comes back from a service."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from functools import lru_cache

from tin_bucket.core.problem import Problem

from .mixture import HINT, escapes_of, has_escapes, longest_mixture, mixture_of
from .spellings import SPELLINGS, traces_of

MASKED = b"*" * 8
# What UTF-16 puts between letters, as it is or as JSON writes it, and JSON within JSON.
_ZEROS = [re.compile(rb"\0|%%(?:25)*00|&(?:amp;)*#0;|\\{%d}u0000" % backslashes) for backslashes in (1, 2, 4)]
SHORTEST = 8  # A shorter secret may well be part of other words.
_LEAST = 4  # A still shorter one may well be a value by itself, and masking it would ruin the data unseen.
# What may belong to the first and the last characters of a secret in Base64.
_EDGE = rb"(?:%[0-9A-Fa-f]{2}|&#\w{1,7};?|\\{1,8}u[0-9A-Fa-f]{4}|[A-Za-z0-9+/_=-]){0,3}"
_EDGE_AFTER, _EDGE_BEFORE, _EDGE_LENGTH = re.compile(_EDGE), re.compile(_EDGE + rb"\Z"), 10


def scrub(data: bytes, secrets: Iterable[str]) -> bytes:
    """Mask secrets in bytes that came back from a service, in every spelling in which they may be echoed.

    A secret of four to seven characters is masked where it is a word of its own, a shorter one is left. What UTF-16
    puts between letters is left out of an answer in which a secret stands so.
    """
    known = list(secrets)
    data = _scrubbed(data, known)
    for letters in _without_zeros(data):
        masked = _scrubbed(letters, known)
        if masked != letters:
            return masked
    return data


def _without_zeros(data: bytes) -> Iterator[bytes]:
    """The data without what UTF-16 puts between letters, where there is any. JSON within JSON doubles the backslash
    before it, and one that belongs to the text must stay."""
    if any(zero in data for zero in (b"\0", b"u0000", b"%00", b"%2500", b"#0;")):
        for zero in _ZEROS:
            yield zero.sub(b"", data)


def _scrubbed(data: bytes, secrets: Iterable[str]) -> bytes:
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
        if has_escapes(data):
            data = _without(data, _mixtures(secret).spans(data))
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
    known = [secret for secret in secrets if secret]
    return any(_stands_in(one, known) for one in (data, *_without_zeros(data)))


def _stands_in(data: bytes, secrets: Iterable[str]) -> bool:
    escaped = has_escapes(data)
    return any(
        any(trace.data in data for trace in traces_of(secret)) or (escaped and bool(_mixtures(secret).spans(data)))
        for secret in secrets
    )


def longest_trace(secrets: Iterable[str]) -> int:
    """How many bytes a secret takes at most in an answer."""
    return max(
        (max(len(traces_of(secret)[0].data), longest_mixture(secret) * 2) for secret in secrets if secret), default=0
    )


@dataclass(frozen=True, slots=True)
class _Mixtures:
    """What a secret is where some of its characters are escaped.

    Attributes:
        escape: any character of it, escaped: where there is none, there is no mixture.
        whole: the secret, or (as the group ``encoded``) what of it surely stands in Base64.
        reach: how many bytes a mixture takes at most.
    """

    escape: re.Pattern[bytes]
    whole: re.Pattern[bytes]
    reach: int

    def spans(self, data: bytes) -> list[tuple[int, int]]:
        """Where mixtures stand. Only what lies near an escape is looked at, which makes this fast."""
        out: list[tuple[int, int]] = []
        for start, end in self._likely(data):
            for found in self.whole.finditer(data, start, end):
                out.append(_widened(data, *found.span()) if found["encoded"] is not None else found.span())
        return out

    def _likely(self, data: bytes) -> Iterator[tuple[int, int]]:
        """What lies near an escape, the stretches that overlap put together."""
        start, end = 0, -1
        for hint in HINT.finditer(data):
            escape = self.escape.match(data, hint.start())
            if escape is None:
                continue
            if escape.start() - self.reach > end:
                if end >= 0:
                    yield start, end
                start = max(0, escape.start() - self.reach)
            end = escape.end() + self.reach
        if end >= 0:
            yield start, end


@lru_cache(maxsize=256)
def _mixtures(secret: str) -> _Mixtures:
    inner = {
        trace for one in SPELLINGS if one.partial for trace in one.traces(secret.encode("utf-8", "surrogateescape"))
    }
    encoded = [trace.decode() for trace in sorted(inner, key=len, reverse=True)]
    patterns = b"|".join(map(mixture_of, encoded)) or b"(?!)"
    return _Mixtures(
        re.compile(escapes_of("".join([secret, *encoded]))),
        re.compile(mixture_of(secret) + b"|(?P<encoded>" + patterns + b")"),
        max(map(longest_mixture, [secret, *encoded])),
    )


def _widened(data: bytes, start: int, end: int) -> tuple[int, int]:
    """The span of a trace in Base64, with the characters beside it that may hold a part of the ends."""
    before = _EDGE_BEFORE.search(data, max(0, start - 3 * _EDGE_LENGTH), start)
    after = _EDGE_AFTER.match(data, end)
    assert before is not None
    assert after is not None
    return before.start(), after.end()


def _without(data: bytes, spans: list[tuple[int, int]]) -> bytes:
    """The data with a mask in the place of each span, in order."""
    out, at = [], 0
    for start, end in spans:
        out += [data[at : max(at, start)], MASKED]
        at = max(at, end)
    return b"".join([*out, data[at:]])


def _with_edges(data: bytes, trace: bytes) -> bytes:
    """The data without a trace in Base64, and without the characters beside it that may hold a part of the ends."""
    spans, at = [], 0
    while (found := data.find(trace, at)) >= 0:
        spans.append(_widened(data, found, found + len(trace)))
        at = spans[-1][1]
    return _without(data, spans)
