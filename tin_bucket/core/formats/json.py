"""Bytes of an answer → JSON values, without harming long numbers, and errors said in words (RFC 8259)."""

from __future__ import annotations

import codecs
import json
import re
from typing import Any

import orjson

from tin_bucket.core.problem import ProblemError, fail

# Every digit becomes "0", so that a run of twenty digits is found by one fast search.
_DIGITS = bytes(48 if 48 <= byte <= 57 else byte for byte in range(256))
_LONG = b"0" * 20


def to_utf8(data: bytes, charset: str = "") -> bytes:
    """The same text in UTF-8 without a byte order mark; `charset` is what the answer's header names, if anything.

    Raises:
        ProblemError: ``not-text`` where the bytes are not of the charset.
    """
    if data.startswith(codecs.BOM_UTF8):
        return data[3:]
    wide = {codecs.BOM_UTF16_LE: "utf-16", codecs.BOM_UTF16_BE: "utf-16"}.get(data[:2])
    name = wide or charset.strip().strip("\"'").lower() or "utf-8"
    if name in ("utf-8", "utf8", "us-ascii", "ascii"):
        return data
    try:
        return data.decode(name).encode()
    except (LookupError, UnicodeError) as error:
        raise fail(
            "not-text",
            f"The answer says that it is in the charset “{name}”, and it cannot be read so.",
            do="Ask the service's owner which charset it sends.",
        ) from error


def parse_json(data: bytes) -> Any:
    """Parse UTF-8 JSON text. Whole numbers keep every digit, however long they are.

    Raises:
        ProblemError: ``not-json`` or ``cut-off``, with line and column of the fault.
    """
    try:
        if _LONG in data.translate(_DIGITS):
            # orjson would turn a whole number of more than 64 bits into a float.
            return json.loads(data)
        return orjson.loads(data)
    except (ValueError, RecursionError) as error:
        raise _explain(data, error) from error


def _explain(data: bytes, error: Exception) -> Exception:
    try:
        text = data.decode()
    except UnicodeDecodeError as fault:
        looks = data.lstrip()[:1] in (b"{", b"[")
        return fail(
            "not-utf-8" if looks else "not-json",
            f"The answer is not JSON: byte {fault.start + 1} is not UTF-8 text.",
            do="Look at the answer; the address may give a file of another kind.",
        )
    if isinstance(error, RecursionError):
        return fail("not-json", "The answer is nested too deep to be read.", do="Ask for a smaller part of it.")
    try:
        json.loads(text)
    except json.JSONDecodeError as fault:
        if fault.pos >= len(text.rstrip()) or fault.msg.startswith("Unterminated string"):
            return fail(
                "cut-off",
                f"The answer is cut off after {len(data):,} bytes, in line {fault.lineno}: the JSON is incomplete.",
                do="Ask again; if it happens each time, ask for fewer rows a page.",
            )
        return fail(
            "not-json",
            f"The answer is not JSON: line {fault.lineno}, column {fault.colno}: {fault.msg}.",
            do="Look at the answer; the address may give something else than data.",
        )
    except ValueError:
        return fail(
            "not-json",
            "The answer holds a whole number of more than 4,300 digits.",
            do="Ask the service's owner to send such a number as text.",
        )
    except RecursionError:
        return fail("not-json", "The answer is nested too deep to be read.", do="Ask for a smaller part of it.")
    if re.search(r"\b(?:NaN|Infinity)\b", text):
        return fail(
            "not-a-number",
            "The answer holds a number that JSON does not know (NaN or Infinity).",
            do="Ask the service's owner to send null there.",
        )
    return fail(
        "not-json",
        "The answer holds a broken character.",
        do="Ask the service's owner to send valid JSON.",
    )


def parse_lines(data: bytes) -> list[Any] | None:
    """JSON Lines: a JSON value in each line, as a list; ``None`` when the text is none, or has a single line."""
    lines = [line for line in data.splitlines() if line.strip()]
    if len(lines) < 2 or not all(line.lstrip()[:1] in (b"{", b"[") for line in lines):
        return None
    try:
        return [parse_json(line) for line in lines]
    except ProblemError:
        return None


def parse_loosely(data: bytes) -> tuple[Any, int]:
    """Parse JSON in which NaN and Infinity stand for numbers; they become ``None``, and are counted.

    Raises:
        ProblemError: ``not-json``, as :func:`parse_json`.
    """
    odd = 0

    def nothing(_: str) -> None:
        nonlocal odd
        odd += 1

    try:
        return json.loads(data, parse_constant=nothing), odd
    except (ValueError, RecursionError) as error:
        raise _explain(data, error) from error


def doubled_keys(data: bytes, most: int = 2_000_000) -> list[str]:
    """Names that stand more than once in one object, of which the last counts; of a long text nothing is said."""
    if len(data) > most:
        return []
    found: dict[str, None] = {}

    def pairs(members: list[tuple[str, Any]]) -> None:
        names = [name for name, _ in members]
        if len(set(names)) < len(names):
            found.update(dict.fromkeys(name for name in names if names.count(name) > 1))

    try:
        json.loads(data, object_pairs_hook=pairs)
    except (ValueError, RecursionError):
        return []
    return list(found)


def json_bytes(value: Any) -> bytes:
    """A JSON value as compact text in UTF-8, for digests; lone surrogates survive."""
    try:
        return orjson.dumps(value)
    except TypeError:
        return json.dumps(value, ensure_ascii=False, separators=(",", ":")).encode("utf-8", "surrogatepass")


def json_text(value: Any) -> str:
    """A JSON value as compact text; long whole numbers and lone surrogates survive."""
    try:
        return orjson.dumps(value).decode()
    except TypeError:
        return json.dumps(value, ensure_ascii=False, separators=(",", ":"))
