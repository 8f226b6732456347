import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.formats.jsonpath import (
    WILDCARD,
    format_place,
    format_pointer,
    parse_place,
    parse_pointer,
    pick,
    readable_name,
)
from tin_bucket.core.problem import ProblemError

SEGMENTS = st.lists(st.one_of(st.text(max_size=8), st.integers(0, 99), st.just(WILDCARD)), max_size=6).map(tuple)


@given(SEGMENTS)
def test_a_place_written_and_read_is_the_same(place):
    assert parse_place(format_place(place)) == place


@given(st.lists(st.text(max_size=8), max_size=6).map(tuple))
def test_a_pointer_written_and_read_is_the_same(tokens):
    assert parse_pointer(format_pointer(tokens)) == tokens


def test_pointer_escapes_as_rfc_6901_section_3_says():
    assert format_pointer(("a/b", "m~n", 0)) == "/a~1b/m~0n/0"


@pytest.mark.parametrize("text", ["", "data", "$data", "$.", "$.a..b", "$[?@.x]", "$[1:2]", "$['a", "$.a b"])
def test_what_is_not_aplain_place_is_none(text):
    assert parse_place(text) is None


def testplain_places():
    assert parse_place("$") == ()
    assert parse_place("$.data[*].legs[0]['odd key']") == ("data", WILDCARD, "legs", 0, "odd key")
    assert parse_place('$["it\\"s"].ö') == ('it"s', "ö")


def test_pointer_must_start_with_a_slash():
    with pytest.raises(ValueError, match="starts with /"):
        parse_pointer("a/b")


def test_readable_names():
    assert readable_name(("fares", WILDCARD, "amount")) == "fares.amount"
    assert readable_name(()) == "value"


def test_a_deep_answer_is_searched_or_told_in_words():
    def nested(levels):
        document = {"leaf": 1}
        for _ in range(levels):
            document = {"in": [document]}
        return document

    assert pick(nested(120), "$..leaf").values == [1]
    with pytest.raises(ProblemError) as caught:
        pick(nested(400), "$..leaf")
    problem = caught.value.problem
    assert (problem.kind, "recursion" in problem.sentence()) == ("answer-too-deep", False)
    assert problem.do
