"""Calls that hold more than a service takes: told from other refusals, so that less is asked for in one call."""

from __future__ import annotations

import re

from tin_bucket.core.problem import Problem

_TOO_MANY = re.compile(
    r"too (?:many|long|large)|(?:maximum|at most|no more than|up to|limited to|exceed\w*)\b.{0,40}"
    r"\b(?:ids?|items?|values?|characters?|length)",
    re.IGNORECASE,
)


def too_long(problem: Problem) -> bool:
    """Whether a call was refused because there is too much in it, by its status or by the API's own words."""
    if problem.kind == "call-too-long":
        return True
    return problem.kind == "call-refused" and _TOO_MANY.search(problem.words) is not None


def longer_than(length: int, most: int) -> Problem:
    """The problem with an address that is longer than its service takes; the call is not made.

    Args:
        length: of the address, in characters.
        most: what the service takes.
    """
    return Problem(
        "call-too-long",
        f"The address has {length:,} characters, and the service takes {most:,}.",
        do="Ask for fewer values in one call, or correct the bound of the service.",
    )
