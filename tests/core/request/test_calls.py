from urllib.parse import parse_qsl, unquote, urlsplit

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.base import Pair
from tin_bucket.core.formats.http import origin
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.request.ask import Ask
from tin_bucket.core.request.build import build_address, build_call, with_query
from tin_bucket.core.request.call import Call
from tin_bucket.core.request.templates import expand, fill, literal_text
from tin_bucket.core.request.variables import Value, one_text

TEXT = st.text(st.characters(codec="utf-8", exclude_categories=["Cs"]), max_size=30)


def texts(**values):
    return {name: Value() if value is None else one_text(value) for name, value in values.items()}


def pairs(**values):
    return [Pair(name=name, value=value) for name, value in values.items()]


@given(TEXT)
def test_any_value_arrives_as_it_was_given(value):
    address = build_address("http://h", "/p/{v}", pairs(q="{v}"), texts(v=value))
    parts = urlsplit(address)
    assert unquote(parts.path) == f"/p/{value}"
    assert parse_qsl(parts.query, keep_blank_values=True) == [("q", value)]


@given(TEXT, TEXT)
def test_fixed_text_of_a_parameter_arrives_as_it_was_typed(name, value):
    name, value = literal_text(name or "n"), value.replace("{", "").replace("}", "").replace("%", "")
    parts = urlsplit(build_address("http://h", "/", [Pair(name=name, value=value)], {}))
    assert parse_qsl(parts.query, keep_blank_values=True) == [(fill(name, {}, ""), value)]


def test_a_parameter_can_stand_anywhere_even_within_a_text():
    address = build_address("http://h/api/", "/{a}/x", pairs(d="from {a} to {b}"), texts(a="1", b="2&3"))
    assert address == "http://h/api/1/x?d=from%201%20to%202%263"


def test_an_optional_parameter_without_a_value_takes_its_piece_with_it():
    assert build_address("http://h", "/s", pairs(a="{x}", b="1"), texts(x=None)) == "http://h/s?b=1"


def test_rfc_6570_query_form_in_the_path():
    assert expand("/s{?a,b}", texts(a="1 2", b=None)) == "/s?a=1%202"


@pytest.mark.parametrize(
    ("template", "kind"),
    [("/a/{b", "template-unreadable"), ("/a/b}", "template-unreadable"), ("/{}", "template-unreadable"),
     ("/{c}", "template-unknown-name")],
)  # fmt: skip
def test_a_template_with_a_mistake_is_said_before_any_call(template, kind):
    with pytest.raises(ProblemError) as caught:
        build_address("http://h", template, [], texts(b="1"))
    assert caught.value.problem.kind == kind
    assert caught.value.problem.where == template


def test_an_address_that_is_too_long_is_refused():
    with pytest.raises(ProblemError, match="characters long"):
        build_address("http://h", "/{b}", [], texts(b="x" * 9000))


def test_headers_take_values_as_they_are_and_no_line_breaks():
    ask = Ask(service="s", path="/", headers=pairs(**{"X-For": "a {v}"}))
    call = build_call("http://h", ask, texts(v="b&c\r\nInjected: yes"), [("User-Agent", "me")])
    assert call.headers == (("User-Agent", "me"), ("X-For", "a b&c  Injected: yes"))


def test_setting_address_parameters_keeps_the_others():
    call = with_query(Call("GET", "http://h/s?a=1&page=3&b=%26"), {"page": "4", "size": "50"}, "page 4")
    assert call.address == "http://h/s?a=1&page=4&b=%26&size=50"
    assert call.label == "page 4"


def test_origin_is_scheme_host_and_port():
    assert origin("HTTP://Host/x") == origin("http://host:80/y") == "http://host:80"
    assert origin("https://host") != origin("http://host")
