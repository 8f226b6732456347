"""Paste to begin: what was pasted is told apart, and a call is taken apart into service, question and key."""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any
from urllib.parse import unquote, unquote_plus, urlsplit

from tin_bucket.core.auth.credentials import Key
from tin_bucket.core.auth.placements.basic import BasicPlace
from tin_bucket.core.auth.placements.bearer import BearerPlace
from tin_bucket.core.auth.placements.body import BodyPlace
from tin_bucket.core.auth.placements.header import HeaderPlace
from tin_bucket.core.auth.placements.path import PathPlace
from tin_bucket.core.auth.placements.query import AddressPlace
from tin_bucket.core.auth.registry import KeyPlace
from tin_bucket.core.base import Pair
from tin_bucket.core.document.query import Brief
from tin_bucket.core.document.service import Service
from tin_bucket.core.formats.jsonpath import format_place
from tin_bucket.core.masking.looks import address_without_secrets, looks_like_token, looks_secret
from tin_bucket.core.problem import fail
from tin_bucket.core.request.ask import Ask
from tin_bucket.core.request.bodies import FORM, Body, FormBody, JsonBody, MultipartBody, TextBody
from tin_bucket.core.request.parameters.models import (
    DateParameter,
    Parameter,
    TextParameter,
)
from tin_bucket.core.request.templates import literal, literal_text

from .command_line import RawCall, decode_basic, is_http_text, read_command, read_http_text
from .paste_values import day_of, json_of, json_parameter_model, list_parameter_model, parameter_of, singular
from .recognise import HOST, bare_text, is_command
from .snippet import is_snippet, read_snippet

_PAGING = re.compile(
    r"(page|per_?page|page_?size|limit|size|offset|skip|top|page_?no|page_?number|cursor|page_?token|start_?at)\Z",
    re.IGNORECASE,
)
_NOT_NAME = re.compile(r"[^A-Za-z0-9_]+")
_BASE_PIECE = re.compile(r"(api|rest|public|v\d+(\.\d+)*)\Z", re.IGNORECASE)
_PLACEHOLDER = re.compile(
    r"""\s*(?:(?:Bearer|Token|Basic|ApiKey)\s+)?(?:
        [<\[{(%]{1,2}[\w .'-]*[>\]})%]{1,2} | \$\{?\w+\}? | (?:your|my|insert|replace)[-_ ]?[\w -]*
        | x{3,} | \*{3,} | •+ | \.{3} | … | (?:api|access|auth)?[-_]?(?:key|token|secret|password)(?:[-_ ]?here)?
        | key[-_ ]goes[-_ ]here )\s*\Z""",
    re.IGNORECASE | re.VERBOSE,
)
_PATH_PLACEHOLDER = re.compile(
    r"""[<\[{:]?(?:your|my)[-_ ](?:[a-z]+[-_ ])?(?:key|token)[>\]}]?
        | [<\[{:](?:(?:api|access|auth|secret)[-_ ]?)?(?:key|token)[>\]}]?""",
    re.IGNORECASE | re.VERBOSE,
)
_KEY_FOLLOWS = re.compile(r"(api[-_]?|access[-_]?|auth[-_]?)?(key|token|secret)s?\Z", re.IGNORECASE)
# Right behind the base address a shorter one is likely, too: no name has so many digits among its letters.
_SHORT_KEY = re.compile(r"(?=(?:[^0-9]*[0-9]){5})(?=(?:[^a-z]*[a-z]){3})[A-Za-z0-9]{16,}", re.IGNORECASE)
# Ids that look like keys: 24 hexadecimal digits, and revisions.
_OPAQUE_ID = re.compile(r"[0-9a-f]{24}\Z")
_REVISION_FOLLOWS = re.compile(r"(commit|tree|blob|rev|revision|ref|id|item|document|file)\Z", re.IGNORECASE)
# Hosts of one's own machine and net rarely have a certificate, nor do ports chosen by hand.
_PLAIN_HOST = re.compile(
    r"(localhost|127\.[\d.]+|\[::1\]|10\.[\d.]+|192\.168\.[\d.]+|172\.(1[6-9]|2\d|3[01])\.[\d.]+|[\w.-]+\.local)(:\d+)?([/?#]|\Z)",
    re.IGNORECASE,
)
_LIST = re.compile(r"[\w.:-]+(,[\w.:-]+)+\Z")
_LONGEST_DEFAULT = 400
_DROPPED = ("host", "content-length", "connection", "accept-encoding")


@dataclass(slots=True)
class Understood:
    """What was read out of a pasted call.

    Attributes:
        service_id: the id of the known service that the address belongs to, or ``None``.
        base: the base address, for a service that is new.
        brief: a draft of the query. It holds no key.
        key: how the call carries its key, or ``None``.
        secret: field of the key → its text; empty where the call had a placeholder. It goes into the vault or nowhere.
        keys_seen: where a key was seen, for people.
        notes: what was left out or read in a certain way, for people.
    """

    service_id: str | None
    base: str
    brief: Brief
    key: Key | None = None
    secret: dict[str, str] = field(default_factory=dict)
    keys_seen: list[str] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)

    def __repr__(self) -> str:
        return f"Understood({self.base}, {self.brief.name})"


def take_apart(text: str, services: list[Service]) -> Understood:
    """Read an address, a command line, or a call as HTTP sends it.

    Args:
        text: what was pasted.
        services: the known services; the one with the longest base address that fits is taken.

    Raises:
        ProblemError: ``paste-unreadable`` or ``command-unreadable``.
    """
    stripped = text.strip()
    if not stripped:
        raise fail("paste-unreadable", "There is nothing to read.", where="the paste box", do="Paste an address.")
    if is_http_text(stripped):
        raw = read_http_text(stripped)
    elif is_command(stripped):
        raw = read_command(stripped)
    elif is_snippet(stripped):
        raw = read_snippet(stripped)
    else:
        raw = RawCall("GET", bare_text(stripped))
    return _Taking(raw, services).all()


class _Taking:
    """Takes one call apart."""

    def __init__(self, raw: RawCall, services: list[Service]) -> None:
        self._raw = raw
        self._services = services
        self._parameters: list[Parameter] = []
        self._names: set[str] = set()
        self._places: list[KeyPlace] = []
        self._secret: dict[str, str] = {}
        self._seen: list[str] = []
        self._notes = list(raw.notes)

    def all(self) -> Understood:
        raw = self._raw
        root, path, query_text, host = self._address()
        service = _known_service(self._services, root + path)
        if service is not None:
            base = service.base
            path = path[len(urlsplit(service.base).path) :] or "/"
        else:
            base, path = _split_base(root, path)
        template = self._path(path, len([piece for piece in urlsplit(base).path.split("/") if piece]))
        query = self._pairs(_pieces(query_text), "parameter")
        headers = self._headers()
        body = self._body()
        if raw.user is not None:
            self._basic(*raw.user, "user and password")
        pieces = [unquote(piece) for piece in template.split("/") if piece and "{" not in piece]
        name = (pieces[-1] if pieces else host).replace("_", " ").replace("-", " ").strip()[:80] or host
        ask = Ask(
            service=service.id if service else "new",
            method=raw.method or "GET",  # type: ignore[arg-type]
            path=template,
            query=query,
            headers=headers,
            body=body,
        )
        brief = Brief(name=name[:1].upper() + name[1:], parameters=self._parameters, ask=ask)
        key = Key(name=f"{host} key"[:120], places=self._places) if self._places else None
        return Understood(service.id if service else None, base, brief, key, self._secret, self._seen, self._notes)

    # The address ----------------------------------------------------------------------------------------------

    def _address(self) -> tuple[str, str, str, str]:
        """Root (scheme, host and port), path, query and host of the address; a user in it goes to the key."""
        address = self._raw.address.strip()
        if "&amp;" in address and not re.search(r"&(?!amp;)", address):
            address = address.replace("&amp;", "&")
            self._notes.append("The address was written for a web page: &amp; was read as &.")
        if "://" not in address and HOST.match(address):
            scheme = "http" if _PLAIN_HOST.match(address) else "https"
            address = f"{scheme}://{address}"
            if scheme == "http":
                self._notes.append(
                    "The address came without http:// or https://; a host of one’s own net is asked by http."
                )
        try:
            parts = urlsplit(address)
            port = parts.port
        except ValueError:
            parts, port = urlsplit(""), None
        if (
            parts.scheme.lower() not in ("http", "https")
            or not parts.hostname
            or re.search(r"\s", address)
            or port == 0
        ):
            raise fail(
                "paste-unreadable",
                "This is not an address.",
                where="the paste box",
                do="Paste one that starts with http:// or https://, or a whole command, as the API's docs show it.",
            )
        if parts.username is not None:
            self._basic(unquote(parts.username), unquote(parts.password or ""), "user in the address")
        host = f"[{parts.hostname}]" if ":" in parts.hostname else parts.hostname
        root = f"{parts.scheme.lower()}://{host}" + (f":{port}" if port else "")
        return root, parts.path or "/", parts.query, parts.hostname

    def _path(self, path: str, before: int) -> str:
        """The path as a template. `before` is how many segments the base address has."""
        pieces = path.split("/")
        out: list[str] = []
        at = 0
        while at < len(pieces):
            day = day_of(pieces[at : at + 3])
            if day is not None:
                name = self._add(DateParameter(name=self._free("day"), default=day))
                out.append(f"{{{name}.year}}/{{{name}.month}}/{{{name}.day}}")
                at += 3
                continue
            if _is_path_key(unquote(pieces[at]), unquote(pieces[at - 1]) if at else ""):
                self._put(PathPlace(segment=before + at), unquote(pieces[at]), f"piece {before + at} of the path")
                at += 1
                continue
            out.append(self._piece(pieces[at], out[-1] if out else ""))
            at += 1
        return "/".join(out) or "/"

    def _piece(self, piece: str, before: str) -> str:
        text = unquote(piece)
        named = re.fullmatch(r"[:{<]([A-Za-z_][\w -]*)[}>]?", text)
        if named and (text[0] == ":" or text[-1] in "}>"):
            return f"{{{self._add(TextParameter(name=self._free(named[1])))}}}"
        if re.fullmatch(r"\d{4}-\d{2}-\d{2}", text) or (
            re.search(r"\d", text)
            and re.fullmatch(r"[A-Za-z0-9-]{1,40}", text)
            and not _BASE_PIECE.match(text)
            and "{" not in before
            and before
        ):
            own = singular(unquote(before)) or "value"
            return f"{{{self._add(parameter_of(self._free(own), text))}}}"
        return literal(text) if text == piece else piece.replace("{", "%7B").replace("}", "%7D")

    def _pairs(self, pairs: list[tuple[str, str | None]], what: str) -> list[Pair]:
        """Pieces of a query or fields of a form; a name that comes more than once becomes a list."""
        text_of = literal if what == "parameter" else literal_text
        out: list[Pair] = []
        done: set[str] = set()
        for name, value in pairs:
            if name in done or not name:
                continue
            values = [given or "" for other, given in pairs if other == name]
            if self._is_key(name, values[0], what):
                done.add(name)
                continue
            shown = literal_text(name)
            if value is None:
                out.append(Pair(name=shown, value=None))
                continue
            plain = value == "" or bool(_PAGING.match(name)) or len(value) > _LONGEST_DEFAULT
            if len(values) > 1 and all(values):
                own = self._add(TextParameter(name=self._free(name), many=True, send="repeated", default=values))
                done.add(name)
            elif plain or len(values) > 1:
                out.append(Pair(name=shown, value=text_of(value)))
                continue
            elif named := re.fullmatch(r"\{([A-Za-z_]\w*)\}|<([\w -]+)>", value):
                own = self._add(TextParameter(name=self._free(named[1] or named[2])))
            elif _LIST.match(value) and not re.fullmatch(r"-?\d+\.\d+(,-?\d+\.\d+)+", value):
                own = self._add(TextParameter(name=self._free(name), many=True, default=value.split(",")))
            else:
                own = self._add(parameter_of(self._free(name), value))
            out.append(Pair(name=shown, value=f"{{{own}}}"))
        return out

    # Headers and body -----------------------------------------------------------------------------------------

    def _headers(self) -> list[Pair]:
        out = []
        for name, value in self._raw.headers:
            lower = name.lower()
            if lower == "authorization":
                self._authorization(value)
            elif looks_secret(name, value):
                self._put(HeaderPlace(name=name), value, f"header {name}")
            elif lower in _DROPPED or (lower == "content-type" and self._implied_type(value)):
                continue
            else:
                without = address_without_secrets(value)
                if without is not None:
                    self._notes.append(f"The header {name} held what looks like a key; its address was shortened.")
                out.append(Pair(name=name, value=literal_text(value if without is None else without)))
        return out

    def _implied_type(self, value: str) -> bool:
        raw = self._raw
        if raw.fields is not None:
            return True
        return raw.body is not None and value.split(";")[0].strip().lower() == value.strip().lower()

    def _authorization(self, value: str) -> None:
        scheme, _, rest = value.strip().partition(" ")
        rest = rest.strip()
        if scheme.lower() == "bearer" and rest:
            self._put(BearerPlace(), rest, "header Authorization, a bearer token")
        elif scheme.lower() == "basic" and rest:
            pair = decode_basic(rest)
            self._basic(*(pair or ("", "")), "header Authorization, user and password")
        elif rest:
            self._put(HeaderPlace(name="Authorization", prefix=f"{scheme} "), rest, "header Authorization")
        else:
            self._put(HeaderPlace(name="Authorization"), scheme, "header Authorization")

    def _body(self) -> Body | None:
        raw = self._raw
        if raw.fields is not None:
            return MultipartBody(fields=self._pairs([(name, value) for name, value in raw.fields], "field"))
        if raw.body is None:
            return None
        media_type = (raw.header("Content-Type") or "").split(";")[0].strip().lower()
        document = json_of(raw.body)
        if document is not None and (media_type in ("", FORM) or media_type.endswith("json")):
            if not media_type.endswith("json"):
                self._notes.append("The body is JSON, so it is sent as application/json.")
            return JsonBody(value=self._document(document, ()))
        if media_type == FORM or (not media_type and "=" in raw.body):
            return FormBody(fields=self._pairs(_pieces(raw.body), "field"))
        full = raw.header("Content-Type") or "text/plain"
        return TextBody(text=literal_text(raw.body), media_type=full)

    def _document(self, value: Any, place: tuple[str, ...]) -> Any:
        if isinstance(value, dict):
            out = {}
            for key, item in value.items():
                if isinstance(item, str) and self._is_body_key(key, item, (*place, key)):
                    continue
                out[literal_text(key)] = self._document(item, (*place, key))
            return out
        if isinstance(value, list):
            name = place[-1] if place else ""
            if len(place) == 1 and (many := list_parameter_model(value)) and not _PAGING.match(name):
                return f"{{{self._add(many(name=self._free(name), many=True, send='json', default=value))}}}"
            return [self._document(item, ()) for item in value]
        if len(place) == 1 and not _PAGING.match(place[0]) and value is not None and value != "":
            made = json_parameter_model(value)
            if made is not None:
                return f"{{{self._add(made(name=self._free(place[0]), default=value))}}}"
        return literal_text(value) if isinstance(value, str) else value

    # Keys -----------------------------------------------------------------------------------------------------

    def _is_key(self, name: str, value: str, what: str) -> bool:
        if not looks_secret(name, value) or _PAGING.match(name):
            return False
        if what == "parameter":
            self._put(AddressPlace(name=name), value, f"{what} {name}")
        elif self._raw.fields is None:
            self._put(BodyPlace(place=format_place((name,))), value, f"{what} {name}")
        else:
            self._notes.append(f"The field {name} looks like a key and was left out.")
        return True

    def _is_body_key(self, key: str, value: str, place: tuple[str, ...]) -> bool:
        if not place or not looks_secret(key, value if len(place) == 1 else "") or len(value) > _LONGEST_DEFAULT:
            return False
        self._put(BodyPlace(place=format_place(place)), value, f"{key} in the body")
        return True

    def _put(self, place: KeyPlace, text: str, seen: str) -> None:
        """Note a key and where it goes; a second one of another text is a field of its own."""
        is_placeholder = bool(_PLACEHOLDER.match(text)) or not text.strip()
        name = "key"
        if (not is_placeholder and self._secret.get("key", text) != text) or (is_placeholder and self._places):
            label = getattr(place, "name", "") or getattr(place, "place", "") or place.at
            name = _NOT_NAME.sub("_", label).strip("_").lower()[:40] or "key_2"
            while name in self._secret or name[0].isdigit():
                name = f"k{name}"
        self._places.append(place.model_copy(update={"field": name}))
        if not is_placeholder:
            self._secret[name] = text.strip()
        self._seen.append(seen)

    def _basic(self, user: str, password: str, seen: str) -> None:
        if any(place.at == "user and password" for place in self._places):
            return
        self._places.append(BasicPlace())
        self._seen.append(seen)
        for name, text in (("user", user), ("password", password)):
            if text and not _PLACEHOLDER.match(text):
                self._secret[name] = text
        if user and "user" in self._secret and "password" not in self._secret and not password:
            self._secret["password"] = ""

    def _free(self, wanted: str) -> str:
        name = _NOT_NAME.sub("_", wanted).strip("_") or "value"
        base = (name if not name[0].isdigit() else f"p_{name}")[:70]
        free, number = base, 2
        while free in self._names:
            free, number = f"{base}_{number}", number + 1
        self._names.add(free)
        return free

    def _add(self, parameter: Parameter) -> str:
        self._parameters.append(parameter)
        return parameter.name


def _is_path_key(piece: str, before: str) -> bool:
    """Whether a piece of a path is likely a key and no id: what follows a name of many things is an id of one."""
    if _PATH_PLACEHOLDER.fullmatch(piece):
        return True
    if _KEY_FOLLOWS.match(before):
        return len(piece) >= 8 and bool(re.search(r"\d", piece)) and bool(re.fullmatch(r"[\w.~:+=-]+", piece))
    if (not before or _BASE_PIECE.match(before)) and _SHORT_KEY.fullmatch(piece):
        return True
    if not looks_like_token(piece) or _OPAQUE_ID.match(piece) or _REVISION_FOLLOWS.match(before):
        return False
    return singular(before) == before


def _known_service(services: list[Service], address: str) -> Service | None:
    known = [one for one in services if address == one.base or address.startswith(one.base + "/")]
    return max(known, key=lambda one: len(one.base)) if known else None


def _split_base(root: str, path: str) -> tuple[str, str]:
    """The base address of a new service takes pieces such as ``/api/v2`` along."""
    pieces = path.strip("/").split("/")
    taken = 0
    while taken < len(pieces) - 1 and _BASE_PIECE.match(pieces[taken]):
        taken += 1
    if not taken or not path.startswith("/" + "/".join(pieces[:taken])):
        return root, path
    prefix = "/" + "/".join(pieces[:taken])
    return root + prefix, path[len(prefix) :]


def _pieces(query: str) -> list[tuple[str, str | None]]:
    out: list[tuple[str, str | None]] = []
    for piece in query.split("&"):
        if piece:
            name, equals, value = piece.partition("=")
            out.append((unquote_plus(name), unquote_plus(value) if equals else None))
    return out
