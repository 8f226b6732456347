"""A shell command line → words, with the quoting rules of POSIX.1-2017 §2.2 and what the docs of APIs add to them."""

from __future__ import annotations

from dataclasses import dataclass

from tin_bucket.core.problem import fail

_ESCAPES = {"n": "\n", "t": "\t", "r": "\r", "a": "\a", "b": "\b", "f": "\f", "v": "\v", "0": "\0", "e": "\x1b"}
_ENDS = ("|", "&&", "||", ";", ">", "<", "2>")


@dataclass(frozen=True, slots=True)
class Word:
    """One word of a command line, and where it began, counted from 0."""

    text: str
    start: int


def split_words(text: str) -> tuple[list[Word], str]:
    """Split one command line.

    Line continuations may be a backslash, or the caret or backtick of other shells, at the end of a line. ``$'…'``
    has the escapes of C. Variables such as ``$KEY`` stay as they are.

    Returns:
        The words, and what was left out after a pipe, a redirection or the end of the command.

    Raises:
        ProblemError: ``command-unreadable``, with the place of the quote that is not closed.
    """
    words: list[Word] = []
    position, length = 0, len(text)
    while True:
        position = _skip_space(text, position)
        if position >= length:
            return words, ""
        if text[position] == "#" and words:
            end = text.find("\n", position)
            position = length if end < 0 else end
            continue
        for end_mark in _ENDS:
            if text.startswith(end_mark, position):
                return words, text[position:].strip()
        if text[position] == "\n":
            rest = text[position:].strip()
            # A new line begins another command, unless an option stands there: a continuation that was lost.
            if words and rest and not rest.startswith("-"):
                return words, rest
            position += 1
            continue
        start = position
        word, position = _word(text, position)
        words.append(Word(word, start))


def _skip_space(text: str, position: int) -> int:
    while position < len(text):
        char = text[position]
        if char in " \t\r\u00a0":
            position += 1
        elif char in "\\^`" and text[position + 1 : position + 2] in ("\n", "\r"):
            position = text.index("\n", position) + 1 if "\n" in text[position:] else len(text)
        elif char in "\\^`" and not text[position + 1 :].strip():
            position = len(text)
        else:
            break
    return position


def _word(text: str, position: int) -> tuple[str, int]:
    parts: list[str] = []
    while position < len(text):
        char = text[position]
        if char in " \t\r\n|;<>\u00a0" or text.startswith("&&", position):
            break
        if char == "'":
            end = text.find("'", position + 1)
            if end < 0:
                raise _unclosed(text, position, "single")
            parts.append(text[position + 1 : end])
            position = end + 1
        elif char in '"\u201c':
            piece, position = _double(text, position)
            parts.append(piece)
        elif text.startswith("$'", position):
            piece, position = _c_quoted(text, position)
            parts.append(piece)
        elif char == "\\":
            following = text[position + 1 : position + 2]
            parts.append("" if following == "\n" else following)
            position += 2
        elif char == "^" and text[position + 1 : position + 2] in ("\n", '"', "^", "&", "%"):
            parts.append("" if text[position + 1] == "\n" else text[position + 1])
            position += 2
        else:
            parts.append(char)
            position += 1
    return "".join(parts), position


def _double(text: str, start: int) -> tuple[str, int]:
    closing = '"' if text[start] == '"' else "\u201d"
    parts: list[str] = []
    position = start + 1
    while position < len(text):
        char = text[position]
        if char == closing:
            return "".join(parts), position + 1
        if char == "\\" and text[position + 1 : position + 2] in ("$", "`", '"', "\\", "\n"):
            following = text[position + 1]
            parts.append("" if following == "\n" else following)
            position += 2
        else:
            parts.append(char)
            position += 1
    raise _unclosed(text, start, "double")


def _c_quoted(text: str, start: int) -> tuple[str, int]:
    parts: list[str] = []
    position = start + 2
    while position < len(text):
        char = text[position]
        if char == "'":
            return "".join(parts), position + 1
        if char != "\\":
            parts.append(char)
            position += 1
            continue
        following = text[position + 1 : position + 2]
        digits = {"x": 2, "u": 4, "U": 8}.get(following, 0)
        code = ""
        while digits and len(code) < digits and text[position + 2 + len(code) : position + 3 + len(code)].isalnum():
            try:
                int(text[position + 2 + len(code)], 16)
            except ValueError:
                break
            code += text[position + 2 + len(code)]
        if code and int(code, 16) <= 0x10FFFF:
            parts.append(chr(int(code, 16)))
            position += 2 + len(code)
        else:
            parts.append(_ESCAPES.get(following, following))
            position += 2
    raise _unclosed(text, start, "single")


def place_in(text: str, position: int) -> str:
    """A position in words: the line, where there are several, and the character, both counted from 1."""
    line = text.count("\n", 0, position) + 1
    column = position - (text.rfind("\n", 0, position) + 1) + 1
    return f"line {line}, character {column}" if "\n" in text.strip() else f"character {position + 1}"


def _unclosed(text: str, position: int, kind: str) -> Exception:
    return fail(
        "command-unreadable",
        f"The {kind} quote at {place_in(text, position)} is not closed.",
        where=f"the paste box, {place_in(text, position)}",
        do="Paste the whole command, up to the closing quote.",
    )
