"""Is this an answer? Its status, failures of transport, web pages instead of data, and the API's own words."""

from __future__ import annotations

import html
import re
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from tin_bucket.core.formats.json import parse_json, parse_lines, parse_loosely, to_utf8
from tin_bucket.core.problem import Problem, ProblemError

from .error_message import api_words_in
from .error_rules import ErrorRule, error_inside, warnings_inside
from .quota import says_allowance
from .response import Answer, charset_of

_TITLE = re.compile(r"<title[^>]*>(.*?)</title>", re.IGNORECASE | re.DOTALL)


@dataclass(frozen=True, slots=True)
class Verdict:
    """An answer's parsed document, or the problem with it.

    Attributes:
        document: the document.
        problem: why the answer cannot be used.
        nothing: whether the service says that there is nothing (204, 205), which is a true answer.
        note: what people should know of an answer that can be used.
        warnings: the API's own messages in it, by the service's rules.
        odd: how many values are NaN or Infinity, which JSON does not have; they are read as empty.
    """

    document: Any = None
    problem: Problem | None = None
    nothing: bool = False
    note: str = ""
    warnings: tuple[str, ...] = ()
    odd: int = 0


_ADVICE = {
    400: (
        "call-refused",
        "The service does not understand the call",
        "Check the parameters and their spelling.",
    ),
    401: (
        "key-refused",
        "The service refused the key",
        "Enter a valid key; everything that uses it then works again.",
    ),
    403: (
        "key-refused",
        "The service does not allow this",
        "Check that the key is valid and may read this address.",
    ),
    404: (
        "not-found",
        "The service knows no such address",
        "Check the path of the question, piece by piece.",
    ),
    405: (
        "call-refused",
        "The service does not allow this method here",
        "Check the method in the service's docs.",
    ),
    408: ("service-slow", "The service gave up waiting", "Ask again."),
    413: (
        "call-too-long",
        "The call is too large for the service",
        "Send fewer values in one call: fewer ids a call, or a shorter list.",
    ),
    414: (
        "call-too-long",
        "The address is too long for the service",
        "Send fewer values in one call: fewer ids a call, or a shorter list.",
    ),
    422: ("call-refused", "The service cannot use a value of the call", "Check the parameters' values."),
    429: (
        "too-many-calls",
        "The service says that there were too many calls",
        "Wait until it allows more, then refresh again; answers that are saved are not asked for again.",
    ),
}


def _refusal(answer: Answer) -> Problem | None:
    """Why a status outside 2xx brings no data (RFC 9110, section 15)."""
    if answer.status == 304:
        return Problem(
            "nothing-changed",
            "The service says that nothing changed since (status 304), and sent no data.",
            do="Remove the headers If-None-Match and If-Modified-Since from the question or the service.",
        )
    if 300 <= answer.status < 400:
        target = answer.headers.get("location", "")
        return Problem(
            "redirected",
            f"The service redirects the call (status {answer.status}).",
            do="A key only ever goes to its own service. If the API has moved, change the service's base address.",
            words=target.split("?")[0][:200],
        )
    if 200 <= answer.status < 300:
        return None
    failed = ("service-failed", "The service failed", "Try again later; if it persists, contact the API's owner.")
    refused = ("call-refused", "The service refused the call", "Read the service's docs for this status.")
    words = api_words(answer)
    status = 429 if says_allowance(answer, words) else answer.status
    kind, what, do = _ADVICE.get(status, failed if answer.status >= 500 else refused)
    return Problem(kind, f"{what} (status {answer.status}).", do=do, words=words)


def classify(answer: Answer, error_rules: Sequence[ErrorRule] = ()) -> Verdict:
    """Tell a usable answer from everything else.

    Args:
        answer: the answer.
        error_rules: the service's own rules for errors inside an answer of status 2xx.

    Returns:
        A verdict with the parsed document (2xx and JSON), or with a problem that has no place yet; the caller
        knows the call and adds it.
    """
    if answer.failure is not None:
        return Verdict(problem=answer.failure)
    refusal = _refusal(answer)
    if refusal is not None:
        return Verdict(problem=refusal)
    if answer.status in (204, 205):
        return Verdict(nothing=True)
    if not answer.body.strip():
        return Verdict(
            problem=Problem(
                "empty-answer",
                f"The answer is empty (status {answer.status}, no body).",
                do="Check the address; it may accept data without returning any.",
            )
        )
    try:
        document, note, odd = read_document(answer)
        inside = error_inside(document, error_rules)
        if inside is not None:
            return Verdict(problem=inside)
        return Verdict(document, note=note, warnings=warnings_inside(document, error_rules), odd=odd)
    except ProblemError as error:
        page = _web_page_title(answer)
        if page is not None and error.problem.kind == "not-json":
            return Verdict(
                problem=Problem(
                    "web-page",
                    "The answer is a web page, not data.",
                    do="The address may be that of the docs or of a sign-in page; look for the API's own address.",
                    words=page,
                )
            )
        return Verdict(problem=error.problem)


def read_document(answer: Answer) -> tuple[Any, str, int]:
    """The document in an answer's body, whatever its status, a note for readers, and how many values are no number.

    Raises:
        ProblemError: ``not-json``, ``cut-off``, ``not-text``.
    """
    text = to_utf8(answer.body, charset_of(answer))
    try:
        return parse_json(text), "", 0
    except ProblemError as error:
        if error.problem.kind == "not-utf-8":
            # Old services send their machine's own letters and say nothing, or something else.
            text = text.decode("cp1252", "replace").encode()
            note = "The answer is not in UTF-8, as JSON is; it was read as Windows-1252. Look at its accented letters."
            return parse_json(text), note, 0
        lines = parse_lines(text) if error.problem.kind == "not-json" else None
        if lines is not None:
            return lines, "The answer is JSON Lines: a value a line, read as one list.", 0
        if error.problem.kind != "not-a-number":
            raise
    document, odd = parse_loosely(text)
    return document, "", odd


def odd_words(odd: int) -> str:
    """What is said of values that are no number."""
    return f"{odd:,} value{' is' if odd == 1 else 's are'} no number (NaN or Infinity), and read as empty."


def _web_page_title(answer: Answer) -> str | None:
    start = answer.body[:4000].lstrip().lower()
    if not start.startswith((b"<!doctype html", b"<html")):
        return None
    match = _TITLE.search(answer.body[:20_000].decode("utf-8", "replace"))
    return html.unescape(match[1]).strip()[:200] if match else ""


def api_words(answer: Answer) -> str:
    """The API's own explanation in an answer that is an error, at most 300 characters; empty when it gives none.

    Reads problem details (RFC 9457 §3.1) and the usual members; for a web page its title.
    """
    page = _web_page_title(answer)
    if page is not None:
        return page
    try:
        document = parse_json(to_utf8(answer.body, charset_of(answer)))
    except ProblemError:
        text = answer.body[:400].decode("utf-8", "replace").strip()
        return " ".join(text.split())[:300] if text.isprintable() or "\n" in text else ""
    return api_words_in(document)[:300]
