"""Tokens: how one is got (a generator that yields the sign-in call), and how long it lives."""

from __future__ import annotations

import base64
from collections.abc import Generator, Mapping
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from typing import Any

from tin_bucket.core.formats.durations import parse_duration
from tin_bucket.core.formats.json import parse_json
from tin_bucket.core.formats.jsonpath import pick
from tin_bucket.core.masking.looks import hidden
from tin_bucket.core.problem import ProblemError, fail
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.classify import classify
from tin_bucket.core.response.masked import masked_answer
from tin_bucket.core.response.response import Answer

from .credentials import Key
from .sign import MASK
from .source import KeySourceModel

_MARGIN = timedelta(seconds=30)


@dataclass(frozen=True, slots=True)
class Token:
    """A token and the moment of its end, if it has one. Its text never shows in a representation."""

    text: str
    ends: datetime | None = None

    def __repr__(self) -> str:
        return f"Token(••••, ends={self.ends})"

    def fresh(self, now: datetime) -> bool:
        """Whether it may still be sent."""
        return self.ends is None or now < self.ends


def renew_at(now: datetime, ends: datetime) -> datetime:
    """When a token that ends then is renewed: half a minute before, or a tenth of its life for a short-lived one,
    so that no call carries a dead one."""
    return ends - min(_MARGIN, (ends - now) / 10)


def get_token(key: Key, base: str, secret: Mapping[str, str], now: datetime) -> Generator[Call, Answer, Token]:
    """Get a token.

    Yields:
        the sign-in call, with the secret on it; it is sent the answer.

    Raises:
        ProblemError: ``key-refused`` where the answer says that id, user or password are wrong, ``token-missing``
            where there is no token in it, or what else the answer is.
    """
    source = key.source
    call = source.token_call(key.name, key.token_address(base) or base, secret)
    answer = yield call
    where = f"{call.method} {sign_in_shown(key, base).address.split('?')[0]}"
    # What is said of the answer may repeat what was sent; the token is taken from the answer as it came.
    verdict = classify(masked_answer(answer, hidden(secret)))
    if verdict.problem is not None:
        refused = answer.status in (400, 401, 403)
        raise fail(
            "key-refused" if refused else verdict.problem.kind,
            f"Signing in with the key “{key.name}” failed: {verdict.problem.what}",
            where=where,
            do="Enter a valid key; everything that uses it then works again." if refused else verdict.problem.do,
            words=verdict.problem.words,
        )
    document = classify(answer).document
    place = source.token_place
    found = pick(document, place).values
    if not found or not isinstance(found[0], str | int) or found[0] == "":
        masked = verdict.document
        have = ", ".join(list(masked)[:12]) if isinstance(masked, dict) else "no members"
        raise fail(
            "token-missing",
            f"The answer to the sign-in has no token at {place}.",
            where=where,
            do=f"Correct the place of the token in the service. The answer has: {have}.",
        )
    text = str(found[0])
    ends = _end(source, document, text, now)
    return Token(text, None if ends is None else renew_at(now, ends))


def sign_in_shown(key: Key, base: str) -> Call:
    """The sign-in call as it is kept and shown: what it carries of the key is masked."""
    blank = dict.fromkeys(key.required_fields(), "KEYWASHERE")
    call = key.source.token_call(key.name, key.token_address(base) or base, blank)
    headers = tuple(
        (name, f"{value.split()[0]} {MASK}" if name.lower() == "authorization" else _hidden(value))
        for name, value in call.headers
    )
    body = None if call.body is None else _hidden(call.body.decode()).encode()
    return replace(call, address=_hidden(call.address), headers=headers, body=body)


def _hidden(text: str) -> str:
    return text.replace("KEYWASHERE", MASK)


def _end(source: KeySourceModel, document: Any, text: str, now: datetime) -> datetime | None:
    place = source.life_place
    found = pick(document, place).values if place else []
    if found and (told := _told_end(found[0], now)) is not None:
        return told
    if (own := stated_end(text)) is not None:
        return own
    if source.life_when_unknown is not None:
        span = parse_duration(source.life_when_unknown)
        return now + timedelta(days=span.days + 30 * span.months, seconds=span.seconds)
    return None


def _told_end(value: Any, now: datetime) -> datetime | None:
    """The end of a token from what an answer says: seconds to live, seconds since 1970, or a moment."""
    try:
        if isinstance(value, str) and not value.replace(".", "", 1).isdigit():
            moment = datetime.fromisoformat(value)
            return moment if moment.tzinfo else moment.replace(tzinfo=UTC)
        seconds = float(value)
        if seconds > 1e11:
            seconds /= 1000
        return datetime.fromtimestamp(seconds, UTC) if seconds > 1e9 else now + timedelta(seconds=seconds)
    except (ValueError, TypeError, OverflowError, OSError):
        return None


def stated_end(text: str) -> datetime | None:
    """The end that a JSON Web Token states itself (RFC 7519 §4.1.4), or ``None``. Its signature is not checked."""
    parts = text.strip().split(".")
    if len(parts) != 3:
        return None
    try:
        claims = parse_json(base64.urlsafe_b64decode(parts[1] + "=" * (-len(parts[1]) % 4)))
        ends = claims.get("exp") if isinstance(claims, dict) else None
        return datetime.fromtimestamp(float(ends), UTC) if ends is not None else None
    except (ValueError, TypeError, OverflowError, OSError, ProblemError):
        return None
