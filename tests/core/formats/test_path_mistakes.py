"""A mistake in a JSONPath is told by its place and in plain words, and never in those of the package that reads it."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.formats.jsonpath import check_path
from tin_bucket.core.problem import ProblemError


@pytest.mark.parametrize(
    ("path", "words"),
    [
        ("$.a[", "at character 5: a bracket is not closed"),
        ("$.a[?@.b ==]", "at character 12: something is missing there"),
        ("$.a[?@.b == 'x]", "at character 14: a text in quotes is not closed"),
        ("$..", "at character 4: a name or a bracket is missing behind “..”"),
        ("$.a b", "at character 5: “b” is unexpected there"),
        ("a.b", "at character 1: it does not start with $"),
        ("", "at character 1: it does not start with $"),
        ("$.a[?foo(@.b)]", "at character 6: there is no function “foo”"),
        ("$.a[1:2:3:4]", "at character 10: “:” is unexpected there"),
        ("$[?length(@.a)]", "at character 3: what a function gives has to be compared, such as length(@.a) > 1"),
        ("$.a[?@.b = 1]", "at character 10: “=” is unexpected there"),
        ("$.a[01]", "at character 5: a number has no leading zero there"),
    ],
)
def test_a_mistake_is_told_in_plain_words(path, words):
    with pytest.raises(ProblemError) as caught:
        check_path(path)
    assert caught.value.problem.what == f"The JSONPath has a mistake {words}."


@given(st.text(st.sampled_from("$.[]*?@'\"=<>!&|()ab01,: -"), max_size=14))
def test_no_text_brings_the_words_of_a_package(text):
    try:
        check_path("$" + text)
    except ProblemError as error:
        what = error.problem.what
        assert what.startswith("The JSONPath has a mistake at character ")
        assert not any(
            word in what.lower() for word in ("token", "selector", "segment", "expected '", "comma", "index")
        )
