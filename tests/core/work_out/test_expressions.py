"""Expressions: what is read, what is refused with its place, and what a number is wanted of."""

import sqlite3

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tin_bucket.core.work_out.expression.compile import compile_expression
from tin_bucket.core.work_out.expression.functions import FUNCTIONS
from tin_bucket.core.work_out.expression.mistake import ExpressionError
from tin_bucket.core.work_out.expression.parser import parse
from tin_bucket.core.work_out.shape import ColumnShape, Shape

SHAPE = Shape(
    [
        ColumnShape("delay", "whole number", has_texts=lambda: False),
        ColumnShape("price", "decimal", has_texts=lambda: True),
        ColumnShape("route", "text"),
        ColumnShape("car fare", "decimal", has_texts=lambda: False),
        ColumnShape("departs", "date and time"),
    ],
    as_of="2026-11-18T07:30:00+00:00",
)


@pytest.mark.parametrize(
    "text",
    [
        "delay + 1",
        '"car fare" * 1.2 - delay',
        "CASE WHEN delay > 10 THEN 'late' WHEN delay IS NULL THEN NULL ELSE 'on time' END",
        "case route when 'a' then 1 end",
        "delay BETWEEN 5 AND 10 AND route NOT LIKE 'A%' ESCAPE '\\'",
        "delay NOT IN (1, 2, 3) OR NOT route IS NOT NULL",
        "CAST(delay AS TEXT) || ' min'",
        "round(price / nullif(delay, 0), 2)",
        "route COLLATE NOCASE = 'x'",
        "-(delay) * +2 % 3",
        "json_extract(route, '$.a') ->> 'b'",
        "delay ISNULL OR route NOTNULL OR delay NOT NULL",
        "date(departs, '+7 days') > as_of()",
        "route IS DISTINCT FROM 'x'",
        "0x1F + 1e3 + .5",
        "[route] = `route`",
        "matches(route, '^A')",
        "(((delay)))",
    ],
)
def test_what_sqlite_reads_is_read(text):
    made = compile_expression(text, SHAPE)
    db = sqlite3.connect(":memory:")
    db.create_function("matches", 2, lambda value, pattern: 1)
    db.execute('CREATE TABLE t (delay, price, route, "car fare", departs)')
    db.execute(f"SELECT {made.sql} FROM t").fetchall()


@pytest.mark.parametrize(
    ("text", "place", "words"),
    [
        ("", 0, "empty"),
        ("delay +", 7, "missing at the end"),
        ("delay; DROP TABLE t", 5, "second statement"),
        ("delya + 1", 0, "no column “delya”"),
        ('"No" + 1', 0, "no column “No”"),
        ("(SELECT max(delay) FROM t)", 1, "begins a statement"),
        ("WITH RECURSIVE c(x) AS (SELECT 1) SELECT 1", 0, "begins a statement"),
        ("car fare + 1", 0, "Two names follow each other"),
        ("delay + 'abc", 8, "has no end"),
        ("foo(delay)", 0, "no function foo"),
        ("load_extension('x')", 0, "no function load_extension"),
        ("round(delay, 1, 2)", 0, "takes 1 to 2 values"),
        ("sum(delay)", 0, "looks at many rows"),
        ("lag(delay) OVER ()", 0, "no function lag"),
        ("(delay", 6, ") is missing"),
        ("delay)", 5, "closes nothing"),
        ("delay, 1", 5, "comma"),
        ("delay = ?1", 8, "stands for no value"),
        ("date('now')", 5, "another value at every look"),
        ("CURRENT_DATE", 0, "another value at every look"),
        ("datetime(departs, 'localtime')", 18, "this machine's time zone"),
        ("CASE delay END", 11, "WHEN is missing"),
        ("CASE WHEN delay THEN 1", 22, "END is missing"),
        ("CAST(delay AS BLOB)", 14, "TEXT, INTEGER, REAL or NUMERIC"),
        ("delay “x”", 6, "as a quote"),
        ("route MATCH 'x'", 6, "search index"),
        ("(delay, 1) = (1, 2)", 6, "no value"),
        ("route LIKE 'x' ESCAPE 'ab'", 22, "one character"),
        ("count(*)", 0, "many rows"),
        ("AND", 0, "cannot stand here"),
        ("delay + 'abc'", 8, "is a text, and a number is wanted"),
        ("('2') * delay", 0, "is a text, and a number is wanted"),
        ("abs('x')", 4, "is a text, and a number is wanted"),
        ("delay > '10'", 8, "is a text, and a number is wanted"),
        ("delay IN (1, '10')", 13, "is a text, and a number is wanted"),
    ],
)
def test_a_mistake_is_said_in_words_with_its_place(text, place, words):
    with pytest.raises(ExpressionError) as raised:
        compile_expression(text, SHAPE)
    assert words in raised.value.problem.what
    assert raised.value.start == place
    assert raised.value.problem.do
    assert "sqlite" not in raised.value.problem.sentence().lower()


def test_a_near_name_is_offered():
    with pytest.raises(ExpressionError) as raised:
        compile_expression("dealy + 1", SHAPE)
    assert raised.value.problem.do == 'Is "delay" meant?'


@pytest.mark.parametrize(
    ("text", "numbers"),
    [
        ("price + 1", {"price"}),
        ("(price) * 2", {"price"}),
        ("abs(price)", {"price"}),
        ("price > 10", {"price"}),
        ("price BETWEEN 1 AND 2", {"price"}),
        ("route > 'B'", set()),
        ("route || price", set()),
        ("delay + 1", set()),
        ("route + 1", {"route"}),
        ("price = 10", set()),
    ],
)
def test_of_which_columns_a_number_is_wanted(text, numbers):
    assert compile_expression(text, SHAPE).numbers == numbers


@pytest.mark.parametrize(
    ("text", "written"),
    [
        ("coalesce(price, 0) * 2", 'as_number(coalesce("price", 0)) * 2'),
        ("coalesce(delay, 0) * 2", 'coalesce("delay", 0) * 2'),
        ("iif(route = 'x', delay, 0) + 1", 'iif("route" = \'x\', "delay", 0) + 1'),
        ("iif(delay, price, 0) + 1", 'as_number(iif("delay", "price", 0)) + 1'),
        ("CASE route WHEN 'x' THEN 1 ELSE 0 END + 1", "CASE \"route\" WHEN 'x' THEN 1 ELSE 0 END + 1"),
        ("CASE WHEN 1 THEN 'a' END + 1", "as_number(CASE WHEN 1 THEN 'a' END) + 1"),
        ("-(route || 1) + substr(route, 1)", '-as_number(("route" || 1)) + as_number(substr("route", 1))'),
        ("CAST(route AS REAL) + CAST(delay AS TEXT)", 'CAST("route" AS REAL) + as_number(CAST("delay" AS TEXT))'),
        ("round(nullif(delay, 'x'))", "round(nullif(\"delay\", 'x'))"),
    ],
)
def test_a_text_that_sqlite_would_take_for_nought_is_asked_for_its_number(text, written):
    assert str(compile_expression(text, SHAPE).sql) == written


def test_a_text_may_be_compared_with_what_may_be_one():
    for text in ("price = '10'", "delay || '' = '10'", "route IN ('a')", "departs > '2026-01-01'"):
        compile_expression(text, SHAPE)


@pytest.mark.parametrize(
    ("text", "logic"),
    [
        ("delay > 10", True),
        ("delay > 10 AND 1", True),
        ("NOT delay", True),
        ("delay + 1", False),
        ("(delay = 1)", True),
    ],
)
def test_what_gives_yes_or_no(text, logic):
    assert compile_expression(text, SHAPE).logic is logic


@settings(max_examples=300, deadline=None)
@given(st.text(alphabet="delay'\"()+-*/%<>=|,;. 01xCASEWHENTHEND[]`?@", max_size=30))
def test_any_text_is_read_or_refused_with_a_place_in_it(text):
    place = _mistake(text)
    assert place is None or (0 <= place[0] <= len(text) and place[0] < place[1])


def _mistake(text):
    try:
        parse(text)
    except ExpressionError as error:
        return error.start, error.end
    return None


def test_deep_nesting_is_refused_before_python_is_tired():
    with pytest.raises(ExpressionError, match="nested too deeply"):
        parse("(" * 5_000 + "1" + ")" * 5_000)


def test_every_function_of_the_list_is_one_of_sqlite_or_ours():
    db = sqlite3.connect(":memory:")
    have = {name.lower() for (name,) in db.execute("SELECT name FROM pragma_function_list")}
    assert {name for name, one in FUNCTIONS.items() if not one.ours} <= have
