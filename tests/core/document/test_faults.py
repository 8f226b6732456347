"""What is wrong is said in the words of the screen, at the place's own name; no message of a library gets through."""

import typing

import pytest
from pydantic import ValidationError
from pydantic_core import core_schema

from tin_bucket.core.document.faults import fault_words, place_words
from tin_bucket.core.document.query import Brief

ASK = {"service": "s"}
LIBRARY = ("Input should", "Value error", "String should", "Field required", "Unable to", "validation", "separator")


@pytest.mark.parametrize(
    ("change", "place", "what"),
    [
        ({"name": ""}, "name", "this must not be empty"),
        ({"ask": {"path": "/x"}}, "the question, service", "this is missing"),
        (
            {"each": [{"by": "range", "parameter": "day", "start": "12024-01-01", "end": "2026-01-02"}]},
            "for each day, start",
            "date",
        ),
        (
            {"take": {"columns": [{"place": "$.a", "name": "a"}, {"place": "$.b", "name": "fee", "kind": "money"}]}},
            "take, column fee, kind",
            "this must be",
        ),
        ({"parameters": [{"name": "day", "kind": "date", "send": "twice"}]}, "parameter day, send", "this must be"),
        ({"keep": {"answers": {"runs": 0}}}, "keep, answers, runs", "this must be at least 1"),
    ],
)
def test_a_fault_is_told_with_the_screens_words(change, place, what):
    document = {"name": "q", "ask": ASK, **change}
    with pytest.raises(ValidationError) as caught:
        Brief.model_validate(document)
    found = caught.value.errors(include_url=False, include_input=False)
    places = [place_words(document, tuple(one["loc"])) for one in found]
    assert place in places
    words = fault_words(found[places.index(place)])
    assert what in words
    assert not any(phrase in words for phrase in LIBRARY)


@pytest.mark.parametrize("kind", typing.get_args(core_schema.ErrorType))
def test_no_message_of_the_library_is_passed_on(kind):
    context = dict.fromkeys(("expected", "expected_tags", "ge", "gt", "le", "lt", "min_length", "max_length"), "7")
    words = fault_words({"type": kind, "msg": "Input should be told by the library", "ctx": context})
    if kind not in ("value_error", "assertion_error"):
        assert not any(phrase in words for phrase in LIBRARY)
        assert "{" not in words
