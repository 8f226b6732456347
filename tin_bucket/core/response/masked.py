"""An answer without the secrets that it may repeat."""

from __future__ import annotations

import codecs
from collections.abc import Iterable
from dataclasses import replace

from tin_bucket.core.formats.json import to_utf8
from tin_bucket.core.masking.scrub import scrub, scrub_problem, scrub_text
from tin_bucket.core.problem import ProblemError

from .response import Answer, charset_of

_WIDE = (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)


def _in_utf8(answer: Answer) -> Answer:
    """The answer with its text in UTF-8, so that secrets are looked for in the text and not in its bytes; unchanged
    where it is not of the charset that it states."""
    charset = charset_of(answer)
    if answer.headers.get("content-type", "").lower().startswith(("image/", "audio/", "video/", "font/")):
        return answer
    if charset.strip("\"' ").lower() in ("", "utf-8", "utf8", "us-ascii") and answer.body[:2] not in _WIDE:
        return answer
    try:
        body = to_utf8(answer.body, charset)
    except ProblemError:
        return answer
    kind = answer.headers.get("content-type", "").partition(";")[0] or "text/plain"
    return replace(answer, body=body, headers={**answer.headers, "content-type": f"{kind}; charset=utf-8"})


def masked_answer(answer: Answer, secrets: Iterable[str]) -> Answer:
    """The answer with every secret masked: in its body, its headers, its failure and its note. A body that is too large
    to be held is not looked at here."""
    known = list(secrets)
    if not known:
        return answer
    answer = _in_utf8(answer)
    return replace(
        answer,
        headers={scrub_text(name, known): scrub_text(value, known) for name, value in answer.headers.items()},
        body=scrub(answer.body, known),
        failure=None if answer.failure is None else scrub_problem(answer.failure, known),
        note=scrub_text(answer.note, known),
    )
