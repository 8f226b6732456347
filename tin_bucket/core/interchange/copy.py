"""A call as text to copy: as an address, and as a shell command. The key is a variable's name, never its text."""

from __future__ import annotations

import re
import shlex

from tin_bucket.core.auth.credentials import Key
from tin_bucket.core.auth.sign import shown
from tin_bucket.core.request.call import Call

# All but tab and line end, which stand between quotes.
_CONTROL = re.compile(r"[\x00-\x08\x0b-\x1f\x7f-\x9f]")


def as_address(call: Call, key: Key | None) -> str:
    """The call's address; a key in it is masked."""
    return shown(call, key).address


def as_command(call: Call, key: Key | None) -> str:
    """The call as a command line for a POSIX shell.

    The key is a shell variable such as ``$KEY``, which the person who runs it sets.

    Returns:
        Nothing for a call that holds a control character: a shell takes no NUL, and a terminal acts on others while it
        is pasted.
    """
    if _CONTROL.search("\n".join(_texts(call))):
        return ""
    told = shown(call, key, lambda field: f"\x00{variable(field)}\x00")
    lines = [
        f"curl -X {told.method} {_quote(told.address)}" if told.method != "GET" else f"curl {_quote(told.address)}"
    ]
    if told.method == "HEAD":
        lines[0] = f"curl --head {_quote(told.address)}"
    user = key is not None and any(place.at == "user and password" for place in key.places)
    for name, value in told.headers:
        if user and "\x00BASIC\x00" in value:
            lines.append('-u "$USER_NAME:$PASSWORD"')
        else:
            lines.append(f"-H {_quote(f'{name}: {value}')}")
    if told.body is not None:
        lines.append(f"--data-raw {_quote(told.body)}")
    return " \\\n  ".join(lines)


def _texts(call: Call) -> list[str]:
    body = "" if call.body is None else call.body.decode("utf-8", "replace")
    return [call.method, call.address, *(text for header in call.headers for text in header), body]


def variable(field: str) -> str:
    """The name of the variable that stands for a field of the key (POSIX.1-2017, 3.235)."""
    name = re.sub(r"[^A-Z0-9]+", "_", field.upper()).strip("_") or "KEY"
    return f"KEY_{name}" if name[0].isdigit() else name


def _quote(text: str) -> str:
    """Quoted for a POSIX shell; what stands between NULs is a variable, which only double quotes let through."""
    parts = text.split("\x00")
    out = []
    for at, part in enumerate(parts):
        if at % 2:
            out.append(f'"${part}"')
        elif part or len(parts) == 1:
            out.append(shlex.quote(part))
    return "".join(out)
