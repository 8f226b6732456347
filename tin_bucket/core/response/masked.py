"""An answer without the secrets that it may repeat."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from tin_bucket.core.masking.scrub import scrub, scrub_problem, scrub_text

from .response import Answer


def masked_answer(answer: Answer, secrets: Iterable[str]) -> Answer:
    """The answer with every secret masked: in its body, its headers, its failure and its note. A body that is too large
    to be held is not looked at here."""
    known = list(secrets)
    if not known:
        return answer
    return replace(
        answer,
        headers={scrub_text(name, known): scrub_text(value, known) for name, value in answer.headers.items()},
        body=scrub(answer.body, known),
        failure=None if answer.failure is None else scrub_problem(answer.failure, known),
        note=scrub_text(answer.note, known),
    )
