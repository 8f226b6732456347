"""Reading an SQL expression by the grammar of SQLite (sqlite.org, “SQL Language Expressions”), without what needs
other tables: subqueries, values that are bound, aggregates over rows.

The operators, from the one that binds least: OR; AND; NOT; = == <> != IS IN LIKE GLOB REGEXP BETWEEN ISNULL NOTNULL;
< <= > >=; & | << >>; + -; * / %; || -> ->>; COLLATE; and ~ + - in front of a value.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from .functions import FUNCTIONS
from .mistake import ExpressionError, mistake
from .tokens import Token, tokens_of

MOST_CHARACTERS = 20_000
MOST_DEPTH = 80

NodeKind = Literal["column", "number", "text", "null", "call", "arithmetic", "logic", "joined", "case", "other"]


@dataclass(frozen=True, slots=True)
class Node:
    """A part of an expression.

    Attributes:
        kind: what it is: ``logic`` is whatever gives yes or no.
        start, end: where it stands, in characters.
        name: of a column as written, or of a function in lower case, or the operator.
        inner: the parts of it.
    """

    kind: NodeKind
    start: int
    end: int
    name: str = ""
    inner: tuple[Node, ...] = ()


def _test_of(node: Node) -> Node:
    """A part that CASE chooses by: none of its values."""
    return Node("logic", node.start, node.end, "WHEN", (node,))


_COMPARED = {"=", "==", "<>", "!="}
_ORDERED = {"<", "<=", ">", ">="}
_BITS = {"&", "|", "<<", ">>"}
_TEXT_TESTS = {"LIKE", "GLOB", "REGEXP", "MATCH"}
_TESTS = {"IN", "BETWEEN", *_TEXT_TESTS}
_OR, _AND, _NOT, _EQUAL, _LESS, _BIT, _SUM, _PRODUCT, _JOINED, _COLLATE, _SIGN = range(1, 12)
_NEVER = {
    "SELECT", "WITH", "FROM", "WHERE", "GROUP", "HAVING", "ORDER", "LIMIT", "UNION", "INSERT", "UPDATE", "DELETE",
    "DROP", "CREATE", "ATTACH", "PRAGMA", "EXISTS", "RAISE", "VALUES", "OVER", "FILTER", "JOIN",
}  # fmt: skip
_KEYWORDS = {"AND", "OR", "NOT", "IS", "IN", "LIKE", "GLOB", "REGEXP", "MATCH", "BETWEEN", "ESCAPE", "COLLATE", "CASE"}
_KEYWORDS |= {"WHEN", "THEN", "ELSE", "END", "AS", "ISNULL", "NOTNULL", "DISTINCT"} | _NEVER
_TYPES = {"TEXT", "INTEGER", "INT", "REAL", "NUMERIC"}
_COLLATIONS = {"BINARY", "NOCASE", "RTRIM"}


def parse(text: str) -> Node:
    """Read an expression.

    Raises:
        ExpressionError: with the place of the mistake.
    """
    if len(text) > MOST_CHARACTERS:
        raise mistake(text, MOST_CHARACTERS, len(text), "This expression is too long.", "Write it as several lines.")
    return _Parser(text).whole()


class _Parser:
    def __init__(self, text: str) -> None:
        self._text = text
        self._tokens = tokens_of(text)
        self._at = 0
        self._depth = 0

    @property
    def _next(self) -> Token:
        return self._tokens[self._at]

    def _take(self) -> Token:
        token = self._tokens[self._at]
        self._at += token.kind != "end"
        return token

    def _is(self, *texts: str) -> bool:
        token = self._next
        return (token.word or (token.text if token.kind == "operator" else "")) in texts

    def _wrong(self, token: Token, what: str, do: str) -> ExpressionError:
        return mistake(self._text, token.start, token.end, what, do)

    def _expect(self, text: str, after: str) -> Token:
        if not self._is(text):
            raise self._wrong(self._next, f"{text} is missing {after}.", f"Write {text} here.")
        return self._take()

    def whole(self) -> Node:
        if self._next.kind == "end":
            raise self._wrong(self._next, "The expression is empty.", "Write a column, such as a name, or a value.")
        node = self._expression(0)
        token = self._next
        if token.kind != "end":
            raise self._left_over(token)
        return node

    def _left_over(self, token: Token) -> ExpressionError:
        before = self._tokens[self._at - 1] if self._at else None
        if token.text == ")":
            return self._wrong(token, "This bracket closes nothing.", "Take it out, or open one before it.")
        if token.text == ",":
            return self._wrong(token, "A comma stands between the values of a function alone.", "Take it out.")
        if token.kind == "name" and before is not None and before.kind == "name" and token.word not in _KEYWORDS:
            both = f"{before.text} {token.text}"
            do = f'A name with a space needs double quotes: "{both}".'
            return mistake(self._text, before.start, token.end, "Two names follow each other.", do)
        if token.word in _NEVER:
            return self._forbidden(token)
        return self._wrong(
            token, f"Nothing joins “{token.text[:40]}” to what is before it.", "Write an operator such as +, = or AND."
        )

    def _forbidden(self, token: Token) -> ExpressionError:
        if token.word in ("OVER", "FILTER"):
            what, do = f"{token.word} looks at other rows.", "Use a line that goes along the rows."
        else:
            what = f"{token.word} begins a statement, and an expression reads the columns of its own row alone."
            do = "Use a line of its own: bring in columns, keep rows, or count and sum."
        return self._wrong(token, what, do)

    def _expression(self, least: int) -> Node:
        self._depth += 1
        if self._depth > MOST_DEPTH:
            raise self._wrong(self._next, "This expression is nested too deeply.", "Write it as several lines.")
        node = self._prefix()
        while True:
            made = self._infix(node, least)
            if made is None:
                self._depth -= 1
                return node
            node = made

    # What begins a part ------------------------------------------------------------------------------------------

    def _prefix(self) -> Node:
        token = self._take()
        if token.kind == "number":
            return Node("number", token.start, token.end)
        if token.kind == "text":
            return Node("text", token.start, token.end, token.value)
        if token.kind == "quoted name":
            return Node("column", token.start, token.end, token.value)
        if token.kind == "end":
            raise self._wrong(token, "Something is missing at the end.", "Write a column or a value.")
        if token.text in ("-", "+", "~"):
            inner = self._expression(_SIGN)
            return Node("arithmetic", token.start, inner.end, token.text, (inner,))
        if token.text == "(":
            inner = self._expression(0)
            if self._is(","):
                raise self._wrong(self._next, "Several values in brackets are no value.", "Write one of them.")
            end = self._expect(")", "after what the bracket holds")
            return Node(inner.kind, token.start, end.end, inner.name, inner.inner if inner.inner else (inner,))
        if token.word == "NOT":
            inner = self._expression(_NOT)
            return Node("logic", token.start, inner.end, "NOT", (inner,))
        if token.word == "NULL":
            return Node("null", token.start, token.end)
        if token.word in ("TRUE", "FALSE"):
            return Node("logic", token.start, token.end)
        if token.word == "CASE":
            return self._case(token)
        if token.word == "CAST":
            return self._cast(token)
        if token.word in _NEVER:
            raise self._forbidden(token)
        if token.kind == "name" and token.word not in _KEYWORDS:
            return self._call(token) if self._is("(") else Node("column", token.start, token.end, token.text)
        raise self._wrong(token, f"“{token.text[:40]}” cannot stand here.", "Write a column or a value before it.")

    def _case(self, begin: Token) -> Node:
        inner: list[Node] = []
        if not self._is("WHEN"):
            inner.append(_test_of(self._expression(0)))
        if not self._is("WHEN"):
            self._expect("WHEN", "in CASE")
        while self._is("WHEN"):
            self._take()
            inner.append(_test_of(self._expression(0)))
            self._expect("THEN", "after the condition of WHEN")
            inner.append(self._expression(0))
        if self._is("ELSE"):
            self._take()
            inner.append(self._expression(0))
        end = self._expect("END", "at the end of CASE")
        return Node("case", begin.start, end.end, "CASE", tuple(inner))

    def _cast(self, begin: Token) -> Node:
        self._expect("(", "after CAST")
        inner = self._expression(0)
        self._expect("AS", "in CAST")
        kind = self._take()
        if kind.word not in _TYPES:
            raise self._wrong(kind, "CAST makes TEXT, INTEGER, REAL or NUMERIC.", "Write one of these.")
        end = self._expect(")", "at the end of CAST")
        return Node("other", begin.start, end.end, kind.word, (inner,))

    def _call(self, begin: Token) -> Node:
        self._take()
        name = begin.text.lower()
        found = FUNCTIONS.get(name)
        if found is None and name != "as_of":
            if name in ("sum", "avg", "count", "total", "group_concat", "median"):
                raise self._wrong(begin, f"{name}() looks at many rows.", "Use a line that counts and sums.")
            raise self._wrong(
                begin, f"There is no function {begin.text[:40]}().", "The list of functions is beside the expression."
            )
        inner: list[Node] = []
        if self._is("DISTINCT"):
            raise self._wrong(self._next, "DISTINCT looks at many rows.", "Use a line that counts and sums.")
        while not self._is(")"):
            if self._is("*"):
                raise self._wrong(self._next, "* looks at whole rows.", "Write the columns that are meant.")
            inner.append(self._expression(0))
            if not self._is(","):
                break
            self._take()
        end = self._expect(")", f"after the values of {name}()")
        least, most = (found.least, found.most) if found is not None else (0, 0)
        if len(inner) < least or (most is not None and len(inner) > most):
            if found is not None and most == 1 and name in ("max", "min"):
                raise self._wrong(begin, f"{name}() compares values of one row.", "Give it two values at least.")
            takes = found.takes if found is not None else "nothing"
            raise mistake(
                self._text,
                begin.start,
                end.end,
                f"{name}() takes {_number_words(least, most)}: {takes}.",
                f"It has {len(inner)} here.",
            )
        self._check_moments(name, inner)
        return Node("call", begin.start, end.end, name, tuple(inner))

    def _check_moments(self, name: str, inner: list[Node]) -> None:
        """What depends on the clock, or on this machine's zone, would be another value for the same table."""
        if name not in ("date", "time", "datetime", "julianday", "unixepoch", "strftime"):
            return
        for one in inner:
            word = one.name.lower() if one.kind == "text" else ""
            if word == "now":
                do = "Write as_of(): the moment of the snapshot."
                raise mistake(self._text, one.start, one.end, "'now' is another value at every look.", do)
            if word in ("localtime", "utc"):
                do = "Use local_time(date, 'Europe/Berlin')."
                raise mistake(self._text, one.start, one.end, f"'{word}' depends on this machine's time zone.", do)

    # What goes on after one ----------------------------------------------------------------------------------------

    def _infix(self, left: Node, least: int) -> Node | None:
        token = self._next
        text = token.text if token.kind == "operator" else token.word
        if text == "OR" and least < _OR:
            return self._binary(left, _OR, "logic")
        if text == "AND" and least < _AND:
            return self._binary(left, _AND, "logic")
        if least < _EQUAL:
            made = self._equal(left, text)
            if made is not None:
                return made
        if text in _ORDERED and least < _LESS:
            return self._binary(left, _LESS, "logic")
        if text in _BITS and least < _BIT:
            return self._binary(left, _BIT, "arithmetic")
        if text in ("+", "-") and least < _SUM:
            return self._binary(left, _SUM, "arithmetic")
        if text in ("*", "/", "%") and least < _PRODUCT:
            return self._binary(left, _PRODUCT, "arithmetic")
        if text in ("||", "->", "->>") and least < _JOINED:
            return self._binary(left, _JOINED, "joined" if text == "||" else "other")
        if text == "COLLATE" and least < _COLLATE:
            self._take()
            name = self._take()
            if name.word not in _COLLATIONS:
                raise self._wrong(name, "COLLATE takes BINARY, NOCASE or RTRIM.", "Write one of these.")
            return Node(left.kind, left.start, name.end, left.name, left.inner or (left,))
        return None

    def _binary(self, left: Node, power: int, kind: NodeKind) -> Node:
        token = self._take()
        right = self._expression(power)
        return Node(kind, left.start, right.end, token.word or token.text, (left, right))

    def _equal(self, left: Node, text: str) -> Node | None:
        if text in _COMPARED:
            return self._binary(left, _EQUAL, "logic")
        if text in ("ISNULL", "NOTNULL"):
            return Node("logic", left.start, self._take().end, text, (left,))
        if text == "IS":
            self._take()
            if self._is("NOT"):
                self._take()
            if self._is("DISTINCT"):
                self._take()
                self._expect("FROM", "after IS DISTINCT")
            right = self._expression(_EQUAL)
            return Node("logic", left.start, right.end, "IS", (left, right))
        if text == "NOT":
            after = self._tokens[self._at + 1]
            if after.word == "NULL":
                self._take()
                return Node("logic", left.start, self._take().end, "NOTNULL", (left,))
            if after.word not in _TESTS:
                return None
            self._take()
            text = after.word
        return self._test(left, text) if text in _TESTS else None

    def _test(self, left: Node, text: str) -> Node:
        token = self._take()
        if text == "MATCH":
            raise self._wrong(token, "MATCH needs a search index.", "Use LIKE, or the function matches().")
        if text == "BETWEEN":
            low = self._expression(_EQUAL)
            self._expect("AND", "in BETWEEN")
            high = self._expression(_EQUAL)
            return Node("logic", left.start, high.end, text, (left, low, high))
        if text == "IN":
            self._expect("(", "after IN")
            inner = [left]
            while not self._is(")"):
                inner.append(self._expression(0))
                if not self._is(","):
                    break
                self._take()
            end = self._expect(")", "after the values of IN")
            return Node("logic", left.start, end.end, text, tuple(inner))
        pattern = self._expression(_EQUAL)
        inner = [left, pattern]
        if self._is("ESCAPE"):
            self._take()
            inner.append(self._expression(_EQUAL))
            if inner[-1].kind != "text" or len(inner[-1].name) != 1:
                raise mistake(
                    self._text, inner[-1].start, inner[-1].end, "ESCAPE takes one character.", "Such as ESCAPE '\\'."
                )
        return Node("logic", left.start, inner[-1].end, text, tuple(inner))


def _number_words(least: int, most: int | None) -> str:
    if most is None:
        return f"{least} values or more"
    if least == most:
        return "no value" if least == 0 else "one value" if least == 1 else f"{least} values"
    return f"{least} to {most} values"
