import jsonpath_rfc9535
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.detect.records import detect_records
from tin_bucket.core.formats.json import parse_json
from tin_bucket.core.formats.jsonpath import WILDCARD, check_path, format_place, parse_pointer, pick, pick_number
from tin_bucket.core.problem import ProblemError

NAMES = st.sampled_from(["a", "b", "odd key", "c/d", "~"])
JSON = st.recursive(
    st.none() | st.booleans() | st.integers(-5, 5) | st.text(max_size=3),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(NAMES, inner, max_size=4),
    max_leaves=20,
)
PLACES = st.lists(st.one_of(NAMES, st.integers(-2, 3), st.just(WILDCARD)), max_size=4).map(tuple)


@given(JSON, PLACES)
def test_the_fast_way_finds_what_the_standard_finds(document, place):
    path = format_place(place)
    assert pick(document, path).values == jsonpath_rfc9535.find(path, document).values()


@given(JSON, PLACES)
def test_every_pointer_leads_to_its_value(document, place):
    found = pick(document, format_place(place))
    for index, value in enumerate(found.values):
        at = document
        for token in parse_pointer(found.pointer(index)):
            at = at[token] if isinstance(at, dict) else at[int(token)]
        assert at is value


def test_a_full_jsonpath_with_a_filter():
    document = {"d": [{"n": 1, "ok": True}, {"n": 2, "ok": False}]}
    found = pick(document, "$.d[?@.ok == true]")
    assert found.values == [{"n": 1, "ok": True}]
    assert found.pointer(0) == "/d/0"


@pytest.mark.parametrize("path", ["data", "$.data[", "$.a[?@.b ==]", "$..", "$.a b"])
def test_a_path_with_a_mistake_is_said_with_its_position(path):
    with pytest.raises(ProblemError) as caught:
        check_path(path)
    assert caught.value.problem.kind == "path-unreadable"
    assert "at character" in caught.value.problem.what


def test_numbers_are_found_also_when_they_stand_as_text():
    assert pick_number({"m": {"t": "1284"}}, "$.m.t") == 1284
    assert pick_number({"t": 12.0}, "$.t") == 12
    assert pick_number({"t": True}, "$.t") is None
    assert pick_number({}, "$.t") is None
    assert pick_number({}, None) is None


def test_the_list_of_objects_is_guessed_before_other_lists():
    document = {"tags": ["x"] * 50, "result": {"items": [{"a": 1}] * 25}, "meta": {"total": 118}}
    guesses = detect_records(document)
    assert guesses[0].path == "$.result.items[*]"
    assert guesses[0].count == 25
    assert {guess.path for guess in guesses} == {"$.result.items[*]", "$.tags[*]"}
    assert detect_records({"a": 1})[0].path == "$"


def test_long_whole_numbers_keep_every_digit():
    text = b'{"id": 12345678901234567890123, "hull": 4611686018427387905, "code": "007"}'
    assert parse_json(text) == {"id": 12345678901234567890123, "hull": 4611686018427387905, "code": "007"}


@pytest.mark.parametrize(
    ("body", "kind", "word"),
    [
        (b'{"a": [1, 2', "cut-off", "is cut off"),
        (b'{"a": "xy', "cut-off", "is cut off"),
        (b'{"a": 1,}', "not-json", "line 1, column"),
        (b'{"a": NaN}', "not-a-number", "NaN"),
        (b"\xff\xfe\xfa", "not-json", "not UTF-8"),
        (b"[" * 100_000, "not-json", "nested"),
    ],
)
def test_what_is_not_json_is_said_in_words(body, kind, word):
    with pytest.raises(ProblemError) as caught:
        parse_json(body)
    assert caught.value.problem.kind == kind
    assert word in caught.value.problem.what
