"""The tokens of an SQL expression (SQLite's tokenizer)."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from tin_bucket.core.work_out.expression.mistake import mistake

TokenKind = Literal["name", "quoted name", "text", "number", "operator", "end"]

_TOKEN = re.compile(
    r"""(?P<space>\s+)
    |(?P<quoted>"(?:[^"]|"")*"|\[[^\]]*\]|`(?:[^`]|``)*`)
    |(?P<text>'(?:[^']|'')*')
    |(?P<number>0[xX][0-9a-fA-F]+|(?:\d+(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d+)?)
    |(?P<name>[^\W\d][\w$]*)
    |(?P<operator>->>|->|\|\||<<|>>|<=|>=|<>|!=|==|[-+*/%<>=(),&|~.])""",
    re.VERBOSE,
)
_OPEN = {"'": "text", '"': "name", "[": "name", "`": "name"}


@dataclass(frozen=True, slots=True)
class Token:
    """A token.

    Attributes:
        text: as it stands there.
        start, end: where, in characters of the expression.
    """

    kind: TokenKind
    text: str
    start: int
    end: int

    @property
    def word(self) -> str:
        """A bare name in upper case, as keywords are compared; empty for anything else."""
        return self.text.upper() if self.kind == "name" else ""

    @property
    def value(self) -> str:
        """What a quoted name or a text says, without its quotes."""
        if self.kind not in ("quoted name", "text"):
            return self.text
        inner, mark = self.text[1:-1], self.text[-1]
        return inner if mark == "]" else inner.replace(mark * 2, mark)


def tokens_of(text: str) -> list[Token]:
    """The tokens of an expression, with one at the end that says so.

    Raises:
        ProblemError: ``expression-unreadable``, with the place.
    """
    out: list[Token] = []
    at = 0
    while at < len(text):
        found = _TOKEN.match(text, at)
        if found is None:
            raise _unreadable(text, at)
        group = found.lastgroup or ""
        if group != "space":
            kind: TokenKind = "quoted name" if group == "quoted" else group  # type: ignore[assignment]
            out.append(Token(kind, found.group(), at, found.end()))
        at = found.end()
    out.append(Token("end", "", len(text), len(text)))
    return out


def _unreadable(text: str, at: int) -> Exception:
    char = text[at]
    if char in _OPEN:
        return mistake(text, at, len(text), f"This {_OPEN[char]} has no end.", f"Close it with {_closing(char)}.")
    if char == ";":
        return mistake(
            text, at, at + 1, "A second statement cannot stand here.", "Write one expression, without a semicolon."
        )
    if char in "?:@$":
        return mistake(
            text, at, at + 1, f"“{char}” stands for no value here.", "Write the value itself, a text in single quotes."
        )
    if char in "“”‘’":
        return mistake(
            text, at, at + 1, f"SQL does not read {char} as a quote.", "Use ' around a text and \" around a column."
        )
    return mistake(text, at, at + 1, f"“{char}” cannot stand here.", "Take it out.")


def _closing(char: str) -> str:
    return "]" if char == "[" else char
