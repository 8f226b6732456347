import json
from datetime import date
from pathlib import Path
from urllib.parse import parse_qsl, quote, unquote, urlsplit

import pytest
from hypothesis import given
from hypothesis import strategies as st
from jsonschema import Draft202012Validator

from tin_bucket.core.brief import Brief, load_brief
from tin_bucket.core.calls import build_call
from tin_bucket.core.paste import take_apart
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.service import Service, slug
from tin_bucket.core.values import bind
from tin_bucket.demo.setting import briefs

SCHEMA = json.loads((Path(__file__).parents[2] / "docs/query-format.schema.json").read_text())
SMALL = {"name": "x", "ask": {"service": "s", "path": "/"}}


def test_the_published_schema_is_that_of_the_brief_and_accepts_the_demo():
    current = {**Brief.model_json_schema(by_alias=True), "title": "Tin Bucket brief"}
    assert {key: value for key, value in SCHEMA.items() if key != "$schema"} == current
    validator = Draft202012Validator(SCHEMA)
    for brief in briefs():
        validator.validate(json.loads(brief.model_dump_json(by_alias=True)))
    assert not validator.is_valid({"name": "x"})


def test_a_brief_written_and_read_is_the_same():
    for brief in briefs():
        assert load_brief(json.loads(brief.model_dump_json(by_alias=True))) == brief


@pytest.mark.parametrize(
    ("change", "place", "word"),
    [
        ({"name": ""}, "name", "at least 1"),
        ({"nmae": 1}, "nmae", "not permitted"),
        ({"ask": {"service": "s", "verb": "GET"}}, "ask.verb", "not permitted"),
        ({"take": {"records": "$.data["}}, "take.records", "character"),
        ({"take": {"columns": [{"place": "$.a", "name": "x"}, {"place": "$.b", "name": "x"}]}}, "take", "two columns"),
        ({"parameters": [{"name": "a", "kind": "text"}] * 2}, "", "two parameters"),
        ({"parameters": [{"name": "d", "kind": "date", "default": {"offset": "7 days"}}]}, "parameters.0", "duration"),
        (
            {"parameters": [{"name": "c", "kind": "choice", "choices": [{"code": "1"}], "default": "2"}]},
            "parameters.0",
            "choices",
        ),
        ({"keep": {"schedule": {"kind": "at", "at": "25:00"}}}, "keep.schedule", "pattern"),
        ({"keep": {"schedule": {"kind": "every", "every": "PT5S"}}}, "keep.schedule", "minute"),
        ({"keep": {"schedule": {"kind": "at", "at": "07:00", "zone": "Atlantis"}}}, "keep.schedule", "time zone"),
    ],
)
def test_a_mistake_in_a_brief_is_said_with_its_place(change, place, word):
    with pytest.raises(ProblemError) as caught:
        load_brief({**SMALL, **change}, "brief.json")
    problem = caught.value.problem
    assert problem.kind == "brief-unreadable"
    assert problem.where.startswith(f"brief.json, {place}" if place else "brief.json")
    assert word.lower() in problem.what.lower()


def test_a_brief_of_a_newer_format_is_refused_whole():
    with pytest.raises(ProblemError, match="format 9"):
        load_brief({**SMALL, "tin_bucket": 9})


OPERATIONS = Service(id="ops", name="Operations", base="http://127.0.0.1:8611")
INNER = Service(id="inner", name="Inner", base="http://127.0.0.1:8611/v2")


def test_an_address_is_taken_apart():
    found = take_apart(
        " http://127.0.0.1:8611/sailings?route=harl-oxnith&from=2026-11-18&per_page=100&page=1 ", [OPERATIONS]
    )
    assert found.service_id == "ops"
    assert found.brief.ask.path == "/sailings"
    assert [(pair.name, pair.value) for pair in found.brief.ask.query] == [
        ("route", "{route}"), ("from", "{from}"), ("per_page", "100"), ("page", "1"),
    ]  # fmt: skip
    route, start = found.brief.parameters
    assert (route.kind, route.default) == ("text", "harl-oxnith")
    assert (start.kind, start.default.isoformat()) == ("date", "2026-11-18")
    assert found.brief.name == "Sailings"


def test_a_key_in_an_address_is_left_out_and_named():
    found = take_apart("https://api.example/data?api_key=s3cr3t-value&x=1", [])
    assert found.left_out == ["api_key"]
    assert "s3cr3t" not in found.brief.model_dump_json()
    assert (found.service_id, found.base) == (None, "https://api.example")


@pytest.mark.parametrize(
    ("text", "base", "path"),
    [
        ("api.example.org/v1/ports/007", "https://api.example.org", "/v1/ports/007"),
        ("<https://h/a%20b>", "https://h", "/a%20b"),
        ("http://[::1]:80/x", "http://[::1]:80", "/x"),
        ("https://h", "https://h", "/"),
        ("https://h/{id}", "https://h", "/%7Bid%7D"),
    ],
)
def test_odd_addresses(text, base, path):
    found = take_apart(text, [])
    assert (found.base, found.brief.ask.path) == (base, path)


def test_the_service_with_the_longest_base_wins():
    assert take_apart("http://127.0.0.1:8611/v2/x", [OPERATIONS, INNER]).service_id == "inner"
    assert take_apart("http://127.0.0.1:8611/v22/x", [OPERATIONS, INNER]).service_id == "ops"


@pytest.mark.parametrize(
    "text", ["", "hello", "ftp://h/x", "http://", "http://h:port/", "http://user:pw@h/x", "http://h/a b"]
)
def test_what_is_no_address_is_said(text):
    with pytest.raises(ProblemError) as caught:
        take_apart(text, [])
    assert caught.value.problem.kind == "paste-unreadable"
    assert "pw" not in caught.value.problem.sentence()


def test_names_of_parameters_become_names_of_templates():
    found = take_apart("http://h/?filter[a]=1&filter.a=2&2x=3", [])
    assert [pair.value for pair in found.brief.ask.query] == ["{filter_a}", "{filter_a_2}", "{p_2x}"]


@pytest.mark.parametrize("base", ["ftp://h", "http://", "http://u:p@h", "http://h?x=1", "http://h:99999"])
def test_a_base_address_that_cannot_be_one_is_refused(base):
    with pytest.raises(ValueError, match="base address"):
        Service(id="s", name="s", base=base)


@pytest.mark.parametrize("name", ["Authorization", "X-Api-Key", "Cookie", "bad name"])
def test_a_fixed_header_is_no_place_for_a_key(name):
    with pytest.raises(ValueError, match=name):
        Service(id="s", name="s", base="http://h", headers=[{"name": name, "value": "x"}])
    assert Service(id="s", name="s", base="http://h", headers=[{"name": "User-Agent", "value": "x"}])


def test_docs_are_a_web_address_or_nothing():
    assert Service(id="s", name="s", base="http://h", docs=" https://h/docs ").docs == "https://h/docs"
    with pytest.raises(ValueError, match="docs"):
        Service(id="s", name="s", base="http://h", docs="javascript:alert(1)")


def test_ids_are_made_of_names():
    assert slug("Skerrywick Operations!", {"skerrywick-operations"}) == "skerrywick-operations-2"
    assert slug("…", set()) == "service"


NAME = st.text("abcdefghij_", min_size=1, max_size=8).map(lambda name: f"f_{name}_x")
VALUE = st.text(st.characters(codec="utf-8", exclude_categories=["Cs", "Cc"]), max_size=12)
PIECE = st.text(st.characters(codec="utf-8", exclude_categories=["Cs", "Cc"]), min_size=1, max_size=8).filter(
    lambda piece: piece not in (".", "..")
)


@given(st.lists(PIECE, max_size=4), st.dictionaries(NAME, VALUE, max_size=4))
def test_taking_an_address_apart_and_putting_it_together_gives_the_same_call(pieces, query):
    address = "http://h:81/" + "/".join(quote(piece, safe="") for piece in pieces)
    if query:
        address += "?" + "&".join(f"{name}={quote(value, safe='')}" for name, value in query.items())
    found = take_apart(address, [])
    assert found.left_out == []
    bindings = bind(found.brief.parameters, {}, date(2026, 11, 25))
    # A parameter without a value is left out: an empty one in the address is an optional one.
    call = build_call(found.base, found.brief.ask, bindings)
    there, here = urlsplit(call.address), urlsplit(address)
    assert [unquote(piece) for piece in there.path.split("/")] == [unquote(piece) for piece in here.path.split("/")]
    kept = [(name, value) for name, value in query.items() if value]
    assert parse_qsl(there.query, keep_blank_values=True) == kept
