"""Full JSONPath (RFC 9535), with filters, slices and descendants. Its package is imported when a path wants it."""

from __future__ import annotations

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


def _path_problem(path: str, error: Exception) -> Problem:
    token = getattr(error, "token", None)
    at = "" if token is None else f" at character {token.index + 1}"
    message = str(error).splitlines()[0] if str(error) else "it cannot be read"
    message = message.split(", line ")[0].rstrip(".")
    return Problem(
        "path-unreadable",
        f"The JSONPath has a mistake{at}: {message}.",
        path[:200],
        "A path starts with $ and continues in steps, such as $.data[*] or $.data[?@.open == true].",
    )
