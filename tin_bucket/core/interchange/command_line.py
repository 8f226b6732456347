"""A shell command line that makes an HTTP call, or the call itself as text → its parts."""

from __future__ import annotations

import base64
import re
from collections.abc import Callable
from dataclasses import dataclass, field
from urllib.parse import quote_plus

from tin_bucket.core.problem import fail
from tin_bucket.core.request.bodies import FORM, JSON

from .shell import Word, place_in, split_words

METHODS = ("GET", "HEAD", "POST", "PUT", "PATCH", "DELETE")


@dataclass(slots=True)
class RawCall:
    """A call as it was pasted, key and all. It is never kept.

    Attributes:
        method: the HTTP method.
        address: the address.
        headers: names and values, in order.
        body: the body's text, or ``None``.
        fields: the fields of a multipart form, or ``None``.
        user: user and password, where they were given apart from the headers.
        notes: what was left out, for people.
    """

    method: str = ""
    address: str = ""
    headers: list[tuple[str, str]] = field(default_factory=list)
    body: str | None = None
    fields: list[tuple[str, str]] | None = None
    user: tuple[str, str] | None = None
    notes: list[str] = field(default_factory=list)

    def header(self, name: str) -> str | None:
        """The value of a header, by its name in any case."""
        return next((value for given, value in self.headers if given.lower() == name.lower()), None)


@dataclass(slots=True)
class _Reading:
    call: RawCall
    data: list[str] = field(default_factory=list)
    as_query: bool = False
    query: list[str] = field(default_factory=list)
    names_output: bool = False
    user: str = ""
    password: str | None = None


def _header(now: _Reading, value: str) -> None:
    name, colon, text = value.partition(":")
    if not colon and value.rstrip().endswith(";"):
        name, text = value.rstrip().removesuffix(";"), ""
    elif not colon:
        raise ValueError(f"“{value[:40]}” is not a header; it needs a colon")
    if name.strip():
        now.call.headers.append((name.strip(), text.strip()))


def _no_file(now: _Reading, value: str, what: str) -> bool:
    if value.startswith("@"):
        now.call.notes.append(
            f"{what} stands in a file ({value[1:] or 'none named'}), which is not here; paste its content."
        )
        return True
    return False


def _data(now: _Reading, value: str) -> None:
    now.data.append("" if _no_file(now, value, "The body") else value)


def _data_raw(now: _Reading, value: str) -> None:
    now.data.append(value)


def _url_encoded(now: _Reading, value: str) -> None:
    equals, at = value.find("="), value.find("@")
    if at >= 0 and (equals < 0 or at < equals):
        _no_file(now, value[at:], f"The value of {value[:at] or 'a field'}")
        now.data.append(f"{value[:at]}=")
    elif equals < 0:
        now.data.append(quote_plus(value))
    else:
        name = value[:equals]
        now.data.append((f"{name}=" if name else "") + quote_plus(value[equals + 1 :]))


def _json(now: _Reading, value: str) -> None:
    now.data.append("" if _no_file(now, value, "The body") else value)
    for name, text in (("Content-Type", JSON), ("Accept", JSON)):
        if now.call.header(name) is None:
            now.call.headers.append((name, text))


def _form(now: _Reading, value: str) -> None:
    name, equals, text = value.partition("=")
    if not equals:
        raise ValueError(f"“{value[:40]}” is not a form field; it needs a name, an equals sign and a value")
    if text[:1] in ("@", "<"):
        now.call.notes.append(f"The field {name} is a file, which is not here; enter its value.")
        text = ""
    now.call.fields = [*(now.call.fields or []), (name, text.strip('"') if text.startswith('"') else text)]


def _form_string(now: _Reading, value: str) -> None:
    name, _, text = value.partition("=")
    now.call.fields = [*(now.call.fields or []), (name, text)]


def _user(now: _Reading, value: str) -> None:
    now.user, colon, password = value.partition(":")
    now.password = password if colon else now.password


def _password(now: _Reading, value: str) -> None:
    now.password = value


def _cookie(now: _Reading, value: str) -> None:
    if "=" in value:
        now.call.headers.append(("Cookie", value))
    else:
        now.call.notes.append("Cookies stand in a file, which is not here.")


def _method(now: _Reading, value: str) -> None:
    method = value.upper()
    if method not in METHODS:
        raise ValueError(f"the method {value[:20]} is none of {', '.join(METHODS)}")
    now.call.method = method


def _address(now: _Reading, value: str) -> None:
    if now.call.address:
        now.call.notes.append("The command makes several calls; the first one was taken.")
    else:
        now.call.address = value


def _query(now: _Reading, value: str) -> None:
    name, equals, text = value.partition("=")
    now.query.append(f"{name}={quote_plus(text)}" if equals else value)


def _named(name: str) -> Callable[[_Reading, str], None]:
    return lambda now, value: now.call.headers.append((name, value))


def _left_out(what: str) -> Callable[[_Reading, str], None]:
    return lambda now, value: now.call.notes.append(what)


def _nothing(now: _Reading, value: str) -> None:
    return None


def _bearer(now: _Reading, value: str) -> None:
    now.call.headers.append(("Authorization", f"Bearer {value}"))


def _post(now: _Reading, value: str) -> None:
    _data_raw(now, value)


_WITH_VALUE: dict[str, Callable[[_Reading, str], None]] = {
    "-X": _method, "--request": _method, "--method": _method,
    "-H": _header, "--header": _header,
    "-d": _data, "--data": _data, "--data-ascii": _data, "--data-binary": _data,
    "--data-raw": _data_raw, "--post-data": _post, "--body-data": _post, "--data-urlencode": _url_encoded,
    "--json": _json, "-F": _form, "--form": _form, "--form-string": _form_string,
    "-u": _user, "--user": _user, "--http-user": _user, "--password": _password, "--http-password": _password,
    "--oauth2-bearer": _bearer, "-b": _cookie, "--cookie": _cookie,
    "-A": _named("User-Agent"), "--user-agent": _named("User-Agent"),
    "-e": _named("Referer"), "--referer": _named("Referer"),
    "--url": _address, "--url-query": _query,
    "-x": _left_out("The proxy was left out; it is set for the whole machine."),
    "--proxy": _left_out("The proxy was left out; it is set for the whole machine."),
    "-E": _left_out("The client certificate was left out."),
    "--cert": _left_out("The client certificate was left out."), "--key": _nothing, "--cacert": _nothing,
    "-o": _nothing, "--output": _nothing, "-O": _nothing, "-m": _nothing, "--max-time": _nothing,
    "--connect-timeout": _nothing, "--retry": _nothing, "--retry-delay": _nothing, "--max-redirs": _nothing,
    "-w": _nothing, "--write-out": _nothing, "-c": _nothing, "--cookie-jar": _nothing, "--limit-rate": _nothing,
    "-r": _left_out("The range of bytes was left out."), "--range": _left_out("The range of bytes was left out."),
    "-T": _left_out("A file to send was left out."), "--upload-file": _left_out("A file to send was left out."),
    "--resolve": _nothing, "--interface": _nothing, "--timeout": _nothing, "-U": _nothing, "--proxy-user": _nothing,
    "--tls-max": _nothing, "--ciphers": _nothing, "-D": _nothing, "--dump-header": _nothing, "--tries": _nothing,
}  # fmt: skip
_BASIC = {"--basic", "--anyauth"}
_PLAIN = {
    "-s", "--silent", "-S", "--show-error", "-L", "--location", "-i", "--include", "-v", "--verbose", "-f", "--fail",
    "-g", "--globoff", "-#", "--progress-bar", "-j", "-N", "--no-buffer", "-n", "-4", "-6", "--ipv4", "--ipv6",
    "-J", "--compressed", "--http1.1", "--http1.0", "--http2", "--http3", "--fail-with-body", "-q", "--quiet",
    "--no-progress-meter", "--tlsv1.2", "--tlsv1.3", "--remote-name", "--raw", "--path-as-is", "--tcp-nodelay",
    "--ssl-reqd", "--location-trusted", "--no-verbose", "-Z", "--parallel", "--no-keepalive", "-a",
    "--post301", "--post302", "--post303", "--remote-header-name",
}  # fmt: skip


def read_command(text: str) -> RawCall:
    """Read a command line.

    Raises:
        ProblemError: ``command-unreadable``, which says where the reading stopped.
    """
    words, rest = split_words(re.sub(r"\A\s*[$>%]\s+", "", text))
    # With some programs -O names a file, with others it stands alone.
    now = _Reading(RawCall(), names_output=bool(words) and words[0].text.rsplit("/", 1)[-1].startswith("wget"))
    if rest:
        now.call.notes.append(f"What comes after the call was left out: {rest.splitlines()[0][:60]}")
    at = 1  # The first word is the program.
    while at < len(words):
        at = _option(text, words, at, now)
    return _finish(text, now)


def _option(text: str, words: list[Word], at: int, now: _Reading) -> int:
    """Read one option or one address; returns the index of the next word."""
    word = words[at].text
    if not word.startswith("-") or word == "-":
        _address(now, word)
        return at + 1
    name, equals, value = word.partition("=")
    if word.startswith("--"):
        if equals and name in _WITH_VALUE:
            return _give(text, words[at], name, value, now, at + 1)
        if word in _WITH_VALUE:
            return _take_next(text, words, at, word, now)
        return _flag(text, words[at], word, now, at + 1)
    # Short options may be run together, the last one with its value: -sXPOST.
    for index, letter in enumerate(word[1:], start=1):
        short = f"-{letter}"
        if short in _WITH_VALUE and (short != "-O" or now.names_output):
            tail = word[index + 1 :]
            if tail:
                return _give(text, words[at], short, tail, now, at + 1)
            return _take_next(text, words, at, short, now)
        _flag(text, words[at], short, now, at + 1)
    return at + 1


def _take_next(text: str, words: list[Word], at: int, name: str, now: _Reading) -> int:
    if at + 1 >= len(words):
        raise _unreadable(text, words[at].start, f"the option {name} has no value behind it")
    return _give(text, words[at + 1], name, words[at + 1].text, now, at + 2)


def _give(text: str, word: Word, name: str, value: str, now: _Reading, following: int) -> int:
    try:
        _WITH_VALUE[name](now, value)
    except ValueError as error:
        raise _unreadable(text, word.start, str(error)) from error
    return following


def _flag(text: str, word: Word, name: str, now: _Reading, following: int) -> int:
    if name in ("-G", "--get"):
        now.as_query = True
    elif name in ("-I", "--head"):
        now.call.method = now.call.method or "HEAD"
    elif name in ("-k", "--insecure", "--no-check-certificate"):
        now.call.notes.append("The command switches off the check of the service's certificate; here it stays on.")
    elif name in ("--digest", "--ntlm", "--negotiate"):
        raise _unreadable(text, word.start, f"{name} is a sign-in method that is not supported")
    elif name not in _PLAIN and name not in _BASIC and name != "-O":
        raise _unreadable(text, word.start, f"the option {name} is not supported")
    return following


def _unreadable(text: str, position: int, what: str) -> Exception:
    place = place_in(text, position)
    return fail(
        "command-unreadable",
        f"Reading stopped at {place}: {what}.",
        where=f"the paste box, {place}",
        do="Correct or take out that part, then paste again.",
    )


def _finish(text: str, now: _Reading) -> RawCall:
    call = now.call
    if not call.address:
        raise fail(
            "command-unreadable",
            "There is no address in this command.",
            where="the paste box",
            do="Paste the whole command, as the API's docs show it.",
        )
    if now.as_query:
        now.query.extend(part for piece in now.data for part in piece.split("&") if part)
        now.data = []
    if now.query:
        address = call.address.partition("#")[0]
        call.address = f"{address}{'&' if '?' in address else '?'}{'&'.join(now.query)}"
    if now.data:
        is_json = "json" in (call.header("Content-Type") or "")
        call.body = "".join(now.data) if is_json else "&".join(now.data)
        if call.header("Content-Type") is None:
            call.headers.append(("Content-Type", FORM))
    if now.user or now.password is not None:
        call.user = (now.user, now.password or "")
    has_body = call.body is not None or call.fields is not None
    call.method = call.method or ("POST" if has_body else "GET")
    return call


_REQUEST_LINE = re.compile(rf"({'|'.join(METHODS)})\s+(\S+)(?:\s+HTTP/[\d.]+)?\s*\Z")


def is_http_text(text: str) -> bool:
    """Whether a text is a call as docs print it: a method and an address in the first line."""
    return bool(_REQUEST_LINE.match(text.strip().split("\n", 1)[0].strip()))


def read_http_text(text: str) -> RawCall:
    """Read a call that is printed as HTTP sends it (RFC 9112 §2.1): first line, headers, an empty line, the body.

    Raises:
        ProblemError: ``command-unreadable``, with the line.
    """
    lines = text.strip().replace("\r\n", "\n").split("\n")
    match = _REQUEST_LINE.match(lines[0].strip())
    assert match is not None
    call = RawCall(match[1], match[2])
    at = 1
    while at < len(lines) and lines[at].strip():
        name, colon, value = lines[at].partition(":")
        if not colon or " " in name.strip():
            raise fail(
                "command-unreadable",
                f"Line {at + 1} is not a header: “{lines[at][:40]}”.",
                where=f"the paste box, line {at + 1}",
                do="A header is a name, a colon and a value; an empty line stands before the body.",
            )
        call.headers.append((name.strip(), value.strip()))
        at += 1
    body = "\n".join(lines[at + 1 :]).strip()
    host = call.header("Host")
    if call.address.startswith("/") and host:
        call.address = f"https://{host}{call.address}"
    dropped = ("host", "content-length", "connection", "accept-encoding")
    call.headers = [pair for pair in call.headers if pair[0].lower() not in dropped]
    if body:
        call.body = body
    return call


def decode_basic(text: str) -> tuple[str, str] | None:
    """User and password of a Basic credential (RFC 7617 §2), or ``None``."""
    try:
        user, colon, password = base64.b64decode(text, validate=True).decode().partition(":")
    except ValueError:
        return None
    return (user, password) if colon else None
