import json

import pytest

from tin_bucket.core.response.classify import classify
from tin_bucket.core.response.response import Answer


def said(status, body, content_type="application/json"):
    data = body if isinstance(body, bytes) else json.dumps(body).encode()
    return classify(Answer(status, {"content-type": content_type}, data))


def test_a_good_answer_is_parsed_and_an_empty_list_is_a_true_answer():
    assert said(200, {"data": []}).document == {"data": []}
    assert said(200, b'\xef\xbb\xbf{"a":1}').document == {"a": 1}
    assert said(200, '{"n":"Äö"}'.encode("latin-1"), "application/json; charset=ISO-8859-1").document == {"n": "Äö"}
    assert said(200, '{"n":1}'.encode("utf-16")).document == {"n": 1}


@pytest.mark.parametrize(
    ("status", "body", "kind", "words"),
    [
        (401, {"error": {"code": "bad_key", "message": "Not known."}}, "key-refused", "Not known."),
        (403, {"title": "No", "detail": "Your plan lacks it."}, "key-refused", "Your plan lacks it."),
        (404, {"errors": [{"message": "nothing here"}]}, "not-found", "nothing here"),
        (422, {"error": "from is wanted"}, "call-refused", "from is wanted"),
        (429, b"slow down", "too-many-calls", "slow down"),
        (503, b"<!doctype html><title>Down &amp; out</title>", "service-failed", "Down & out"),
        (200, b"<html><head><title>Sign in</title>", "web-page", "Sign in"),
        (200, b"", "empty-answer", ""),
        (302, b"", "redirected", ""),
        (200, b'{"a": [1,', "cut-off", ""),
        (200, b"a,b\n1,2", "not-json", ""),
    ],
)  # fmt: skip
def test_what_is_no_answer_is_told_in_the_apis_own_words(status, body, kind, words):
    problem = said(status, body).problem
    assert problem is not None
    assert (problem.kind, problem.words) == (kind, words)
    assert problem.do


@pytest.mark.parametrize(
    ("words", "headers", "kind"),
    [
        ("Daily quota exceeded for this key", {}, "too-many-calls"),
        ("You have exceeded your monthly limit.", {}, "too-many-calls"),
        ("API rate limit reached, slow down", {}, "too-many-calls"),
        ("The allowance of 60 calls is used up", {}, "too-many-calls"),
        ("", {"retry-after": "60"}, "too-many-calls"),
        ("", {"x-ratelimit-remaining": "0"}, "too-many-calls"),
        ("", {"x-ratelimit-remaining": "12"}, "key-refused"),
        ("This key may not read ports", {}, "key-refused"),
        ("Access is limited to administrators", {}, "key-refused"),
    ],
)
def test_a_quota_that_is_told_by_403_is_not_a_bad_key(words, headers, kind):
    body = json.dumps({"message": words}).encode()
    problem = classify(Answer(403, {"content-type": "application/json", **headers}, body)).problem
    assert (problem.kind, problem.words) == (kind, words)


def test_304_is_no_redirect():
    problem = classify(Answer(304)).problem
    assert problem.kind == "nothing-changed"
    assert "redirect" not in problem.what
