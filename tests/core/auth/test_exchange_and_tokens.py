import base64
import json
from datetime import UTC, datetime, timedelta
from urllib.parse import parse_qs

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tin_bucket.core.auth.credentials import Key
from tin_bucket.core.auth.exchange import MOST_HOPS, SecretRequest, exchange, redirected
from tin_bucket.core.auth.tokens import Token, get_token, renew_at, sign_in_shown, stated_end
from tin_bucket.core.problem import ProblemError
from tin_bucket.core.request.call import Call
from tin_bucket.core.response.response import Answer

NOW = datetime(2026, 11, 25, 12, tzinfo=UTC)
BASE = "http://h:80"
STORED = Key.model_validate({"name": "k", "places": [{"at": "header", "name": "X-Key"}]})
CREDENTIALS = {"by": "client credentials", "address": "/token"}
TOKEN = Key.model_validate({"name": "k", "source": CREDENTIALS, "places": [{"at": "bearer"}]})
SIGN_IN = {"by": "sign-in", "address": "/login", "token": "$.session.id", "life": "$.session.ttl"}


def answer(status=200, document=None, **headers):
    return Answer(
        status, {name.replace("_", "-"): text for name, text in headers.items()}, json.dumps(document).encode()
    )


def drive(going, replies):
    """Run an exchange with the replies in turn; gives what it wanted and sent, and its answer."""
    steps, left = [next(going)], list(replies)
    while True:
        try:
            steps.append(going.send(left.pop(0)))
        except StopIteration as done:
            assert not left
            return steps, done.value


def test_a_call_carries_the_key_and_its_answer_comes_back():
    steps, got = drive(exchange(Call("GET", "http://h/s"), STORED, BASE), [{"key": "x"}, answer(200, [1])])
    assert isinstance(steps[0], SecretRequest)
    assert steps[1].headers == (("X-Key", "x"),)
    assert (got.status, got.note) == (200, "")


def test_a_token_is_renewed_once_after_a_401():
    going = exchange(Call("GET", "http://h/s"), TOKEN, BASE)
    steps, got = drive(going, [{"key": "a"}, answer(401), {"key": "b"}, answer(200)])
    assert steps[2] == SecretRequest({"key": "a"})
    assert steps[3].headers == (("Authorization", "Bearer b"),)
    assert got.status == 200
    _, got = drive(
        exchange(Call("GET", "http://h/s"), TOKEN, BASE), [{"key": "a"}, answer(401), {"key": "b"}, answer(401)]
    )
    assert got.status == 401


def test_a_stored_key_is_not_tried_again():
    _, got = drive(exchange(Call("GET", "http://h/s"), STORED, BASE), [{"key": "a"}, answer(401)])
    assert got.status == 401


def test_a_redirect_within_the_origin_goes_with_the_key_and_one_elsewhere_without():
    going = exchange(Call("GET", "http://h/s", (("X-Own", "1"), ("Accept", "a"))), STORED, BASE)
    steps, got = drive(
        going,
        [{"key": "x"}, answer(302, location="/t"), answer(307, location="http://other:9/u?a=1"), answer(200)],
    )
    assert ("X-Key", "x") in steps[2].headers
    assert steps[3].address == "http://other:9/u?a=1"
    assert steps[3].headers == (("Accept", "a"),)
    assert got.note == "The service redirected the call to http://other:9, without the key."


def test_a_redirect_elsewhere_that_would_carry_the_key_or_a_body_is_not_followed():
    going = exchange(Call("GET", "http://h/s"), STORED, BASE)
    _, got = drive(going, [{"key": "sec ret99"}, answer(302, location="http://other/u?k=sec%20ret99")])
    assert got.failure.kind == "redirect-elsewhere"
    assert "ret99" not in got.failure.sentence()
    going = exchange(Call("POST", "http://h/s", body=b"private"), STORED, BASE)
    _, got = drive(going, [{"key": "x"}, answer(307, location="http://other/u")])
    assert got.failure.kind == "redirect-elsewhere"


def test_http_and_https_of_one_host_are_different_origins():
    going = exchange(Call("GET", "https://h/s"), STORED, "https://h")
    steps, _ = drive(going, [{"key": "x"}, answer(301, location="http://h/s"), answer(401)])
    assert all(name != "X-Key" for name, _ in steps[2].headers)


@given(st.sampled_from([301, 302, 303, 307, 308]), st.sampled_from(["/a", "//h/b", "http://h:80/c", "http://o/d"]))
def test_redirects_come_to_an_end(status, location):
    going = exchange(Call("GET", "http://h/s"), None, BASE)
    steps, got = drive(going, [answer(status, location=location)] * (MOST_HOPS + 1))
    assert (len(steps), got.failure.kind) == (MOST_HOPS + 1, "redirect-loop")


@pytest.mark.parametrize(
    ("status", "method", "becomes"),
    [(303, "POST", "GET"), (302, "POST", "GET"), (301, "POST", "GET"), (307, "POST", "POST"), (308, "PUT", "PUT"),
     (302, "PUT", "PUT"), (302, "HEAD", "HEAD")],
)  # fmt: skip
def test_the_method_after_a_redirect_is_that_of_rfc_9110(status, method, becomes):
    call = Call(method, "http://h/s", (("Content-Type", "x"),), body=b"b" if method in ("POST", "PUT") else None)
    going_on = redirected(call, answer(status, location="t"))
    assert (going_on.method, going_on.address) == (becomes, "http://h/t")
    assert (going_on.body is None) == (becomes in ("GET", "HEAD"))


@pytest.mark.parametrize("location", ["", "ftp://h/x", "http://[::1", "http://h:99999/", "javascript:x"])
def test_what_leads_nowhere_is_not_followed(location):
    assert redirected(Call("GET", "http://h/s"), answer(302, location=location)) is None


def got(key, secret, reply):
    going = get_token(key, BASE, secret, NOW)
    call = next(going)
    try:
        going.send(reply)
    except StopIteration as done:
        return call, done.value
    raise AssertionError("a sign-in makes one call")


SECRET = {"client_id": "me:1", "client_secret": "s&1"}


def test_client_credentials_in_the_header():
    call, token = got(TOKEN, SECRET, answer(200, {"access_token": "abc", "expires_in": 600}))
    assert (call.method, call.address) == ("POST", "http://h:80/token")
    assert parse_qs(call.body.decode()) == {"grant_type": ["client_credentials"]}
    sent = dict(call.headers)["Authorization"].removeprefix("Basic ")
    assert base64.b64decode(sent) == b"me%3A1:s%261"  # Both form-encoded first: RFC 6749 §2.3.1.
    assert token.text == "abc"
    assert token.fresh(NOW + timedelta(seconds=569))
    assert not token.fresh(NOW + timedelta(seconds=570))
    assert "abc" not in repr(token)


def test_client_credentials_in_the_body_with_scope_and_further_fields():
    source = {**CREDENTIALS, "send": "body", "scope": "a b", "fields": [{"name": "audience", "value": "x"}]}
    call, token = got(
        TOKEN.model_validate({**TOKEN.model_dump(), "source": source}), SECRET, answer(200, {"access_token": 17})
    )
    assert parse_qs(call.body.decode()) == {
        "grant_type": ["client_credentials"], "scope": ["a b"], "audience": ["x"],
        "client_id": ["me:1"], "client_secret": ["s&1"],
    }  # fmt: skip
    assert "Authorization" not in dict(call.headers)
    assert (token.text, token.ends) == ("17", None)


def test_a_sign_in_call_of_ones_own():
    source = {**SIGN_IN, "inputs": ["who", "word"], "headers": [{"name": "X-App", "value": "{who}"}],
              "body": {"kind": "json", "value": {"u": "{who}", "p": "{word}", "keep": True}}}  # fmt: skip
    key = Key.model_validate({"name": "k", "source": source, "places": [{"at": "address", "name": "sid"}]})
    assert key.required_fields() == ["who", "word"]
    secret = {"who": "ann", "word": 'p"{w}'}
    call, token = got(key, secret, answer(200, {"session": {"id": "s1", "ttl": 100}}))
    assert json.loads(call.body) == {"u": "ann", "p": 'p"{w}', "keep": True}
    assert ("X-App", "ann") in call.headers
    assert token == Token("s1", NOW + timedelta(seconds=90))
    told = sign_in_shown(key, BASE)
    assert json.loads(told.body) == {"u": "••••", "p": "••••", "keep": True}


@pytest.mark.parametrize(
    ("life", "seconds"),
    [(100, 90), ("100", 90), ((NOW + timedelta(seconds=600)).timestamp(), 570), ("2026-11-25T12:10:00Z", 570),
     ((NOW + timedelta(seconds=600)).timestamp() * 1000, 570), ("soon", 570), (None, 570)],
)  # fmt: skip
def test_the_life_of_a_token_is_read_as_seconds_as_a_moment_or_is_the_one_that_was_said(life, seconds):
    key = Key.model_validate({"name": "k", "source": {**SIGN_IN, "lasts": "PT10M"}, "places": [{"at": "bearer"}]})
    document = {"session": {"id": "s1", "ttl": life}}
    _, token = got(key, {"user": "u", "password": "p"}, answer(200, document))
    assert token.ends == NOW + timedelta(seconds=seconds)


@pytest.mark.parametrize(
    ("reply", "kind", "word"),
    [
        (
            answer(401, {"error": "invalid_client", "error_description": "Unknown client."}),
            "key-refused",
            "Unknown client",
        ),
        (answer(400, {"error": "invalid_client"}), "key-refused", "invalid_client"),
        (answer(500, {"error": "oh"}), "service-failed", "oh"),
        (answer(200, {"token": "x"}), "token-missing", "access_token"),
        (answer(200, {"access_token": None}), "token-missing", "access_token"),
    ],
)
def test_a_sign_in_that_fails_says_why(reply, kind, word):
    with pytest.raises(ProblemError) as caught:
        got(TOKEN, SECRET, reply)
    assert caught.value.problem.kind == kind
    assert word in caught.value.problem.sentence()
    assert "s&1" not in caught.value.problem.sentence()


@given(st.integers(1, 10**6))
def test_a_token_is_renewed_before_its_end_and_never_at_once(seconds):
    ends = NOW + timedelta(seconds=seconds)
    assert NOW < renew_at(NOW, ends) < ends


def test_a_token_may_state_its_own_end():
    claims = base64.urlsafe_b64encode(json.dumps({"exp": NOW.timestamp()}).encode()).decode().rstrip("=")
    assert stated_end(f"e30.{claims}.sig") == NOW
    for text in ("plain", "a.b.c", "e30.W10.x", f"e30.{base64.urlsafe_b64encode(b'{}').decode()}.x"):
        assert stated_end(text) is None
