"""Secrets that a service repeats, in whatever spelling: nothing of them is left."""

import base64
import html
import json

import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from tin_bucket.core.masking.scrub import holds_secret, scrub, scrub_problem
from tin_bucket.core.masking.spellings import SPELLINGS, traces_of
from tin_bucket.core.problem import Problem

SECRETS = st.text(st.characters(codec="utf-8", min_codepoint=33, exclude_characters="*"), min_size=8, max_size=40)
PLAIN = st.text("abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_", min_size=8, max_size=48)
AROUND = st.binary(max_size=12)


@settings(max_examples=250, deadline=None)
@given(SECRETS | PLAIN, st.lists(st.sampled_from(SPELLINGS), max_size=2), AROUND, AROUND)
@example("pass/word+100%", [], b"", b"")
def test_no_spelling_of_a_secret_is_left_whatever_stands_around_it(secret, ways, before, after):
    """What stands around it is written along with it, as in Base64 of “user:password”."""
    data = before + secret.encode() + after
    for way in ways:
        data = way.write(data)
    assert holds_secret(data, [secret])
    masked = scrub(b"<" + data + b">", [secret])
    assert not holds_secret(masked, [secret])


@pytest.mark.parametrize("spelling", SPELLINGS, ids=lambda one: one.name)
def test_each_spelling_is_masked(spelling):
    secret = "s3cr3t/of <the> “desk” & more"
    data = b'{"echo": "' + spelling.write(b"user:" + secret.encode()) + b'"}'
    masked = scrub(data, [secret])
    assert masked != data
    assert masked.endswith(b'"}')


@given(st.text("abc:", max_size=9), PLAIN)
def test_basic_credentials_and_claims_of_a_token_are_masked(user, secret):
    for data in (
        base64.b64encode(f"{user}:{secret}".encode()),
        b"e30." + base64.urlsafe_b64encode(json.dumps({"sub": user, "key": secret}).encode()).rstrip(b"=") + b".sig",
    ):
        masked = scrub(data, [secret])
        for shift in range(4):
            text = masked.replace(b"*" * 8, b"")[shift:]
            plain = base64.urlsafe_b64decode(
                text[: len(text) // 4 * 4].replace(b"+", b"-").replace(b"/", b"_").replace(b".", b"A")
            )
            assert secret.encode() not in plain


@given(st.lists(st.text("abcdefgh ", min_size=1, max_size=8), min_size=1, max_size=8))
def test_an_answer_without_the_secret_stays_as_it_is(words):
    data = json.dumps({"words": words}).encode()
    assert scrub(data, ["kf8-Lq2.vZ71", "a1b2"]) == data


@pytest.mark.parametrize(
    ("text", "masked"),
    [
        ("the key pa55 here", "the key ******** here"), ("pa55", "********"), ("xpa55", "xpa55"), ("pa556", "pa556"),
        ('{"p":"pa55"}', '{"p":"********"}'), ("k=pa55&x", "k=********&x"),
    ],
)  # fmt: skip
def test_a_short_secret_is_masked_as_a_word_of_its_own(text, masked):
    assert scrub(text.encode(), ["pa55"]).decode() == masked


def test_a_very_short_one_is_left_because_it_may_be_data():
    assert scrub(b'{"n": "x"}', ["x"]) == b'{"n": "x"}'


def test_a_problem_says_nothing_of_it():
    secret = "kf8-Lq2.vZ71"
    told = scrub_problem(
        Problem("k", f"no {secret}", f"GET http://h/{secret}", f"drop {secret}", f"bad {secret}"), [secret]
    )
    assert secret not in told.sentence()
    assert told.kind == "k"


def test_the_number_of_traces_of_a_usual_key_is_small():
    assert len(traces_of("kf8Lq2vZ71mN0pQ4rS8t")) < 120


@pytest.mark.parametrize("text", ["/of/{}/more", "id-{}-7", "a{}b", "x={}&y=1"])
def test_what_stands_beside_a_plain_secret_stays(text):
    assert scrub(text.format("kf8Lq2vZ71mN0p").encode(), ["kf8Lq2vZ71mN0p"]).decode() == text.format("*" * 8)


def _escape(char, way):
    """A character escaped in one of the ways that services have."""
    data = char.encode()
    units = char.encode("utf-16-be")
    pairs = [units[at : at + 2].hex() for at in range(0, len(units), 2)]
    return [
        char, "".join(f"%{byte:02x}" for byte in data), "".join(f"%{byte:02X}" for byte in data), f"&#{ord(char)};",
        f"&#x{ord(char):x};", f"&#X{ord(char):04X};", "".join(f"\\u{pair}" for pair in pairs),
        "".join(f"\\u{pair.upper()}" for pair in pairs), html.escape(char), json.dumps(char)[1:-1],
    ][way]  # fmt: skip


@given(st.data(), PLAIN | st.text(min_size=8, max_size=20).filter(lambda text: text.isprintable()))
def test_any_mixture_of_escapes_is_masked(data, secret):
    """The secret, or Base64 that holds it, with each character escaped in a way of its own."""
    inner = data.draw(st.sampled_from([
        secret, base64.b64encode(secret.encode()).decode(), base64.b64encode(f"ann:{secret}".encode()).decode(),
        base64.urlsafe_b64encode(f"a:{secret}!".encode()).decode(),
    ]))  # fmt: skip
    ways = data.draw(st.lists(st.integers(0, 9), min_size=len(inner), max_size=len(inner)))
    text = "".join(map(_escape, inner, ways))
    before, after = data.draw(st.tuples(st.text('abc%&\\" ', max_size=9), st.text('abc%&\\" ', max_size=9)))
    masked = scrub(f"{before}{text}{after}".encode(), [secret])
    assert b"*" * 8 in masked
    assert not holds_secret(masked, [secret])
    # What is left of the text is an end of it at most: the encoded bits of less than a character.
    left = masked.decode("utf-8", "replace").removeprefix(before).removesuffix(after).replace("*" * 8, "")
    assert len(left) <= 2 * 14


@given(st.text('kLq%&;#x\\u0026 "', max_size=200))
def test_escapes_without_the_secret_stay_as_they_are(text):
    data = json.dumps({"text": text}).encode()
    assert scrub(data, ["kf8-Lq2.vZ71"]) == data


@pytest.mark.parametrize("run", [b"\\", b'\\"', b"%5c", b"&amp;", b"%25", b"amp;", b"&#0", b"\\u0000", b"\\\\u"])
@pytest.mark.parametrize("secret", ["kf8Lq2vZ71mN0pQ4rS8t", 'ti"de/\\x&%25amp'])
def test_a_long_run_of_what_escapes_are_made_of_is_read_once(run, secret):
    """What a service might send to keep the program busy: it would take hours if each start were tried to the end."""
    assert scrub(run * 20_000 + b" end", [secret]).endswith(b" end")


@pytest.mark.parametrize("spelled", ["&#92;", "&#x5C;", "&amp;#092;", "\\u005c", "\\\\u005C", "\\\\", "%5c", "\\"])
def test_a_backslash_is_masked_in_every_spelling(spelled):
    for secret, text in (("tide-and-\\", f"tide-and-{spelled}"), ("tide\\-and-table", f"tide{spelled}-and-table")):
        masked = scrub(f"is {text} here".encode(), [secret])
        assert masked.startswith(b"is " + b"*" * 8)
        assert not any(part in masked for part in (b"tide", b"92;", b"table"))
