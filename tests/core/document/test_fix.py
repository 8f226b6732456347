"""Values of parameters written into the question: it asks exactly the same without them."""

from datetime import UTC, date, datetime

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.document.fix import fix_parameters
from tin_bucket.core.document.query import load_brief
from tin_bucket.core.request.build import build_call
from tin_bucket.core.request.parameters.moment import Moment
from tin_bucket.core.request.parameters.values import bind
from tin_bucket.core.request.variables import make_scope

MOMENT = Moment(datetime(2026, 11, 25, 12, tzinfo=UTC))

TEXTS = st.text(st.characters(codec="utf-8", exclude_categories=("Cc",)), min_size=1, max_size=12)
VALUES = st.fixed_dictionaries(
    {
        "note": TEXTS,
        "id": st.integers(-(10**30), 10**30),
        "share": st.floats(-1e6, 1e6, allow_nan=False),
        "open": st.booleans(),
        "day": st.dates(date(1900, 1, 1), date(2100, 1, 1)).map(str),
    }
)
KINDS = {"note": "text", "id": "whole number", "share": "decimal", "open": "yes/no", "day": "date"}
BODIES = st.sampled_from([
    None,
    {"kind": "json", "value": {"id": "{id}", "{note}": ["{share}", "{open}", {"at": "{day}", "text": "{note} or {{note}}"}]}},
    {"kind": "form", "fields": [{"name": "note", "value": "{note}!"}, {"name": "{id}", "value": "{open}"}]},
    {"kind": "multipart", "fields": [{"name": "note", "value": "{note}"}]},
    {"kind": "text", "text": "<a id='{id}'>{note} {{id}} { }</a>"},
])  # fmt: skip


def a_brief(values, body=None):
    ask = {
        "service": "s",
        "method": "POST" if body else "GET",
        "path": "/of/{note}/{day.year}/{day.month}/{id}",
        "query": [{"name": "q", "value": "{note}"}, {"name": "n-{id}", "value": "{share}-{open}"}, {"name": "day", "value": "{day}"}],
        "body": body,
    }  # fmt: skip
    return load_brief({
        "name": "q", "ask": ask,
        "parameters": [{"name": name, "kind": KINDS[name], "default": value} for name, value in values.items()],
    })  # fmt: skip


def call_of(brief):
    bound = bind(brief.parameters, {}, MOMENT)
    return build_call("https://api.example", brief.ask, make_scope(brief.parameters, bound, UTC))


@given(VALUES, BODIES, st.sets(st.sampled_from(sorted(KINDS))))
def test_a_question_with_fixed_values_makes_the_same_call(values, body, names):
    brief = a_brief(values, body)
    fixed = fix_parameters(brief, names, MOMENT)
    assert call_of(fixed) == call_of(brief)
    assert [one.name for one in fixed.parameters] == [name for name in values if name not in names]


@pytest.mark.parametrize(
    ("value", "in_body", "in_address"),
    [
        ("50%", "50%", "50%25"),
        ("{note}", "{{note}}", "%7Bnote%7D"),
        ("a&b=c", "a&b=c", "a%26b%3Dc"),
        ("Ørn", "Ørn", "Ørn"),
    ],
)
def test_a_value_stands_for_itself(value, in_body, in_address):
    """A percent sign is one in a body, and encoded in an address alone."""
    brief = load_brief({
        "name": "q", "parameters": [{"name": "note", "kind": "text", "default": value}],
        "ask": {"service": "s", "method": "POST", "query": [{"name": "n", "value": "{note}"}],
                "body": {"kind": "json", "value": {"n": "{note}"}}},
    })  # fmt: skip
    fixed = fix_parameters(brief, ["note"], MOMENT).ask
    assert (fixed.body.value["n"], fixed.query[0].value) == (in_body, in_address)


def test_a_long_number_keeps_every_digit():
    brief = a_brief({"note": "x", "id": 123456789012345678, "share": 0.5, "open": True, "day": "2026-11-25"})
    fixed = fix_parameters(brief, ["id"], MOMENT)
    assert "123456789012345678" in fixed.ask.path


def test_a_parameter_that_something_else_names_stays():
    document = {
        "name": "q",
        "parameters": [{"name": "route", "kind": "text", "default": "r1"}, {"name": "lists", "kind": "text", "many": True, "default": ["a"]}],
        "ask": {"service": "s", "query": [{"name": "r", "value": "{route}"}, {"name": "l", "value": "{lists}"}]},
        "look_up": [{"name": "p", "path": "/p/{route}", "with": {"x": "id"}, "take": [{"place": "$.n", "name": "n"}]}],
    }  # fmt: skip
    brief = load_brief(document)
    fixed = fix_parameters(brief, ["route", "lists"], MOMENT)
    assert [one.name for one in fixed.parameters] == ["route", "lists"]
    assert fixed.ask.query[0].value == "r1"
