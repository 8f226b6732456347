"""Paste to begin: what was pasted is told apart, and a call is taken apart into service, question and key."""

from __future__ import annotations

import re

from .command_line import is_http_text
from .snippet import is_snippet

HOST = re.compile(r"(\[[0-9a-fA-F:.]+\]|[\w-]+(\.[\w-]+)+|localhost)(:\d+)?([/?#]|\Z)")


def paste_kind(text: str) -> str:
    """What a pasted text is: ``call`` or ``sheet``."""
    stripped = text.strip()
    first = stripped.split("\n", 1)[0]
    if _is_address(first.strip()) or is_http_text(stripped) or is_command(stripped) or is_snippet(stripped):
        return "call"
    if stripped[:1] in "[{" or "\n" in stripped or "\t" in stripped:
        return "sheet"
    return "call"


def bare_text(text: str) -> str:
    """An address without the quotes or angle brackets around it (RFC 3986 appendix C)."""
    text = text.strip()
    for opening, closing in ("<>", '""', "''", "``", "“”"):
        if text.startswith(opening) and text.endswith(closing) and len(text) > 1:
            return text[1:-1].strip()
    return text


def _is_address(line: str) -> bool:
    bare = bare_text(line)
    return not re.search(r"\s", bare) and (bool(re.match(r"https?://", bare, re.I)) or bool(HOST.match(bare)))


def is_command(text: str) -> bool:
    first = re.sub(r"\A[$>%]\s+", "", text)
    has_address = bool(re.search(r"https?://|\s['\"]?[\w-]+(\.[\w-]+)+/", first))
    return bool(re.match(r"[\w./-]+(\.exe)?\s", first)) and (
        (bool(re.search(r"\s-{1,2}[A-Za-z]", first)) and has_address) or bool(re.match(r"\S+\s+['\"]?https?://", first))
    )
