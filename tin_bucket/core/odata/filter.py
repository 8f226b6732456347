"""``$filter`` (URL Conventions 4.01, §5.1.1) → an SQL expression as work-out lines have it.

    departs ge 2026-11-20T00:00:00Z and contains(route,'Sound')
    ifnull(unixepoch("departs") >= unixepoch('2026-11-20T00:00:00Z'), 0) AND instr("route", 'Sound') > 0

A comparison with nothing is false, and its opposite is true, as OData has it and SQL has not.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

from .entity import EntityType
from .fault import ODataError

_TOKEN = re.compile(
    r"""
      \s+
    | (?P<moment>\d{4}-\d\d-\d\dT\d\d:\d\d(?::\d\d(?:\.\d+)?)?(?:Z|[+-]\d\d:\d\d))
    | (?P<day>\d{4}-\d\d-\d\d)
    | (?P<clock>\d\d:\d\d(?::\d\d(?:\.\d+)?)?)
    | (?P<number>-?(?:\d+\.\d*|\.\d+|\d+)(?:[eE][+-]?\d+)?)
    | (?P<text>'(?:[^']|'')*')
    | (?P<word>[^\W\d]\w*(?:/[^\W\d]\w*)*)
    | (?P<alias>@\w+)
    | (?P<mark>[(),-])
    """,
    re.VERBOSE,
)
_MOST_DEPTH = 60
_COMPARED = {"eq": "IS", "ne": "IS NOT", "gt": ">", "ge": ">=", "lt": "<", "le": "<="}
_SUMS = {"add": "+", "sub": "-"}
_PRODUCTS = {"mul": "*", "div": "/", "divby": "/", "mod": "%"}


@dataclass(frozen=True, slots=True)
class _Token:
    kind: str
    text: str
    at: int


@dataclass(frozen=True, slots=True)
class _Part:
    """A part of an expression: its SQL, and what it gives: ``yes/no``, ``number``, ``text``, ``date``, ``moment``,
    ``time`` or ``nothing``."""

    sql: str
    gives: str
    at: int


_KINDS = {
    "Edm.String": "text",
    "Edm.Int64": "number",
    "Edm.Double": "number",
    "Edm.Boolean": "yes/no",
    "Edm.Date": "date",
    "Edm.DateTimeOffset": "moment",
}


def filter_expression(text: str, entity: EntityType, aliases: dict[str, str] | None = None) -> str:
    """The SQL expression of a filter.

    Args:
        aliases: values of parameter aliases, by name with ``@``.

    Raises:
        ODataError: with the place of the mistake.
    """
    reader = _Reader(text, entity, aliases or {})
    part = reader.whole()
    if part.gives != "yes/no":
        raise reader.wrong("The filter gives no yes or no. Compare it with something.", part.at)
    return part.sql


class _Reader:
    def __init__(self, text: str, entity: EntityType, aliases: dict[str, str], depth: int = 0) -> None:
        self._text, self._entity, self._aliases = text, entity, aliases
        self._depth = depth
        self._tokens = self._read()
        self._at = 0

    def _read(self) -> list[_Token]:
        out, at = [], 0
        while at < len(self._text):
            found = _TOKEN.match(self._text, at)
            if found is None:
                raise self.wrong(f"“{self._text[at : at + 12]}” is not understood.", at)
            if found.lastgroup is not None:
                out.append(_Token(found.lastgroup, found[0], at))
            at = found.end()
        return [*out, _Token("end", "", len(self._text))]

    def wrong(self, what: str, at: int) -> ODataError:
        return ODataError(400, "filter-mistake", what, "$filter", at)

    @staticmethod
    def _unknown(what: str, at: int) -> ODataError:
        return ODataError(501, "not-implemented", what, "$filter", at)

    @property
    def _next(self) -> _Token:
        return self._tokens[self._at]

    def _take(self) -> _Token:
        token = self._tokens[self._at]
        self._at += token.kind != "end"
        return token

    def _is(self, text: str) -> bool:
        return self._next.text == text and self._next.kind in ("word", "mark")

    def _expect(self, text: str) -> None:
        if not self._is(text):
            told = f"“{self._next.text}”" if self._next.text else "the end"
            raise self.wrong(f"“{text}” is missing before {told}.", self._next.at)
        self._take()

    def whole(self) -> _Part:
        part = self._either()
        if self._next.kind != "end":
            raise self.wrong(f"“{self._next.text}” is too much here.", self._next.at)
        return part

    def _deeper(self, read: Callable[[], _Part]) -> _Part:
        self._depth += 1
        if self._depth > _MOST_DEPTH:
            raise self.wrong("The filter is nested too deep.", self._next.at)
        part = read()
        self._depth -= 1
        return part

    def _logic(self, part: _Part, word: str) -> str:
        if part.gives not in ("yes/no", "nothing"):
            raise self.wrong(f"“{word}” goes between tests, and this is none.", part.at)
        return part.sql

    def _either(self) -> _Part:
        part = self._deeper(self._both)
        while self._is("or"):
            self._take()
            other = self._deeper(self._both)
            part = _Part(f"({self._logic(part, 'or')} OR {self._logic(other, 'or')})", "yes/no", part.at)
        return part

    def _both(self) -> _Part:
        part = self._compared()
        while self._is("and"):
            self._take()
            other = self._compared()
            part = _Part(f"({self._logic(part, 'and')} AND {self._logic(other, 'and')})", "yes/no", part.at)
        return part

    def _compared(self) -> _Part:
        part = self._sum()
        while self._next.kind == "word" and (self._next.text in _COMPARED or self._next.text in ("in", "has")):
            token = self._take()
            if token.text == "has":
                raise ODataError(
                    501, "not-implemented", "“has” is for flags, which tables have not.", "$filter", token.at
                )
            part = self._in(part) if token.text == "in" else self._comparison(part, token, self._sum())
        return part

    def _comparison(self, left: _Part, token: _Token, right: _Part) -> _Part:
        sign = _COMPARED[token.text]
        a, b = self._alike(left, right, token)
        if sign.startswith("IS"):
            return _Part(f"({a} {sign} {b})", "yes/no", left.at)
        return _Part(f"ifnull({a} {sign} {b}, 0)", "yes/no", left.at)

    def _alike(self, left: _Part, right: _Part, token: _Token) -> tuple[str, str]:
        """Two parts as they can be compared."""
        kinds = {left.gives, right.gives} - {"nothing"}
        if kinds <= {"moment"} or kinds == {"moment", "date"}:
            return _seconds(left), _seconds(right)
        if len(kinds) > 1:
            told = {
                "number": "a number",
                "text": "a text",
                "date": "a date",
                "moment": "a moment",
                "yes/no": "yes or no",
            }
            words = " with ".join(told.get(one.gives, one.gives) for one in (left, right))
            raise self.wrong(f"“{token.text}” compares {words}. Write a value of the same kind.", token.at)
        return left.sql, right.sql

    def _in(self, left: _Part) -> _Part:
        self._expect("(")
        tests = []
        while True:
            at = self._next.at
            right = self._sum()
            a, b = self._alike(left, right, _Token("word", "in", at))
            tests.append(f"{a} IS {b}")
            if self._is(")"):
                break
            self._expect(",")
        self._expect(")")
        return _Part(f"({' OR '.join(tests)})", "yes/no", left.at)

    def _sum(self) -> _Part:
        part = self._product()
        while self._next.kind == "word" and self._next.text in _SUMS:
            sign = _SUMS[self._take().text]
            part = self._arithmetic(part, sign, self._product())
        return part

    def _product(self) -> _Part:
        part = self._unary()
        while self._next.kind == "word" and self._next.text in _PRODUCTS:
            token = self._take()
            other = self._unary()
            if token.text == "divby":
                other = _Part(f"({other.sql} * 1.0)", other.gives, other.at)
            part = self._arithmetic(part, _PRODUCTS[token.text], other)
        return part

    def _arithmetic(self, left: _Part, sign: str, right: _Part) -> _Part:
        for one in (left, right):
            if one.gives not in ("number", "nothing"):
                raise self.wrong("This is no number, and is reckoned with.", one.at)
        return _Part(f"({left.sql} {sign} {right.sql})", "number", left.at)

    def _unary(self) -> _Part:
        token = self._next
        if token.kind == "word" and token.text == "not":
            self._take()
            part = self._deeper(self._unary)
            return _Part(f"(NOT {self._logic(part, 'not')})", "yes/no", token.at)
        if token.kind == "mark" and token.text == "-":
            self._take()
            part = self._deeper(self._unary)
            return self._arithmetic(_Part("0", "number", token.at), "-", part)
        return self._value()

    def _value(self) -> _Part:
        token = self._take()
        if token.kind == "mark" and token.text == "(":
            part = self._deeper(self._either)
            self._expect(")")
            return part
        if token.kind == "number":
            return _Part(token.text, "number", token.at)
        if token.kind == "text":
            return _Part(_quoted(token.text[1:-1].replace("''", "'")), "text", token.at)
        if token.kind in ("moment", "day", "clock"):
            gives = {"moment": "moment", "day": "date", "clock": "time"}[token.kind]
            return _Part(_quoted(token.text), gives, token.at)
        if token.kind == "alias":
            return self._alias(token)
        if token.kind == "word":
            return self._word(token)
        told = f"“{token.text}”" if token.text else "the end"
        raise self.wrong(f"A property or a value is missing before {told}.", token.at)

    def _alias(self, token: _Token) -> _Part:
        value = self._aliases.get(token.text)
        if value is None:
            return _Part("NULL", "nothing", token.at)
        if self._depth > _MOST_DEPTH - 20:
            raise self.wrong(f"{token.text} stands for itself.", token.at)
        inner = _Reader(value, self._entity, self._aliases, self._depth + 20).whole()
        return _Part(inner.sql, inner.gives, token.at)

    def _word(self, token: _Token) -> _Part:
        if self._is("("):
            return self._function(token)
        if token.text == "null":
            return _Part("NULL", "nothing", token.at)
        if token.text in ("true", "false"):
            return _Part("1" if token.text == "true" else "0", "yes/no", token.at)
        name = token.text.removeprefix("$it/")
        found = self._entity.of(name)
        if found is None:
            known = ", ".join(one.name for one in self._entity.properties[:12])
            raise self.wrong(f"There is no property “{token.text}”. There are {known}.", token.at)
        return _Part(_column(found.column.name), _KINDS[found.type], token.at)

    def _function(self, token: _Token) -> _Part:
        self._expect("(")
        inner: list[_Part] = []
        while not self._is(")"):
            inner.append(self._deeper(self._either))
            if not self._is(")"):
                self._expect(",")
        self._expect(")")
        function = _FUNCTIONS.get(token.text)
        if function is None:
            raise ODataError(
                501, "not-implemented", f"The function “{token.text}” is not known here.", "$filter", token.at
            )
        least, most, takes, gives, write = function
        if not least <= len(inner) <= most:
            raise self.wrong(
                f"“{token.text}” takes {least if least == most else f'{least} to {most}'} values.", token.at
            )
        for part, kind in zip(inner, takes * most, strict=False):
            if kind and part.gives not in (kind, "nothing") and not (kind == "date" and part.gives == "moment"):
                raise self.wrong(f"“{token.text}” takes {_SAID[kind]} here.", part.at)
        return _Part(write(*(part.sql for part in inner)), gives, token.at)


_GIVES = {"number": "a number", "text": "a text", "date": "a date", "moment": "a moment", "yes/no": "yes or no"}
_SAID = {"text": "a text", "number": "a number", "date": "a date or a moment"}


def _seconds(part: _Part) -> str:
    return part.sql if part.gives == "nothing" else f"unixepoch({part.sql})"


def _column(name: str) -> str:
    return '"' + name.replace('"', '""') + '"'


def _quoted(text: str) -> str:
    return "'" + text.replace("'", "''") + "'"


def _part_of(code: str) -> Callable[[str], str]:
    return lambda value: f"CAST(strftime('{code}', {value}) AS INTEGER)"


def _ends(text: str, end: str) -> str:
    return f"(length({end}) = 0 OR ifnull(substr({text}, -length({end})) = {end}, 0))"


# How many values it takes, of which kinds, what it gives, and how it is written.
_FUNCTIONS: dict[str, tuple[int, int, tuple[str, ...], str, Callable[..., str]]] = {
    "contains": (2, 2, ("text",), "yes/no", lambda a, b: f"(ifnull(instr({a}, {b}), 0) > 0)"),
    "startswith": (2, 2, ("text",), "yes/no", lambda a, b: f"(ifnull(substr({a}, 1, length({b})) = {b}, 0))"),
    "endswith": (2, 2, ("text",), "yes/no", _ends),
    "length": (1, 1, ("text",), "number", lambda a: f"length({a})"),
    "indexof": (2, 2, ("text",), "number", lambda a, b: f"(instr({a}, {b}) - 1)"),
    "substring": (
        2, 3, ("text", "number", "number"), "text",
        lambda a, b, c="": f"substr({a}, {b} + 1" + (f", {c})" if c else ")"),
    ),
    "tolower": (1, 1, ("text",), "text", lambda a: f"lower({a})"),
    "toupper": (1, 1, ("text",), "text", lambda a: f"upper({a})"),
    "trim": (1, 1, ("text",), "text", lambda a: f"trim({a})"),
    "concat": (2, 2, ("text",), "text", lambda a, b: f"({a} || {b})"),
    "matchesPattern": (2, 2, ("text",), "yes/no", lambda a, b: f"(ifnull(matches({a}, {b}), 0) = 1)"),
    "year": (1, 1, ("date",), "number", _part_of("%Y")),
    "month": (1, 1, ("date",), "number", _part_of("%m")),
    "day": (1, 1, ("date",), "number", _part_of("%d")),
    "hour": (1, 1, ("date",), "number", _part_of("%H")),
    "minute": (1, 1, ("date",), "number", _part_of("%M")),
    "second": (1, 1, ("date",), "number", _part_of("%S")),
    "date": (1, 1, ("date",), "date", lambda a: f"date({a})"),
    "now": (0, 0, (), "moment", lambda: "strftime('%Y-%m-%dT%H:%M:%SZ', 'now')"),
    "round": (1, 1, ("number",), "number", lambda a: f"round({a})"),
    "floor": (1, 1, ("number",), "number", lambda a: f"floor({a})"),
    "ceiling": (1, 1, ("number",), "number", lambda a: f"ceil({a})"),
}  # fmt: skip


# Searching ----------------------------------------------------------------------------------------------------

_TERM = re.compile(r'\s+|(?P<phrase>"(?:[^"\\]|\\.)*")|(?P<mark>[()])|(?P<term>[^\s()"]+)')


def search_expression(text: str, entity: EntityType) -> str:
    """The SQL expression of ``$search`` (URL Conventions 4.01, §5.1.8): words and phrases with AND, OR and NOT, in any
    text of the row, whatever its case.

    Raises:
        ODataError: with the place of the mistake.
    """
    return _Search(text, entity).whole()


class _Search:
    def __init__(self, text: str, entity: EntityType) -> None:
        self._columns = [_column(one.column.name) for one in entity.properties if one.type == "Edm.String"]
        self._tokens: list[_Token] = []
        at = 0
        while at < len(text):
            found = _TERM.match(text, at)
            if found is None:
                raise self._wrong("A phrase has no end: write its second quotation mark.", at)
            if found.lastgroup is not None:
                self._tokens.append(_Token(found.lastgroup, found[0], at))
            at = found.end()
        self._tokens.append(_Token("end", "", len(text)))
        self._at = self._depth = 0

    @staticmethod
    def _wrong(what: str, at: int) -> ODataError:
        return ODataError(400, "search-mistake", what, "$search", at)

    def whole(self) -> str:
        made = self._either()
        token = self._tokens[self._at]
        if token.kind != "end":
            raise self._wrong(f"“{token.text}” is too much here.", token.at)
        return made

    def _either(self) -> str:
        self._depth += 1
        if self._depth > _MOST_DEPTH:
            raise self._wrong("The search is nested too deep.", self._tokens[self._at].at)
        made = self._all()
        while self._tokens[self._at].text == "OR":
            self._at += 1
            made = f"({made} OR {self._all()})"
        self._depth -= 1
        return made

    def _all(self) -> str:
        made = self._one()
        while (token := self._tokens[self._at]).kind != "end" and token.text not in ("OR", ")"):
            if token.text == "AND":
                self._at += 1
            made = f"({made} AND {self._one()})"
        return made

    def _one(self) -> str:
        token = self._tokens[self._at]
        self._at += token.kind != "end"
        if token.text == "NOT":
            return f"(NOT {self._one()})"
        if token.text == "(":
            made = self._either()
            if self._tokens[self._at].text != ")":
                raise self._wrong("“)” is missing.", self._tokens[self._at].at)
            self._at += 1
            return made
        if token.kind not in ("term", "phrase") or token.text in ("AND", "OR"):
            raise self._wrong("A word is missing here.", token.at)
        word = re.sub(r"\\(.)", r"\1", token.text[1:-1]) if token.kind == "phrase" else token.text
        tests = [f"ifnull(instr(lower({column}), {_quoted(word.lower())}), 0) > 0" for column in self._columns]
        return f"({' OR '.join(tests)})" if tests else "0 = 1"
