"""The text of a report: Markdown (CommonMark 0.31) in which braces stand for live figures.

``{late sailings}`` is the figure of that name; ``{late sailings: change}`` says how it moved. What stands between
``{when late sailings above 30}`` and ``{end}`` is shown only when that holds. A brace behind a backslash is a brace.
HTML in the text is text, pictures are left out, and addresses lead to the web or to mail alone.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from html import escape
from typing import Any

from markdown_it import MarkdownIt
from markdown_it.renderer import RendererHTML
from markdown_it.rules_inline import StateInline
from markdown_it.token import Token

from .condition import REPORT_TESTS

PARTS = ("change", "moved", "percent", "then", "amount")
MOST_TEXT = 50_000
_BRACES = re.compile(r"(?<!\\)\{([^{}\n]{1,400})\}")
_SIGNS = {sign: one.key for one in REPORT_TESTS for sign in (one.key, *one.signs)}
_WORDS = "|".join(re.escape(one) for one in sorted(_SIGNS, key=len, reverse=True))
_WHEN = re.compile(
    rf"when\s+(?P<ref>.+?)\s*(?P<test>(?<=[\s:])(?:{_WORDS})(?=\s|$|[\d−-])|[<>=≤≥≠]+)\s*(?P<value>.*)", re.S
)


@dataclass(frozen=True, slots=True)
class Reference:
    """A place where a text says a figure.

    Attributes:
        name: of the figure.
        part: what is said of it: the value itself where empty, else one of :data:`PARTS`.
    """

    name: str
    part: str = ""


@dataclass(frozen=True, slots=True)
class When:
    """A condition in a text."""

    of: Reference
    test: str
    value: str


@dataclass(frozen=True, slots=True)
class Said:
    """What stands in the place of a reference.

    Attributes:
        text: the words.
        html: the same, made harmless.
    """

    text: str
    html: str


@dataclass(frozen=True, slots=True)
class Written:
    """A text as it is read.

    Attributes:
        html: harmless HTML.
        text: the same as plain text, paragraphs parted by blank lines.
        odd: what is wrong with it, in sentences.
    """

    html: str
    text: str
    odd: tuple[str, ...] = ()


def reference(words: str) -> Reference:
    """What stands between two braces."""
    name, _, part = words.partition(":")
    return Reference(" ".join(name.split()), " ".join(part.split()).casefold())


def condition(words: str) -> When | None:
    """What stands behind “when”; nothing where it cannot be read."""
    found = _WHEN.fullmatch(words.strip())
    if found is None:
        return None
    test = _SIGNS.get(found["test"])
    if test is None or (test != "blank" and not found["value"].strip()):
        return None
    return When(reference(found["ref"]), test, found["value"].strip())


def references(text: str) -> list[Reference]:
    """The figures that a text says, in their order, those of conditions among them."""
    out = []
    for words in _BRACES.findall(text):
        if words.strip().casefold() == "end":
            continue
        if words.casefold().startswith("when "):
            when = condition(words)
            if when is not None:
                out.append(when.of)
        else:
            out.append(reference(words))
    return out


def shown(text: str, holds: Callable[[When], bool | None]) -> tuple[str, list[str]]:
    """A text without what is not to be shown, and what is wrong with its conditions, in sentences.

    Args:
        holds: whether a condition holds; nothing where that cannot be told: what stands behind it is left out.
    """
    out: list[str] = []
    odd: list[str] = []
    stack: list[bool] = []
    last = 0
    for found in _BRACES.finditer(text):
        words = found[1].strip()
        is_end = words.casefold() == "end"
        if not is_end and not words.casefold().startswith("when "):
            continue
        if all(stack):
            out.append(text[last : found.start()])
        last = found.end()
        if is_end:
            if stack:
                stack.pop()
            else:
                odd.append("An {end} has no {when …} before it.")
            continue
        when = condition(words)
        if when is None:
            odd.append(f"“{words[:120]}” cannot be read. Write, for example, {{when late sailings above 30}}.")
            stack.append(False)
            continue
        held = holds(when)
        if held is None:
            odd.append(f"Whether “{words[:120]}” holds cannot be told now.")
        stack.append(bool(held))
    if all(stack):
        out.append(text[last:])
    if stack:
        odd.append("A {when …} has no {end}.")
    return "".join(out), odd


def _figure(state: StateInline, silent: bool) -> bool:
    """An inline rule: braces are a token of their own."""
    if state.src[state.pos] != "{":
        return False
    found = _BRACES.match(state.src, state.pos)
    if found is None:
        return False
    if not silent:
        token = state.push("figure", "", 0)
        token.content = found[1]
    state.pos = found.end()
    return True


class _Markdown(MarkdownIt):
    """CommonMark without HTML and pictures."""

    def validateLink(self, url: str) -> bool:
        """Whether a link leads to the web or to mail."""
        return bool(re.match(r"(https?://|mailto:)", url.strip(), re.IGNORECASE))


def _markdown() -> MarkdownIt:
    made = _Markdown("commonmark", {"html": False, "linkify": False}).enable("strikethrough")
    made.disable(["image", "html_block", "html_inline"], ignoreInvalid=True)
    made.inline.ruler.before("link", "figure", _figure)
    return made


_MARKDOWN = _markdown()


def write(text: str, say: Callable[[Reference], Said], holds: Callable[[When], bool | None]) -> Written:
    """A text with its figures.

    Args:
        say: gives what stands in the place of a reference.
        holds: as for :func:`shown`.
    """
    seen, odd = shown(text, holds)
    tokens = _MARKDOWN.parse(seen)
    for token in _each(tokens):
        if token.type in ("heading_open", "heading_close"):
            token.tag = f"h{min(6, int(token.tag[1]) + 1)}"
        if token.type == "link_open":
            token.attrSet("rel", "noopener noreferrer")
    html = RendererHTML()
    rules: dict[str, Any] = html.rules
    rules["figure"] = lambda own, at, options, env: say(reference(own[at].content)).html
    return Written(
        html.render(tokens, _MARKDOWN.options, {}), "\n\n".join(_plain(tokens, say)), tuple(dict.fromkeys(odd))
    )


def _each(tokens: Sequence[Token]) -> Iterator[Token]:
    for token in tokens:
        yield token
        yield from token.children or ()


def _plain(tokens: Sequence[Token], say: Callable[[Reference], Said]) -> Iterator[str]:
    """The paragraphs, headings and items as plain text."""
    item = ""
    for token in tokens:
        if token.type == "list_item_open":
            item = f"{token.info}. " if token.info else "- "
        elif token.type in ("fence", "code_block"):
            yield token.content.rstrip("\n")
        elif token.type == "inline":
            yield item + "".join(_words(one, say) for one in token.children or ())
            item = ""


def _words(token: Token, say: Callable[[Reference], Said]) -> str:
    if token.type == "figure":
        return say(reference(token.content)).text
    if token.type in ("softbreak", "hardbreak"):
        return "\n" if token.type == "hardbreak" else " "
    return token.content if token.type in ("text", "code_inline") else ""


def harmless(text: str) -> str:
    """A text as HTML."""
    return escape(text, quote=True)
