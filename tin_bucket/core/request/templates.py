"""Texts with parameters in them.

Addresses are RFC 6570 templates. Headers, bodies and names are plain texts in which ``{name}`` is a parameter and
every other brace is itself; ``{{name}}`` stands for the text ``{name}``.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import Any
from urllib.parse import quote

import uritemplate

from tin_bucket.core.problem import fail

from .variables import Scope, Value

_EXPRESSION = re.compile(r"(\{[^{}]*\})")
_RESERVED = "!$&'()*+,/:;=?@[]~-._"
_NAME = r"[A-Za-z_][A-Za-z0-9_]*(?:\.[a-z]+)?"
# A parameter in a text, or the text ``{name}`` that is none.
IN_TEXT = re.compile(rf"\{{\{{(?P<literal>{_NAME})\}}\}}|\{{(?P<name>{_NAME})\}}")
_WHOLE = re.compile(rf"\{{({_NAME})\}}\Z")
_NO_LENGTH = re.compile(r":(?![1-9][0-9]{0,3}[,}])")  # RFC 6570 §2.4.1
_BARE_PERCENT = re.compile(r"%(?![0-9A-Fa-f]{2})")


# Addresses ----------------------------------------------------------------------------------------------------


def template_names(template: str) -> set[str]:
    """The names that an address template's expressions use.

    Raises:
        ProblemError: ``template-unreadable`` where a brace has no partner or an expression is empty.
    """
    at = 0
    for part in _EXPRESSION.split(template):
        is_expression = part.startswith("{") and part.endswith("}") and len(part) > 1
        if not is_expression and ("{" in part or "}" in part):
            brace = at + min(part.find(brace) for brace in "{}" if brace in part)
            raise fail(
                "template-unreadable",
                f"A brace at position {brace + 1} has no partner.",
                where=template,
                do="Write a parameter as {name}, with both braces.",
            )
        if is_expression and not part.strip("{}+#./;?&*").strip():
            raise fail(
                "template-unreadable",
                "There is an empty pair of braces.",
                where=template,
                do="Put a name in it.",
            )
        if is_expression and _NO_LENGTH.search(part):
            raise fail(
                "template-unreadable",
                f"“{part}” has no length after its colon.",
                where=template,
                do="Write how many characters of the value are sent, from 1 to 9999, such as {name:3}.",
            )
        at += len(part)
    return set(uritemplate.variables(template))


def expand(template: str, scope: Scope, what: str = "parameter") -> str:
    """Expand an address template (RFC 6570 §3); text outside its expressions is percent-encoded where it must be.

    Raises:
        ProblemError: ``template-unreadable``, ``template-unknown-name`` for a name without a value, or
            ``template-list`` where a list stands that is sent one value at a time.
    """
    for name in sorted(template_names(template)):
        _known(name, scope, template, what)
    values: dict[str, Any] = {}
    for name, value in scope.items():
        if value.absent:
            continue
        if value.many and value.send != "json" and (value.separator == "," or value.send == "repeated"):
            values[name] = list(value.texts)
        else:
            values[name] = value.joined()
    parts = []
    for part in _EXPRESSION.split(template):
        if part.startswith("{"):
            _no_repeated_list(part, scope, template)
            parts.append(uritemplate.expand(part, values))
        else:
            parts.append(quote(_BARE_PERCENT.sub("%25", part), safe=_RESERVED + "%"))
    return "".join(parts)


def _known(name: str, scope: Scope, where: str, what: str = "parameter") -> Value:
    value = scope.get(name)
    if value is None:
        known = ", ".join(sorted(name for name in scope if "." not in name)) or "none"
        raise fail(
            "template-unknown-name",
            f"“{name}” is not a {what} of this query.",
            where=where,
            do=f"Known names: {known}.",
        )
    return value


def _no_repeated_list(expression: str, scope: Scope, where: str) -> None:
    inner = expression[1:-1]
    if inner[0] in "?&;/." or "*" in inner:
        return  # These repeat by themselves (RFC 6570 §3.2).
    for name in uritemplate.variables(expression):
        value = scope[name]
        if value.many and value.send == "repeated" and len(value.texts) > 1:
            raise list_problem(name, where)


def list_problem(name: str, where: str) -> Exception:
    """A list stands where one value is wanted."""
    return fail(
        "template-list",
        f"“{name}” is a list, and this place takes one value.",
        where=where,
        do="Send the list joined by a separator, or ask once for each of its values.",
    )


def literal(text: str) -> str:
    """A text for an address template that stands for itself, whatever it holds."""
    return text.replace("%", "%25").replace("{", "%7B").replace("}", "%7D")


def sole_name(template: str) -> str | None:
    """The name, where a text is one parameter and nothing else."""
    match = _WHOLE.match(template)
    return match[1] if match else None


# Texts --------------------------------------------------------------------------------------------------------


def text_names(text: str) -> set[str]:
    """The names of the parameters that stand in a text."""
    return {match["name"] for match in IN_TEXT.finditer(text) if match["name"]}


def fill(text: str, scope: Scope, where: str) -> str:
    """Put the parameters' values into a text; one without a value leaves nothing.

    Raises:
        ProblemError: ``template-unknown-name``, or ``template-list``.
    """

    def put(match: re.Match[str]) -> str:
        if match["literal"]:
            return f"{{{match['literal']}}}"
        value = _known(match["name"], scope, where)
        if value.many and value.send == "repeated" and len(value.texts) > 1:
            raise list_problem(match["name"], where)
        return value.joined() if value.texts else ""

    return IN_TEXT.sub(put, text)


def literal_text(text: str) -> str:
    """A text that :func:`fill` gives back as it is."""
    return re.sub(rf"\{{{_NAME}\}}", lambda match: f"{{{match[0]}}}", text)


def fill_json(document: Any, scope: Scope, where: str) -> Any:
    """Put the parameters' values into the texts of a JSON document.

    A text that is one parameter and nothing else becomes the value itself: a number, yes or no, or a list. A member
    or an item whose parameter has no value is left out.

    Raises:
        ProblemError: as :func:`fill`.
    """
    filled = _fill_json(document, scope, where)
    return None if filled is _ABSENT else filled


_ABSENT = object()


def _fill_json(value: Any, scope: Scope, where: str) -> Any:
    if isinstance(value, str):
        name = sole_name(value)
        if name is None:
            return fill(value, scope, where)
        found = _known(name, scope, where)
        if found.many and found.send != "joined":
            return list(found.typed)
        if found.many:
            return found.joined()
        return found.typed[0] if found.typed else _ABSENT
    if isinstance(value, dict):
        members = {
            fill(key, scope, f"{where}.{key}"): _fill_json(item, scope, f"{where}.{key}") for key, item in value.items()
        }
        return {key: item for key, item in members.items() if item is not _ABSENT}
    if isinstance(value, list):
        items = [_fill_json(item, scope, f"{where}[{at}]") for at, item in enumerate(value)]
        return [item for item in items if item is not _ABSENT]
    return value


def document_texts(value: Any) -> Iterable[str]:
    """Every text in a JSON document, names of members among them."""
    if isinstance(value, str):
        yield value
    elif isinstance(value, dict):
        for key, item in value.items():
            yield key
            yield from document_texts(item)
    elif isinstance(value, list):
        for item in value:
            yield from document_texts(item)
