"""Parameters of every kind: plain forms, how they are sent, where they may stand."""

import json
from datetime import UTC, datetime, timedelta, timezone

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import TypeAdapter, ValidationError

from tin_bucket.core.problem import ProblemError
from tin_bucket.core.request.ask import Ask
from tin_bucket.core.request.build import build_call
from tin_bucket.core.request.parameters.models import Parameter
from tin_bucket.core.request.parameters.moment import Moment, shift_moment
from tin_bucket.core.request.parameters.values import bind, default_value, split_values
from tin_bucket.core.request.templates import expand, fill, fill_json, literal, literal_text, text_names
from tin_bucket.core.request.variables import make_scope, one_text

NOON = datetime(2026, 11, 25, 12, 30, 45, tzinfo=UTC)
MOMENT = Moment(NOON, datetime(2026, 11, 20, 23, 30, tzinfo=UTC))
ADAPTER = TypeAdapter(Parameter)


def parameter(kind, **more):
    return ADAPTER.validate_python({"name": "p", "kind": kind, **more})


def scope_of(kind, given=None, **more):
    one = parameter(kind, **more)
    return make_scope([one], bind([one], {} if given is None else {"p": given}, MOMENT))


@pytest.mark.parametrize(
    ("kind", "given", "plain"),
    [
        ("text", " as it is ", " as it is "),
        ("whole number", " +12 ", "12"),
        ("whole number", "007", "007"),
        ("decimal", "2.50", "2.50"),
        ("decimal", "1e3", "1e3"),
        ("yes/no", "Yes", "true"),
        ("yes/no", "off", "false"),
        ("date", "2026-11-24", "2026-11-24"),
        ("date", "-P1D", "2026-11-24"),
        ("month", "2026-11", "2026-11"),
        ("month", "2026-11-24", "2026-11"),
        ("month", "-P1M", "2026-10"),
        ("date and time", "2026-11-24T07:30", "2026-11-24T07:30:00+00:00"),
        ("date and time", "2026-11-24T07:30+02:00", "2026-11-24T07:30:00+02:00"),
        ("date and time", "-PT6H", "2026-11-25T06:30:45+00:00"),
    ],
)
def test_what_is_typed_becomes_the_plain_form_of_its_kind(kind, given, plain):
    assert bind([parameter(kind)], {"p": given}, MOMENT) == {"p": plain}


@pytest.mark.parametrize(
    ("kind", "given"),
    [
        ("whole number", "1.5"), ("whole number", "ten"), ("decimal", "1,5"), ("decimal", "nan"), ("decimal", "1_0"),
        ("yes/no", "perhaps"), ("date", "24.11.2026"), ("date", "2026-02-30"), ("month", "2026-13"), ("month", "Nov"),
        ("date and time", "noon"), ("date", "P9999Y"),
    ],
)  # fmt: skip
def test_what_is_none_of_its_kind_is_said_with_its_place(kind, given):
    with pytest.raises(ProblemError) as caught:
        bind([parameter(kind)], {"p": given}, MOMENT)
    problem = caught.value.problem
    assert (problem.kind, problem.where) == ("parameter-unfit", "parameter p")
    assert problem.do


@pytest.mark.parametrize(
    ("kind", "default", "plain"),
    [
        ("whole number", 7, "7"),
        ("decimal", 0.1, "0.1"),
        ("yes/no", False, "false"),
        ("date", {"anchor": "start of quarter", "offset": "-P1D"}, "2026-09-30"),
        ("date", {"anchor": "last refresh"}, "2026-11-20"),
        ("month", {"anchor": "start of year"}, "2026-01"),
        ("date and time", {"anchor": "now", "offset": "-PT90M"}, "2026-11-25T11:00:45+00:00"),
        ("date and time", {"anchor": "today", "offset": "PT7H"}, "2026-11-25T07:00:00+00:00"),
        ("date and time", {"anchor": "last refresh"}, "2026-11-20T23:30:00+00:00"),
        ("date and time", "2026-01-01T00:00", "2026-01-01T00:00:00+00:00"),
    ],
)
def test_defaults(kind, default, plain):
    assert default_value(parameter(kind, default=default), MOMENT) == plain


def test_a_date_since_the_last_refresh_needs_one_or_a_first_date():
    never = Moment(NOON)
    since = parameter("date", default={"anchor": "last refresh"})
    with pytest.raises(ProblemError, match="no refresh yet"):
        bind([since], {}, never)
    first = parameter("date", default={"anchor": "last refresh", "first": "2026-01-01"})
    assert bind([first], {}, never) == {"p": "2026-01-01"}


def test_today_is_a_matter_of_the_time_zone():
    late = Moment(datetime(2026, 11, 25, 23, 30, tzinfo=UTC))
    here = parameter("date", default={"anchor": "today"})
    there = parameter("date", default={"anchor": "today"}, zone="Pacific/Auckland")
    assert bind([here], {}, late)["p"] == "2026-11-25"
    assert bind([there], {}, late)["p"] == "2026-11-26"
    east = Moment(late.now.astimezone(timezone(timedelta(hours=2))))
    assert bind([here], {}, east)["p"] == "2026-11-26"


def test_days_move_by_the_calendar_and_hours_by_the_clock():
    from zoneinfo import ZoneInfo

    before = datetime(2026, 3, 28, 12, tzinfo=ZoneInfo("Europe/Berlin"))  # The clocks go forward in that night.
    assert shift_moment(before, "P1D").isoformat() == "2026-03-29T12:00:00+02:00"
    assert shift_moment(before, "PT24H").isoformat() == "2026-03-29T13:00:00+02:00"


@pytest.mark.parametrize(
    ("kind", "given", "more", "text", "typed"),
    [
        ("decimal", "2.50", {}, "2.50", 2.5),
        ("whole number", "12345678901234567890", {}, "12345678901234567890", 12345678901234567890),
        ("yes/no", "yes", {}, "true", True),
        ("yes/no", "yes", {"yes": "Y", "no": "N"}, "Y", "Y"),
        ("date", "2026-11-24", {"format": "%d.%m.%Y"}, "24.11.2026", "24.11.2026"),
        ("date", "2026-11-24", {"format": "epoch seconds"}, "1795478400", 1795478400),
        ("date", "2026-11-24", {"format": "epoch seconds", "zone": "Europe/Berlin"}, "1795474800", 1795474800),
        ("date", "2026-11-24", {"format": "epoch milliseconds"}, "1795478400000", 1795478400000),
        ("month", "2026-11", {"format": "%Y%m"}, "202611", "202611"),
        ("date and time", "2026-11-24T07:30+01:00", {"format": "%H:%M"}, "06:30", "06:30"),
    ],
)
def test_how_a_value_is_sent(kind, given, more, text, typed):
    scope = scope_of(kind, given, **more)
    assert scope["p"].joined() == text
    assert fill_json({"v": "{p}", "in": "a {p}"}, scope, "$") == {"v": typed, "in": f"a {text}"}


def test_a_date_has_parts_for_a_path():
    assert expand("/{p.year}/{p.month}/{p.day}", scope_of("date", "2026-01-05")) == "/2026/01/05"
    assert expand("/{p.year}{p.month}", scope_of("month", "2026-01")) == "/202601"
    assert (
        expand("/{p.hour}-{p.minute}/{p.epoch}", scope_of("date and time", "2026-11-24T07:05")) == "/07-05/1795503900"
    )
    with pytest.raises(ProblemError, match=r"p\.day"):
        expand("/{p.day}", scope_of("month", "2026-01"))


def call_of(ask, scope):
    return build_call("http://h", Ask.model_validate({"service": "s", **ask}), scope)


def test_a_list_is_sent_joined_repeated_or_as_json():
    query = [{"name": "ids", "value": "{p}"}, {"name": "q", "value": "id:{p}"}]
    ask = {"path": "/", "query": query}
    more = {"many": True, "default": ["a b", "c,d"]}
    assert call_of(ask, scope_of("text", **more)).address == "http://h/?ids=a%20b,c%2Cd&q=id:a%20b,c%2Cd"
    piped = scope_of("text", **more, separator="|")
    assert call_of(ask, piped).address == "http://h/?ids=a%20b%7Cc%2Cd&q=id:a%20b%7Cc%2Cd"
    repeated = scope_of("text", **more, send="repeated")
    assert call_of(ask, repeated).address == "http://h/?ids=a%20b&ids=c%2Cd&q=id:a%20b&q=id:c%2Cd"
    as_json = scope_of("text", **more, send="json")
    assert call_of(ask, as_json).address.startswith("http://h/?ids=%5B%22a%20b%22%2C%22c%2Cd%22%5D&")
    body = {"path": "/", "method": "POST", "body": {"kind": "json", "value": {"l": "{p}"}}}
    assert json.loads(call_of(body, as_json).body) == {"l": ["a b", "c,d"]}
    assert json.loads(call_of(body, scope_of("text", **more)).body) == {"l": "a b,c,d"}
    whole = scope_of("whole number", many=True, send="json", default=[1, 2])
    assert json.loads(call_of(body, whole).body) == {"l": [1, 2]}
    form = {"path": "/", "method": "POST", "body": {"kind": "form", "fields": [{"name": "f", "value": "{p}"}]}}
    assert call_of(form, repeated).body == b"f=a+b&f=c%2Cd"


@pytest.mark.parametrize("ask", [{"path": "/{p}"}, {"path": "/", "headers": [{"name": "X-A", "value": "{p}"}]}])
def test_a_repeated_list_where_one_value_is_wanted(ask):
    scope = scope_of("text", many=True, send="repeated", default=["a", "b"])
    if "headers" in ask:
        assert call_of(ask, scope).headers == (("X-A", "a"), ("X-A", "b"))
        return
    with pytest.raises(ProblemError) as caught:
        call_of(ask, scope)
    assert caught.value.problem.kind == "template-list"
    # RFC 6570 has forms that repeat by themselves.
    assert expand("/x{?p*}", scope) == "/x?p=a&p=b"


def test_several_values_for_one_are_refused():
    with pytest.raises(ProblemError, match="takes one value"):
        bind([parameter("text")], {"p": ["a", "b"]}, MOMENT)
    assert split_values("a\nb, c\n\n") == ["a", "b, c"]
    assert split_values("a; b") == ["a", "b"]
    assert split_values("a\tb") == ["a", "b"]
    assert bind([parameter("text", many=True)], {"p": "a, b"}, MOMENT) == {"p": ["a", "b"]}


@pytest.mark.parametrize(
    ("kind", "more", "word"),
    [
        ("text", {"many": True, "default": "x"}, "list"),
        ("text", {"default": ["x"]}, "one value"),
        ("choice", {}, "at least one code"),
        ("date", {"format": "dd.mm.yyyy"}, "way to write a date"),
        ("date", {"format": "%Q"}, "way to write a date"),
        ("date", {"zone": "Atlantis"}, "time zone"),
        ("date", {"default": {"anchor": "today", "offset": "PT1H"}}, "hours"),
        ("whole number", {"default": 1.5}, "integer"),
    ],
)
def test_a_parameter_that_cannot_be_one_is_refused(kind, more, word):
    with pytest.raises(ValidationError, match=word):
        parameter(kind, **more)


def test_pieces_whose_parameter_is_left_out_go():
    scope = scope_of("text", required=False)
    ask = {
        "path": "/x",
        "method": "POST",
        "query": [{"name": "a", "value": "{p}"}, {"name": "flag", "value": None}, {"name": "e", "value": ""}],
        "headers": [{"name": "X-A", "value": "{p}"}],
        "body": {"kind": "json", "value": {"a": "{p}", "l": ["{p}", 1], "t": "x{p}"}},
    }
    call = call_of(ask, scope)
    assert call.address == "http://h/x?flag&e="
    assert call.headers == (("Content-Type", "application/json"),)
    assert json.loads(call.body) == {"l": [1], "t": "x"}


def test_an_unknown_name_in_any_part_is_said_with_its_place():
    parts = [
        ({"headers": [{"name": "X-A", "value": "{rout}"}]}, "header X-A"),
        ({"body": {"kind": "json", "value": {"a": {"b": ["{rout}"]}}}}, "body $.a.b[0]"),
        ({"body": {"kind": "form", "fields": [{"name": "f", "value": "{rout}"}]}}, "form field f"),
        ({"body": {"kind": "text", "text": "{rout}"}}, "the body"),
        ({"query": [{"name": "q", "value": "{rout}"}]}, "{rout}"),
    ]
    for part, where in parts:
        with pytest.raises(ProblemError) as caught:
            call_of({"path": "/", **part}, scope_of("text", "x"))
        assert (caught.value.problem.kind, caught.value.problem.where) == ("template-unknown-name", where)


def test_braces_in_a_body_that_are_no_parameter_stay():
    text = "{ ports(first: 3) { name { zone } } }"
    assert fill(text, {}, "x") == text
    assert fill("{{p}} {p}", {"p": one_text("v")}, "x") == "{p} v"
    assert text_names("{{a}} {b} {c.year} { d }") == {"b", "c.year"}


@given(st.text(st.sampled_from(list("{}ab._ %")), max_size=20))
def test_a_text_made_literal_comes_back_as_it_was(text):
    assert fill(literal_text(text), {}, "x") == text


@given(st.text(st.characters(codec="utf-8", exclude_categories=["Cs"]), max_size=20))
def test_a_piece_of_an_address_made_literal_is_sent_as_it_was(text):
    from urllib.parse import unquote

    assert unquote(expand(literal(text), {})) == text


def test_multipart_has_each_field_and_a_boundary_of_its_own():
    fields = [{"name": 'a"b', "value": "1"}, {"name": "c", "value": "x\r\ny"}]
    call = call_of({"path": "/", "method": "POST", "body": {"kind": "multipart", "fields": fields}}, {})
    boundary = dict(call.headers)["Content-Type"].split("boundary=")[1]
    assert call.body.count(b"--" + boundary.encode()) == 3
    assert b'name="a%22b"\r\n\r\n1\r\n' in call.body
    assert b"x\r\ny" in call.body
    assert call_of({"path": "/", "method": "POST", "body": {"kind": "multipart", "fields": fields}}, {}) == call


def test_a_header_of_the_question_takes_the_place_of_the_services():
    ask = Ask(service="s", headers=[{"name": "accept", "value": "text/csv"}])
    call = build_call("http://h", ask, {}, [("Accept", "x"), ("User-Agent", "me")])
    assert call.headers == (("User-Agent", "me"), ("accept", "text/csv"))
    with pytest.raises(ValidationError, match="store it as the service's key"):
        Ask(service="s", headers=[{"name": "Authorization", "value": "Bearer x"}])
    with pytest.raises(ProblemError, match="name of a header"):
        call_of({"headers": [{"name": "a b", "value": "x"}]}, {})
