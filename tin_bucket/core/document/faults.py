"""What is wrong in a document, in the words of the format or of the screen; never in those of a library."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from tin_bucket.core.problem import Problem


def steps_in(document: Any, loc: tuple[int | str, ...]) -> list[str]:
    """The steps of a fault's place that are in the document; the names of forms that Pydantic tried are not."""
    steps: list[str] = []
    for at, part in enumerate(loc):
        if isinstance(document, dict) and document.get("to") == part and at < len(loc) - 1:
            continue  # The kind of a feed, which may be called like a member of it.
        inside = isinstance(document, dict) and part in document
        item = isinstance(document, list) and isinstance(part, int) and part < len(document)
        if inside or item:
            document = document[part]
            steps.append(str(part))
        elif at == len(loc) - 1 and isinstance(document, dict) and "-" not in str(part) and "[" not in str(part):
            steps.append(str(part))
    return steps


def validation_problem(error: ValidationError, where: str, document: Any = None) -> Problem:
    """Say the first fault that Pydantic found as a :class:`Problem`; the input itself is never repeated."""
    found = error.errors(include_url=False, include_input=False)
    # Where a value may be of several forms, the fault in our own words says more than "not the other form".
    own = [one for one in found if one["type"] == "value_error" and one["loc"][:2] == found[0]["loc"][:2]]
    first = (own or found)[0]
    place = ".".join(steps_in(document, first["loc"]))
    message = fault_words(first)
    more = error.error_count() - 1
    tail = f" ({more} more after it)" if more else ""
    return Problem(
        "brief-unreadable",
        f"{message[:1].upper()}{message[1:].rstrip('.')}{tail}.",
        f"{where}, {place}" if place else where,
        "Correct that place; docs/query-format.md lists what each place takes.",
    )


_FAULTS = {
    "missing": "this is missing",
    "extra_forbidden": "there is no such place here",
    "union_tag_not_found": "the member {discriminator} is missing, which says of what kind this is",
    "union_tag_invalid": "the member {discriminator} must be one of {expected_tags}",
    "literal_error": "this must be {expected}",
    "too_short": "this needs at least {min_length}",
    "too_long": "this takes at most {max_length}",
    "string_too_short": "this text needs at least {min_length} characters",
    "string_too_long": "this text is too long, {max_length} characters at most",
    "greater_than": "this must be more than {gt}",
    "greater_than_equal": "this must be at least {ge}",
    "less_than_equal": "this must be at most {le}",
    "string_type": "this must be text",
    "int_type": "this must be a whole number",
    "int_parsing": "this must be a whole number",
    "int_from_float": "this must be a whole number",
    "float_type": "this must be a number",
    "bool_type": "this must be true or false",
    "bool_parsing": "this must be true or false",
    "list_type": "this must be a list",
    "dict_type": "this must be an object",
    "model_type": "this must be an object",
    "model_attributes_type": "this must be an object",
    "date_type": "this must be a date, such as 2026-11-26",
    "date_parsing": "this must be a date, such as 2026-11-26",
    "date_from_datetime_parsing": "this must be a date, such as 2026-11-26",
    "date_from_datetime_inexact": "this must be a date without a time, such as 2026-11-26",
    "datetime_parsing": "this must be a date and time, such as 2026-11-26T07:30",
    "datetime_from_date_parsing": "this must be a date and time, such as 2026-11-26T07:30",
    "string_pattern_mismatch": "this is not written as it must be",
    "float_parsing": "this must be a number",
    "finite_number": "this must be a number",
    "less_than": "this must be less than {lt}",
    "json_invalid": "this is not JSON",
    "int_parsing_size": "this number has too many digits",
    "tuple_type": "this must be a list",
    "enum": "this must be {expected}",
}


def fault_words(fault: Any) -> str:
    """What Pydantic found, in the words of the format."""
    if fault["type"] == "string_too_short" and fault.get("ctx", {}).get("min_length") == 1:
        return "this must not be empty"
    words = _FAULTS.get(fault["type"])
    if words is None:
        own = str(fault["msg"])
        if fault["type"] in ("value_error", "assertion_error"):
            return own.removeprefix("Value error, ").removeprefix("Assertion failed, ")
        return "this cannot be read here"
    return words.format(**{"discriminator": "", **fault.get("ctx", {})}).replace("'", "")


# Members of a document → what the screen calls them.
_SCREEN = {
    "ask": "the question",
    "each": "for each",
    "pages": "turn pages",
    "take": "take",
    "records": "where the records are",
    "rows_for": "what is a row",
    "columns": "column",
    "look_up": "lookup",
    "keep": "keep",
    "match": "match columns",
    "parameters": "parameter",
    "query": "address parameter",
    "headers": "header",
    "base": "base address",
    "limits": "limit",
    "at_once": "calls at once",
    "timeout": "time-out",
    "connect": "time-out of the connection",
    "error_rules": "error rule",
    "default": "value",
    "most_rows": "first rows",
    "most_calls": "most calls",
    "per": "interval",
    "at": "time",
    "zone": "time zone",
    "body": "the body",
}


def place_words(document: Any, loc: tuple[int | str, ...]) -> str:
    """A fault's place as a person knows it: “parameter from, value”; an item is called by its name."""
    words: list[str] = []
    known = document
    for step in steps_in(document, loc):
        if isinstance(known, list) and step.isdigit() and int(step) < len(known):
            known = known[int(step)]
            named = known if isinstance(known, dict) else {}
            name = named.get("name") or named.get("parameter") or named.get("column")
            words[-1:] = [f"{words[-1] if words else 'item'} {name or int(step) + 1}"]
            continue
        known = known.get(step) if isinstance(known, dict) else None
        words.append(_SCREEN.get(step, step.replace("_", " ")))
    return ", ".join(words)
