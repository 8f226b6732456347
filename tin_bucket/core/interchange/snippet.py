"""Read a call out of a piece of program code, as the docs of many APIs show it: its address, method and headers."""

from __future__ import annotations

import re
from urllib.parse import quote

from tin_bucket.core.masking.looks import looks_secret

from .command_line import RawCall
from .paste_values import json_of

_QUOTED = r"""(?P<quote>["'`])(?P<address>https?://[^\s"'`]+)(?P=quote)"""
# Where code names an address: as the argument of a call, or as the value of a name.
_ADDRESS = re.compile(rf"""(?:\(|=|:=|\burl["']?\s*(?::|=>|,))\s*[rfbu]?{_QUOTED}""", re.IGNORECASE)
_PAIR = re.compile(r"""["']([A-Za-z][\w-]{1,60})["']\s*(?::|=>|,)\s*[rfbu]?["'`]([^"'`\n]*)["'`]""")
_LINE = re.compile(r"""["']([A-Za-z][\w-]{1,60}):\s+([^"'\n]+)["']""")
_METHOD = re.compile(
    r"""\b(?:method|type|customrequest)["']?\s*(?::|=>|=|,)\s*["'](get|post|put|patch|delete|head)["']"""
    r"""|\.(get|post|put|patch|delete|head)\s*\(|["'](get|post|put|patch|delete|head)["']\s*,\s*["'`]https?:""",
    re.IGNORECASE,
)
_HEADERS = ("authorization", "cookie", "accept", "token")


def is_snippet(text: str) -> bool:
    """Whether a text is code that names an address. Data with addresses in it is none: JSON, or rows of a sheet."""
    return "\t" not in text and bool(_ADDRESS.search(text)) and json_of(text) is None


def read_snippet(text: str) -> RawCall:
    """The call that a piece of code makes, as far as it stands there in plain words."""
    found = _ADDRESS.search(text)
    assert found is not None
    address = found["address"]
    headers: list[tuple[str, str]] = []
    for name, value in [*_PAIR.findall(text), *_LINE.findall(text)]:
        if name.lower() in _HEADERS or ("-" in name and name.lower() != "content-type"):
            headers.append((name, value.strip()))
        elif looks_secret(name, value) and value:
            address += ("&" if "?" in address else "?") + f"{quote(name)}={quote(value, safe='')}"
    method = next((one for one in _METHOD.findall(text)), ())
    note = "This was read out of a piece of code: its address, method and headers. What else it does was not read."
    return RawCall(next((one.upper() for one in method if one), "GET"), address, headers, notes=[note])
