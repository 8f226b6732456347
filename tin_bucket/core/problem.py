"""What went wrong, said so that a person can act on it: what, where, and what to do."""

from __future__ import annotations

from dataclasses import asdict, dataclass


@dataclass(frozen=True, slots=True)
class Problem:
    """One thing that went wrong.

    Attributes:
        kind: a short stable word for programs, such as ``key-refused``.
        what: one sentence that says what happened.
        where: the place: an address (without any key), a field of the brief, a file.
        do: what the reader can do about it.
        words: the API's own words, as it sent them, cut to a readable length.
    """

    kind: str
    what: str
    where: str = ""
    do: str = ""
    words: str = ""

    def as_dict(self) -> dict[str, str]:
        """The problem as a flat dict of texts, ready for JSON."""
        return asdict(self)

    def sentence(self) -> str:
        """The whole problem on one line, for a log, a terminal or an exception text."""
        parts = [self.what]
        if self.words:
            parts.append(f"The service says: “{self.words}”.")
        if self.where:
            parts.append(f"Where: {self.where}.")
        if self.do:
            parts.append(self.do)
        return " ".join(parts)


class ProblemError(Exception):
    """Raised with a :class:`Problem` where the work cannot continue."""

    def __init__(self, problem: Problem) -> None:
        super().__init__(problem.sentence())
        self.problem = problem


def fail(kind: str, what: str, *, where: str = "", do: str = "", words: str = "") -> ProblemError:
    """Build the exception for a problem; the caller raises it."""
    return ProblemError(Problem(kind, what, where, do, words))
