"""What is likely a slip in a question: pointed out beside the call, before it is sent."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from tin_bucket.core.masking.looks import looks_secret
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.request.ask import Ask
from tin_bucket.core.request.bodies import body_names
from tin_bucket.core.request.fan_out import fan_out_names
from tin_bucket.core.request.templates import sole_name, template_names, text_names
from tin_bucket.core.request.variables import part_names

from .query import Brief


@dataclass(frozen=True, slots=True)
class Hint:
    """One slip. `where` is the part of the question, `what` a sentence, `do` what would mend it."""

    where: str
    what: str
    do: str


_COMMA_PAIR = re.compile(r"[,;]\s*([A-Za-z_][\w.-]*)=")
_DEAD_END = re.compile(r"\?|&[\w.-]+=")
_CHANGING = {"PUT": "replaces", "PATCH": "changes", "DELETE": "deletes"}


def lint_brief(brief: Brief) -> list[Hint]:
    """Point out slips in a brief's question; an empty list when there are none."""
    ask = brief.ask
    if ask is None:
        return []
    return [*_in_address(ask), *_in_body(ask), *_unused(brief, ask)]


def _in_address(ask: Ask) -> Iterator[Hint]:
    seen: set[str] = set()
    for pair in ask.query:
        where = f"address parameter {pair.name}"
        value = pair.value or ""
        comma = _COMMA_PAIR.search(value)
        if comma:
            yield Hint(
                where,
                f"“{value[comma.start()]}{comma[1]}=” is inside a value; & was probably intended.",
                f"Make “{comma[1]}” a separate address parameter.",
            )
        if pair.name != pair.name.strip() or value != value.strip():
            yield Hint(where, "It begins or ends with a space.", "Remove it if it is not intended.")
        if looks_secret(pair.name) and value and not sole_name(value):
            yield Hint(
                where, "It looks like a key, and everyone who can read the query can read it.", "Store it in the vault."
            )
        if pair.name in seen and not value:
            yield Hint(where, "It appears twice, once without a value.", "Remove one of the two.")
        seen.add(pair.name)
    if _DEAD_END.search(ask.path):
        yield Hint("path", "The path holds address parameters.", "Move what follows ? into the address parameters.")
    if re.search(r"//", ask.path):
        yield Hint("path", "There are two slashes in a row.", "Remove one; a value may be missing between them.")


def _in_body(ask: Ask) -> Iterator[Hint]:
    if ask.body is not None:
        if ask.only_reads:
            yield Hint(
                "body", f"A {ask.method} call has a body; many services ignore it.", "Use POST, or drop the body."
            )
        names = _member_names(ask.body)
        for pair in ask.query:
            if pair.name in names:
                yield Hint(
                    f"address parameter {pair.name}",
                    "The same name is in the address and in the body.",
                    "Leave it in one of the two.",
                )
    if ask.method in _CHANGING:
        yield Hint(
            "method",
            f"{ask.method} usually {_CHANGING[ask.method]} things at the service.",
            "Use it only where the docs say that it reads.",
        )


def _member_names(body: Any) -> set[str]:
    if body.kind == "json":
        return set(body.value) if isinstance(body.value, dict) else set()
    return {field.name for field in getattr(body, "fields", [])}


def _unused(brief: Brief, ask: Ask) -> Iterator[Hint]:
    used = used_names(brief, ask)
    for parameter in brief.parameters:
        if parameter.name not in used and not used & set(part_names(parameter)):
            yield Hint(
                f"parameter {parameter.name}",
                f"The parameter “{parameter.label or parameter.name}” is used nowhere.",
                "Put it into the question in braces, or remove it.",
            )
    for name in fan_out_names(brief.each):
        if name not in used and not any(one.startswith(f"{name}.") for one in used):
            yield Hint("for each", f"Every value would make the same call: “{name}” is not in the question.", "Use it.")


def used_names(brief: Brief, ask: Ask) -> set[str]:
    """Every name that the question or a lookup uses; unreadable templates are left to the call itself."""
    names = body_names(ask.body)
    for text in [ask.path, *(pair.value or "" for pair in ask.query)]:
        names |= _address_names(text)
    for pair in [*ask.headers, *ask.query]:
        names |= text_names(pair.name)
    for pair in ask.headers:
        names |= text_names(pair.value or "")
    for look_up in brief.look_up:
        for text in [look_up.path, *(pair.value or "" for pair in look_up.query)]:
            names |= _address_names(text)
    return names


def _address_names(template: str) -> set[str]:
    try:
        return template_names(template)
    except ProblemError:
        return set()
