"""The text of a report: figures in braces, sentences that stand only when something holds, harmless HTML."""

import re
from html import escape

from hypothesis import example, given
from hypothesis import strategies as st

from tin_bucket.core.report.text import Said, condition, reference, references, shown, write


def say(of):
    return Said(f"<{of.name}|{of.part}>", f'<b data-part="{escape(of.part)}">{escape(of.name)}</b>')


def html(text, holds=lambda _: True):
    return write(text, say, holds).html


def test_figures_stand_in_the_sentence_and_in_the_plain_text():
    made = write("# Week\n\nThere are **{sailings}**, {sailings: change}.\n\n- one\n- {two}", say, lambda _: True)
    assert "<h2>Week</h2>" in made.html
    assert '<strong><b data-part="">sailings</b></strong>, <b data-part="change">sailings</b>.' in made.html
    assert made.text == "Week\n\nThere are <sailings|>, <sailings|change>.\n\n- one\n\n- <two|>"
    assert made.odd == ()


def test_a_brace_behind_a_backslash_is_a_brace():
    assert html(r"\{not a figure\}") == "<p>{not a figure}</p>\n"
    assert references(r"\{no\} {yes}") == [reference("yes")]


def test_markup_scripts_pictures_and_odd_addresses_are_text():
    made = html(
        "<script>alert(1)</script> <img src=x onerror=alert(1)> ![x](http://a/b.png) [a](javascript:alert(1))"
        " [b](data:text/html,x) [c](https://example.test/?a=1&b=2)"
    )
    assert "<script" not in made
    assert "<img" not in made
    assert 'href="javascript' not in made
    assert 'href="data' not in made
    assert '<a href="https://example.test/?a=1&amp;b=2" rel="noopener noreferrer">c</a>' in made


@given(st.text(alphabet="<>&\"'{}[]()!`*_#-\\:/ \nabjscript=", max_size=80))
@example("{<b>}")
@example("[{a}](http://x)")
def test_no_text_becomes_markup_that_does_something(text):
    made = html(text)
    assert not re.search(r"<(script|img|iframe|object|style|svg|form|input)\b", made, re.IGNORECASE)
    assert not re.search(r"<[^>]*\son\w+\s*=", made, re.IGNORECASE)
    for address in re.findall(r'href="([^"]*)"', made):
        assert re.match(r"(https?://|mailto:)", address, re.IGNORECASE)


def test_a_condition_is_read_in_words_and_in_signs():
    for words, name, part, test, value in (
        ("when late sailings above 30", "late sailings", "", "above", "30"),
        ("when late sailings, in %: change >= 3", "late sailings, in %", "change", "at least", "3"),
        ("when worst port is not Little Brae", "worst port", "", "is not", "Little Brae"),
        ("when worst port is Little Brae", "worst port", "", "is", "Little Brae"),
        ("when delay fewer than 5", "delay", "", "below", "5"),
        ("when fare blank", "fare", "", "blank", ""),
    ):
        found = condition(words)
        assert (found.of.name, found.of.part, found.test, found.value) == (name, part, test, value)
    assert condition("when late sailings") is None
    assert condition("when late above") is None


def test_a_sentence_stands_only_when_it_holds():
    text = "A. {when a above 1}B {when b above 1}C{end} D.{end} E."
    for a, b, wanted in ((True, True, "A. B C D. E."), (True, False, "A. B  D. E."), (False, True, "A.  E.")):
        assert shown(text, lambda when, a=a, b=b: {"a": a, "b": b}[when.of.name]) == (wanted, [])


def test_what_is_wrong_with_a_condition_is_said_and_nothing_is_shown_that_may_be_false():
    assert shown("x {end}", lambda _: True)[1] == ["An {end} has no {when …} before it."]
    seen, odd = shown("x {when a above 1}secret", lambda _: None)
    assert seen == "x "
    assert odd == ["Whether “when a above 1” holds cannot be told now.", "A {when …} has no {end}."]
    assert "cannot be read" in shown("{when nonsense}y{end}", lambda _: True)[1][0]
