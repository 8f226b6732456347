"""Ways to misbehave with keys: the service repeats whatever key it was sent, spelled in many ways, wherever it can."""

from __future__ import annotations

import base64
import html
import json
from collections.abc import Awaitable, Callable
from typing import Any
from urllib.parse import parse_qsl, quote, quote_plus

from aiohttp import web

Echo = Callable[[Any, web.Request, int], Awaitable[web.StreamResponse]]


def sent_keys(request: web.Request) -> list[str]:
    """The keys that a call carries: in the Authorization header (taken apart where it is Basic, RFC 7617), in a header
    X-Key, in a parameter ``key``."""
    found = []
    scheme, _, rest = request.headers.get("Authorization", "").partition(" ")
    if scheme.lower() == "basic":
        pair = base64.b64decode(rest).decode("utf-8", "replace")
        found += [rest, pair, pair.partition(":")[2]]
    elif rest:
        found.append(rest)
    found += [request.headers.get("X-Key", ""), request.query.get("key", "")]
    return [one for one in found if one]


def spelled(key: str) -> dict[str, str]:
    """A key as services write it: name of the spelling → text."""
    data = key.encode()
    payload = json.dumps({"sub": "skerrywick", "key": key}).encode()
    return {
        "plain": key,
        "percent": quote(key, safe=""),
        "percent, small": quote(key, safe="").replace("%2F", "%2f").replace("%3D", "%3d").replace("%2B", "%2b"),
        "form": quote_plus(key),
        "JSON": json.dumps(key)[1:-1],
        "JSON in JSON": json.dumps(json.dumps({"key": key})),
        "HTML": html.escape(key),
        "HTML by hexadecimal numbers": "".join(f"&#x{ord(char):X};" for char in key),
        "every other in percent": "".join(
            "".join(f"%{byte:02x}" for byte in char.encode()) if at % 2 else char for at, char in enumerate(key)
        ),
        "JSON, all escaped": "".join(f"\\u{ord(char):04X}" for char in key),
        "HTML by numbers": "".join(f"&#{ord(char)};" for char in key),
        "hex": data.hex(),
        "HEX": data.hex().upper(),
        "Base64": base64.b64encode(data).decode(),
        "Base64 behind a user": base64.b64encode(b"ann:" + data).decode(),
        "Base64 behind others": base64.b64encode(b"yy:" + data + b"!").decode(),
        "Base64 for addresses": base64.urlsafe_b64encode(b"ann:" + data).decode().rstrip("="),
        "the body of a JWT": f"e30.{base64.urlsafe_b64encode(payload).decode().rstrip('=')}.c2ln",
        "Base64 in percent": quote(base64.b64encode(data).decode(), safe=""),
        "backwards nowhere": "harmless",
    }


def _rows(request: web.Request) -> list[dict[str, Any]]:
    rows: list[dict[str, Any]] = [{"id": 0, "spelling": "none", "echo": "none"}]
    for key in sent_keys(request):
        for name, text in spelled(key).items():
            rows.append({"id": len(rows), "spelling": name, "echo": text, "deep": [{text: [text, {"x": text}]}]})
    return rows


def _headers(request: web.Request) -> dict[str, str]:
    """The first key in a header of the answer, where a header takes it."""
    found = sent_keys(request)
    return {"X-Sent": quote(found[0], safe="")} if found else {}


async def _repeats(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    rows = _rows(request)
    body = json.dumps({"total": len(rows), "rows": rows, "sent": sent_keys(request)})
    return web.Response(text=body, content_type="application/json", headers=_headers(request))


async def _repeats_in_utf16(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    body = json.dumps({"rows": _rows(request)}, ensure_ascii=False).encode("utf-16")
    return web.Response(body=body, headers={"Content-Type": "application/json; charset=utf-16"})


async def _repeats_in_an_error(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    told = " / ".join(text for key in sent_keys(request) for text in spelled(key).values())
    body = json.dumps({"title": f"Not with {told}", "detail": told, "status": 400, told[:200]: told})
    return web.Response(status=400, text=body, content_type="application/problem+json", headers=_headers(request))


async def _repeats_in_a_page(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    told = " / ".join(text for key in sent_keys(request) for text in spelled(key).values())
    page = f"<html><head><title>No: {told}</title></head><body>{told}</body></html>"
    return web.Response(status=500, text=page, content_type="text/html")


async def _redirects_with_it(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    key = quote((sent_keys(request) or ["none"])[0], safe="")
    raise web.HTTPFound(f"/keyed/{key}/ways/repeats-key?seen={key}")


async def _redirects_for_ever(service: Any, request: web.Request, times: int) -> web.StreamResponse:
    key = quote((sent_keys(request) or ["none"])[0], safe="")
    raise web.HTTPFound(f"/keyed/{key}/ways/redirects-for-ever?n={times}")


ECHOES: dict[str, tuple[str, Echo]] = {
    "repeats-key": ("it repeats the key that it was sent, in many spellings, in values, names and a header", _repeats),
    "repeats-key-in-utf16": ("the same, in UTF-16", _repeats_in_utf16),
    "repeats-key-in-an-error": ("a refusal that repeats the key in its title and its details", _repeats_in_an_error),
    "repeats-key-in-a-page": ("an error page that repeats the key in its title", _repeats_in_a_page),
    "redirects-with-key": ("a redirect to a path with the key in it", _redirects_with_it),
    "redirects-for-ever": ("redirects to paths with the key in them, without end", _redirects_for_ever),
}


async def log_in(request: web.Request) -> web.StreamResponse:
    """A sign-in for made-up people: gives a token and repeats user and password; the user ``nobody`` is refused with
    them in the answer, ``wanderer`` is sent on with them in the address."""
    given = dict(request.query)
    if request.can_read_body:
        text = await request.text()
        try:
            given |= json.loads(text)
        except ValueError:
            given |= dict(parse_qsl(text, keep_blank_values=True))
    user, password = str(given.get("user", "")), str(given.get("password", ""))
    told = {name: spelled(f"{user}:{password}") | spelled(password) for name in ("sent", password)}
    if user == "wanderer" and "again" not in request.query:
        pieces = f"user={quote(user, safe='')}&password={quote(password, safe='')}"
        raise web.HTTPTemporaryRedirect(f"/login?{pieces}&again={quote(password, safe='')}")
    if user == "nobody":
        body = json.dumps({"error": {"message": f"{user} does not sign in with {password}", **told}})
        return web.Response(status=401, text=body, content_type="application/json", headers={"X-Sent": quote(password)})
    body = json.dumps({"token": f"tk-{password[::-1]}-9e41d2", **told})
    return web.Response(text=body, content_type="application/json", headers={"X-Sent": quote(password)})
