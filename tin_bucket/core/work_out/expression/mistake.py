"""A mistake in an expression, with its place."""

from __future__ import annotations

from tin_bucket.core.problem import Problem, ProblemError


class ExpressionError(ProblemError):
    """A mistake in an expression.

    Attributes:
        start, end: where it stands, in characters.
    """

    def __init__(self, problem: Problem, start: int, end: int) -> None:
        super().__init__(problem)
        self.start = start
        self.end = end


def mistake(text: str, start: int, end: int, what: str, do: str) -> ExpressionError:
    """The exception for a mistake at a place of an expression; the caller raises it."""
    here = text[start : start + 40].strip()
    where = f"the expression, character {start + 1}, at “{here}”" if here else "the end of the expression"
    return ExpressionError(Problem("expression-unreadable", what, where, do), start, max(end, start + 1))
