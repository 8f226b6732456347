import base64
import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.calls import Call
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.signing import Placement, looks_secret, masked_headers, scrub, sign
from tin_bucket.core.verdict import Answer, judge

SECRET = 'ab/c"d+e=f123'
PLACE = Placement("X-Key", "Token ", "Operations")
CALL = Call("GET", "http://h:80/s?a=1", (("Accept", "x"), ("x-key", "old")))


def test_a_key_goes_on_a_copy_and_only_to_its_origin():
    signed = sign(CALL, PLACE, SECRET, "http://h:80")
    assert signed.headers == (("Accept", "x"), ("X-Key", "Token " + SECRET))
    assert SECRET not in repr(CALL)
    for address in ("http://h:81/s", "https://h/s", "http://other/s"):
        with pytest.raises(ProblemError) as caught:
            sign(Call("GET", address), PLACE, SECRET, "http://h:80")
        assert caught.value.problem.kind == "key-bound-elsewhere"
        assert SECRET not in caught.value.problem.sentence()


def test_a_key_with_a_line_break_is_refused_without_showing_it():
    with pytest.raises(ProblemError) as caught:
        sign(CALL, PLACE, "abc\ndef", "http://h:80")
    assert caught.value.problem.kind == "key-unfit"
    assert "abc" not in str(caught.value)


def test_shown_headers_hold_the_place_and_not_the_text():
    assert masked_headers(CALL, PLACE) == [("Accept", "x"), ("X-Key", "Token ••••")]
    assert masked_headers(Call("GET", "http://h", (("Authorization", "Bearer x"),)), None) == [
        ("Authorization", "••••")
    ]


@given(st.text(st.characters(min_codepoint=33, max_codepoint=126), min_size=8, max_size=30), st.binary(max_size=30))
def test_an_echoed_key_is_blotted_out_in_every_spelling(secret, around):
    for echoed in (secret.encode(), json.dumps({"k": secret}).encode(), base64.b64encode(secret.encode())):
        out = scrub(around + echoed + around, secret)
        assert secret.encode() not in out.replace(b"*" * 8, b"")
        assert json.dumps(secret)[1:-1].encode() not in out.replace(b"*" * 8, b"")


@pytest.mark.parametrize(
    ("name", "value", "secret"),
    [
        ("api_key", "x", True), ("X-Api-Key", "", True), ("access_token", "", True), ("sig", "", True),
        ("key", "", True),
        ("route", "harl-oxnith", False), ("page", "1", False), ("monkey", "", False), ("keyword", "", False),
        ("code", "007", False),
        ("q", "8f3a2b1c9d4e5f60718293a4b5c6d7e8", True), ("q", "a plain sentence that is rather long", False),
    ],
)  # fmt: skip
def test_what_looks_like_a_key(name, value, secret):
    assert looks_secret(name, value) is secret


def said(status, body, content_type="application/json"):
    data = body if isinstance(body, bytes) else json.dumps(body).encode()
    return judge(Answer(status, {"content-type": content_type}, data))


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
        (204, b"", "empty-answer", ""),
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
