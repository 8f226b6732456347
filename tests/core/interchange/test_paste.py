import json
import shlex
from datetime import UTC, datetime
from urllib.parse import parse_qsl, quote, quote_plus, unquote, urlsplit

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.interchange.pasted import CALLS, UNREADABLE
from tin_bucket.core.auth.sign import shown, sign
from tin_bucket.core.document.service import Service
from tin_bucket.core.interchange.copy import as_command
from tin_bucket.core.interchange.paste import take_apart
from tin_bucket.core.interchange.recognise import paste_kind
from tin_bucket.core.interchange.shell import split_words
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.request.build import build_call
from tin_bucket.core.request.parameters.moment import Moment
from tin_bucket.core.request.parameters.values import bind, default_value
from tin_bucket.core.request.variables import make_scope

MOMENT = Moment(datetime(2026, 11, 25, 12, tzinfo=UTC))
OPERATIONS = Service(id="ops", name="Operations", base="http://127.0.0.1:8611")
INNER = Service(id="inner", name="Inner", base="http://127.0.0.1:8611/v2")


def together(found, given=None):
    """The call that a draft makes, without its key."""
    bindings = bind(found.brief.parameters, given or {}, MOMENT)
    return build_call(found.base, found.brief.ask, make_scope(found.brief.parameters, bindings))


def test_the_corpus_is_large_enough():
    assert len(CALLS) + len(UNREADABLE) >= 60


@pytest.mark.parametrize(("text", "method", "address", "more"), CALLS, ids=[text[:60] for text, *_ in CALLS])
def test_a_pasted_call_becomes_what_it_says(text, method, address, more):
    assert paste_kind(text) == "call"
    if "fails" in more:
        with pytest.raises(ProblemError, match=more["fails"]):
            take_apart(text, [])
        return
    found = take_apart(text, [])
    # Placeholders of docs become parameters that want a value.
    blanks = {p.name: f"‹{p.name}›" for p in found.brief.parameters if default_value(p, MOMENT) is None and p.required}
    call = together(found, blanks)
    told = shown(call, found.key)
    assert (told.method, told.address) == (method, address)
    headers = dict(told.headers)
    for name, value in more.get("headers", {}).items():
        assert headers.get(name) == value
    assert [place.at for place in (found.key.places if found.key else [])] == more.get("key", [])
    assert found.secret == more.get("secret", {})
    document = found.brief.model_dump_json()
    assert not any(secret in document for name, secret in found.secret.items() if name != "user" and secret)
    if "body" in more:
        assert (told.body or "") == more["body"]
    for name, value in more.get("multipart", {}).items():
        assert f'name="{name}"\r\n\r\n{value}\r\n' in told.body
    if "kinds" in more:
        kinds = {p.name: p.kind + (" list" if p.many else "") for p in found.brief.parameters}
        assert kinds == more["kinds"]
    for part in ("path", "base"):
        if part in more:
            assert (found.brief.ask.path if part == "path" else found.base) == more[part]
    assert more.get("note", "") in " ".join(found.notes)


@pytest.mark.parametrize(("text", "word"), UNREADABLE)
def test_what_cannot_be_read_says_where_it_stopped(text, word):
    with pytest.raises(ProblemError) as caught:
        take_apart(text, [])
    assert word in caught.value.problem.sentence()
    assert caught.value.problem.do


def test_a_password_in_an_address_shows_nowhere():
    found = take_apart("http://user:pw12345678@h/x", [])
    assert "pw12345678" not in repr(found) + found.brief.model_dump_json() + " ".join(found.notes + found.keys_seen)


def test_the_service_with_the_longest_base_wins():
    assert take_apart("http://127.0.0.1:8611/v2/x", [OPERATIONS, INNER]).service_id == "inner"
    assert take_apart("http://127.0.0.1:8611/v22/x", [OPERATIONS, INNER]).service_id == "ops"
    found = take_apart("curl http://127.0.0.1:8611/v2/ports/007?x=1", [OPERATIONS, INNER])
    assert (found.brief.ask.service, found.brief.ask.path) == ("inner", "/ports/{port}")


@pytest.mark.parametrize(
    ("text", "kind"),
    [
        ("code\tname\n007\tOxnith", "sheet"),
        ("a,b\n1,2", "sheet"),
        ('[{"a":1}]', "sheet"),
        ('{"a":1}\n{"a":2}', "sheet"),
        ("a;b;c\n1;2;3", "sheet"),
        ("007\n008", "sheet"),
        ("https://h/x\n", "call"),
        ("hello", "call"),
        ("http GET\nsomething", "sheet"),
    ],
)
def test_cells_and_calls_are_told_apart(text, kind):
    assert paste_kind(text) == kind


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("a 'b c' \"d 'e'\" f\\ g", ["a", "b c", "d 'e'", "f g"]),
        ("a\"b\"'c'd", ["abcd"]),
        (r"$'tab\t nul\x41 \u00e9 it\'s'", ["tab\t nulA é it's"]),
        ('"a \\$x \\" \\\\ \\n"', ['a $x " \\ \\n']),
        ("a \\\n b", ["a", "b"]),
        ("a ^\n b `\n c", ["a", "b", "c"]),
        ("a '' \"\"", ["a", "", ""]),
        ("a # remark\n-b", ["a", "-b"]),
    ],
)
def test_words_are_split_as_a_shell_splits_them(text, words):
    assert [word.text for word in split_words(text)[0]] == words


@given(st.lists(st.text(st.characters(codec="utf-8", exclude_characters="\x00"), max_size=12), min_size=1, max_size=5))
def test_what_a_shell_quotes_is_read_as_it_was(words):
    assert [word.text for word in split_words(" ".join(map(shlex.quote, words)))[0]] == words


NAME = st.text("abcdefghij_", min_size=1, max_size=8).map(lambda name: f"f_{name}_x")
PLAIN = st.characters(codec="utf-8", exclude_categories=["Cs", "Cc"])
VALUE = st.one_of(
    st.text(PLAIN, max_size=12),
    st.integers(-1000, 1000).map(str),
    st.dates().map(str),
    st.sampled_from(["true", "a,b"]),
)
PIECE = st.text(PLAIN, min_size=1, max_size=8).filter(lambda piece: piece not in (".", "..")).filter(
    lambda piece: not (piece[0] in ":<{" and len(piece) > 1)
)  # fmt: skip
SIMPLE = st.one_of(
    st.text(PLAIN, max_size=12),
    st.integers(),
    st.booleans(),
    st.none(),
    st.floats(allow_nan=False, allow_infinity=False),
)
DOCUMENT = st.dictionaries(
    NAME, st.one_of(SIMPLE, st.lists(SIMPLE, max_size=3), st.dictionaries(NAME, SIMPLE, max_size=2)), max_size=4
)


def same_address(one, other):
    there, here = urlsplit(one), urlsplit(other)
    assert (there.scheme, there.netloc) == (here.scheme, here.netloc)
    assert [unquote(piece) for piece in there.path.split("/")] == [unquote(piece) for piece in here.path.split("/")]
    pairs = [sorted(parse_qsl(parts.query, keep_blank_values=True)) for parts in (there, here)]
    assert pairs[0] == pairs[1]


def is_blank(value):
    return value.strip("<>{}") != value  # Placeholders of docs, which are parameters without a value.


@given(st.lists(PIECE, max_size=4), st.dictionaries(NAME, VALUE, max_size=4))
def test_taking_an_address_apart_and_putting_it_together_gives_the_same_call(pieces, query):
    address = "http://h:81/" + "/".join(quote(piece, safe="") for piece in pieces)
    query = {name: value for name, value in query.items() if not is_blank(value)}
    if query:
        address += "?" + "&".join(f"{name}={quote(value, safe='')}" for name, value in query.items())
    same_address(together(take_apart(address, [])).address, address)


@given(
    st.sampled_from(["POST", "PUT", "PATCH"]),
    st.dictionaries(NAME, VALUE, max_size=3),
    st.dictionaries(
        st.sampled_from(["X-A", "X-B", "Accept"]), st.text(PLAIN, min_size=1, max_size=20).map(str.strip), max_size=3
    ),
    st.one_of(
        DOCUMENT.map(lambda value: ("json", value)),
        st.dictionaries(NAME, VALUE, min_size=1, max_size=3).map(lambda value: ("form", value)),
    ),
    st.sampled_from(["none", "bearer", "header", "basic", "address"]),
    st.text("abcdefghijklmnop0123456789", min_size=8, max_size=40).map(lambda text: f"q{text}"),
    st.booleans(),
)
def test_taking_a_command_apart_and_putting_it_together_gives_the_same_call(
    method, query, headers, body, way, secret, continued
):
    query = {name: value for name, value in query.items() if not is_blank(value)}
    address = "http://h:81/x" + ("?" + "&".join(f"{n}={quote(v, safe='')}" for n, v in query.items()) if query else "")
    headers = {name: value for name, value in headers.items() if value and not value.endswith(";")}
    kind, document = body
    if kind == "form":
        document = {name: value for name, value in document.items() if not is_blank(value)} or {"f_a_x": "1"}
    sent = json.dumps(document) if kind == "json" else "&".join(f"{n}={quote_plus(v)}" for n, v in document.items())
    media_type = "application/json" if kind == "json" else "application/x-www-form-urlencoded"
    parts = ["curl", "-X", method, address, *(part for n, v in headers.items() for part in ("-H", f"{n}: {v}"))]
    parts += ["-H", f"Content-Type: {media_type}", "--data-raw", sent]
    parts += {
        "none": [], "bearer": ["-H", f"Authorization: Bearer {secret}"], "header": ["-H", f"X-Api-Key: {secret}"],
        "basic": ["-u", f"ann:{secret}"], "address": ["--url-query", f"api_key={secret}"],
    }[way]  # fmt: skip
    found = take_apart((" \\\n  " if continued else " ").join(map(shlex.quote, parts)), [])
    assert secret not in found.brief.model_dump_json()
    call = together(found)
    signed = sign(call, found.key, found.secret) if found.key else call
    assert signed.method == method
    same_address(signed.address, address + (("&" if query else "?") + f"api_key={secret}" if way == "address" else ""))
    given_headers = dict(signed.headers)
    assert {name: given_headers.get(name) for name in headers} == headers
    assert given_headers["Content-Type"] == media_type
    if kind == "json":
        assert json.loads(signed.body) == document
    else:
        assert sorted(parse_qsl(signed.body.decode(), keep_blank_values=True)) == sorted(document.items())
    carried = {"bearer": ("Authorization", f"Bearer {secret}"), "header": ("X-Api-Key", secret)}.get(way)
    assert carried is None or given_headers[carried[0]] == carried[1]
    # And copied again as a command, it is the same once more.
    again = take_apart(as_command(call, found.key), [])
    assert together(again).body == call.body or kind == "form"
    same_address(together(again).address, call.address)
