"""Conditional requests: what is relied on, what is asked, and what a 304 makes of the saved answer (RFC 9110 §13)."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.request.call import Call
from tin_bucket.core.response.conditional import (
    Validators,
    conditional,
    may_be_conditional,
    unchanged,
    validators_of,
)
from tin_bucket.core.response.response import Answer

MONDAY = "Mon, 23 Nov 2026 08:00:00 GMT"
TUESDAY = "Tue, 24 Nov 2026 08:00:00 GMT"


@pytest.mark.parametrize(
    ("headers", "found"),
    [
        ({"etag": '"a1"'}, Validators('"a1"')),
        ({"etag": 'W/"a1"'}, Validators('W/"a1"')),
        ({"etag": '"a1"', "last-modified": MONDAY}, Validators('"a1"', MONDAY)),
        ({"last-modified": MONDAY, "date": TUESDAY}, Validators("", MONDAY)),
        ({"last-modified": MONDAY, "date": MONDAY}, None),
        ({"last-modified": MONDAY}, None),
        ({"last-modified": "yesterday", "date": TUESDAY}, None),
        ({"etag": "a1"}, None),
        ({"etag": '"a1"\r\nX: 1'}, None),
        ({"etag": '"a1"', "vary": "Accept, *"}, None),
        ({"etag": '"a1"', "vary": "Accept"}, Validators('"a1"')),
        ({"etag": '"a1"', "cache-control": "private, no-store"}, None),
        ({"etag": '"a1"', "cache-control": "no-cache"}, Validators('"a1"')),
        ({}, None),
    ],
)
def test_what_is_relied_on(headers, found):
    assert validators_of(headers) == found


@pytest.mark.parametrize(
    ("call", "may"),
    [
        (Call("GET", "http://h/"), True),
        (Call("HEAD", "http://h/"), False),
        (Call("POST", "http://h/", body=b"{}"), False),
        (Call("GET", "http://h/", body=b"{}"), False),
        (Call("GET", "http://h/", (("if-none-match", '"x"'),)), False),
        (Call("GET", "http://h/", (("Range", "bytes=0-9"),)), False),
    ],
)
def test_which_calls_can_be_conditional(call, may):
    assert may_be_conditional(call) is may


def test_a_call_names_both_validators_behind_its_own_headers():
    call = conditional(Call("GET", "http://h/", (("Accept", "text/csv"),)), Validators('"a"', MONDAY))
    assert call.headers == (("Accept", "text/csv"), ("If-None-Match", '"a"'), ("If-Modified-Since", MONDAY))
    assert conditional(Call("GET", "http://h/"), Validators("", MONDAY)).headers == (("If-Modified-Since", MONDAY),)


def test_a_304_freshens_the_headers_and_not_those_of_the_body():
    saved = Answer(200, {"etag": '"a"', "content-type": "application/json", "x-left": "9"}, b"[1]", 2.0)
    now = Answer(304, {"etag": '"b"', "content-type": "text/html", "content-length": "0", "x-left": "8"}, b"", 0.1)
    made = unchanged(now, saved)
    assert (made.status, made.body, made.seconds) == (200, b"[1]", 0.1)
    assert made.headers == {"etag": '"b"', "content-type": "application/json", "x-left": "8"}


@given(st.text(max_size=20))
def test_no_etag_brings_another_header(text):
    found = validators_of({"etag": text})
    assert found is None or not any(char in found.etag for char in "\r\n ")
