"""Full JSONPath (RFC 9535), with filters, slices and descendants. Its package is imported when a path wants it."""

from __future__ import annotations

import re
from typing import Any

from jsonpath_rfc9535 import JSONPathEnvironment
from jsonpath_rfc9535.exceptions import JSONPathError, JSONPathRecursionError

from tin_bucket.core.problem import Problem, ProblemError, fail


class _Environment(JSONPathEnvironment):
    """As the standard asks, for documents as deep as they are read."""

    max_recursion_depth = 300


_ENVIRONMENT = _Environment()


def check_full(path: str) -> None:
    """Compile a path.

    Raises:
        ProblemError: ``path-unreadable``, with the position of the mistake.
    """
    try:
        _ENVIRONMENT.compile(path)
    except (JSONPathError, RecursionError) as error:
        raise ProblemError(_path_problem(path, error)) from error


def find_full(document: Any, path: str) -> list[tuple[Any, tuple[str | int, ...]]]:
    """The values that a path selects, each with its place.

    Raises:
        ProblemError: ``path-unreadable``, ``path-unfit`` or ``answer-too-deep``.
    """
    check_full(path)
    try:
        return [(node.value, tuple(node.location)) for node in _ENVIRONMENT.find(path, document)]
    except (JSONPathError, RecursionError) as error:
        raise _not_found(path, error) from error


def _not_found(path: str, error: Exception) -> ProblemError:
    if isinstance(error, JSONPathRecursionError | RecursionError):
        return fail(
            "answer-too-deep",
            f"The answer is nested more than {_Environment.max_recursion_depth} levels deep, and “..” looks at all.",
            where=path[:200],
            do="Name the levels instead, such as $.a.b[*].c.",
        )
    return fail(
        "path-unfit",
        "The JSONPath cannot be used on this answer.",
        where=path[:200],
        do="Test its parts one by one, from $ on.",
    )


# What the package says → how it is said here; what it says otherwise is said by the place alone.
_WORDS = (
    (r"unbalanced", "a bracket is not closed"),
    (r"unclosed string", "a text in quotes is not closed"),
    (r"bald descendant", "a name or a bracket is missing behind “..”"),
    (r"expected '\$'", "it does not start with $"),
    (r"function '?(\w+)'? is not defined", "there is no function “{0}”"),
    (r"must be compared", "what a function gives has to be compared, such as length(@.a) > 1"),
    (r"leading zero", "a number has no leading zero there"),
    (r"unexpected end", "something is missing there"),
)


def _path_problem(path: str, error: Exception) -> Problem:
    token = getattr(error, "token", None)
    index = token.index if token is not None else len(path)
    found = ((re.search(pattern, str(error)), words) for pattern, words in _WORDS)
    told = next((words.format(*match.groups()) for match, words in found if match is not None), "")
    if not told:
        told = f"“{path[index]}” is unexpected there" if index < len(path) else "it ends too early"
    return Problem(
        "path-unreadable",
        f"The JSONPath has a mistake at character {index + 1}: {told}.",
        path[:200],
        "A path starts with $ and continues in steps, such as $.data[*] or $.data[?@.open == true].",
    )
