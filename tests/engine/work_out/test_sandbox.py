"""The connection that works values out can do nothing else, and ends."""

import time
from threading import Event, Timer

import numpy as np
import pytest

from tests.engine.work_out.conftest import table
from tin_bucket.core.problem import ProblemError
from tin_bucket.engine.work_out.functions import (
    _as_number,
    _local_time,
    _match_of,
    _matches,
    _parts_by_length,
    _read_as,
)
from tin_bucket.engine.work_out.sandbox import Sandbox, Stopped


@pytest.mark.parametrize(
    "text",
    [
        "ATTACH DATABASE '{file}' AS other",
        "CREATE TABLE x (a)",
        "DELETE FROM t",
        "INSERT INTO t VALUES (9, 9)",
        "PRAGMA table_info(t)",
        "SELECT load_extension('x')",
        "SELECT readfile('/etc/passwd')",
        "SELECT writefile('{file}', 'x')",
        "SELECT random()",
        "VACUUM INTO '{file}'",
        "WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c) SELECT count(*) FROM c",
        "SELECT zeroblob(1000000000)",
        "SELECT 1; SELECT 2",
    ],
)
def test_nothing_but_working_out_is_done(text, tmp_path):
    file = tmp_path / "other.db"
    with Sandbox(seconds=5) as sandbox:
        sandbox.load("t", [("a", [1, 2])], 2)
        with pytest.raises((ProblemError, Exception)) as raised:
            sandbox.rows(text.format(file=file))
        assert isinstance(raised.value, ProblemError) or "one statement" in str(raised.value)
        assert sandbox.column("SELECT c0 FROM t") == [1, 2]
    assert not file.exists()


def test_what_takes_too_long_is_stopped_and_said():
    values = list(range(3_000))
    began = time.monotonic()
    with Sandbox(seconds=0.3) as sandbox:
        sandbox.load("t", [("a", values)], len(values))
        with pytest.raises(ProblemError) as raised:
            sandbox.rows("SELECT sum(x.c0 * y.c0 + z.c0) FROM t x, t y, t z")
    assert raised.value.problem.kind == "work-out-stopped"
    assert time.monotonic() - began < 5


def test_what_nobody_waits_for_is_stopped():
    stop = Event()
    Timer(0.2, stop.set).start()
    with Sandbox(stop) as sandbox:
        sandbox.load("t", [("a", list(range(3_000)))], 3_000)
        with pytest.raises(Stopped):
            sandbox.rows("SELECT sum(x.c0 * y.c0 + z.c0) FROM t x, t y, t z")


def test_values_go_in_and_come_out_as_they_are():
    values = [None, 1, -(2**63), 2**63 - 1, 1.5, 0.1, "x", "", "é\0y", True]
    with Sandbox() as sandbox:
        sandbox.load("t", [("a", values)], len(values))
        assert sandbox.column("SELECT c0 FROM t") == values
        sandbox.load("u", [("a", [2**70, "\ud800"])], 2)
        assert sandbox.column("SELECT c0 FROM u") == [str(2**70), "?"]


def test_a_pattern_that_never_ends_gives_nothing_in_time():
    began = time.monotonic()
    assert _matches("a" * 40 + "!", r"^(a|aa)+$(?<!x)(b|bb)?$") in (None, 0)
    assert _matches("a" * 5_000 + "!", r"(?:(?:a*)*)*\d$") in (None, 0)
    assert time.monotonic() - began < 3


def test_our_own_functions():
    assert (_matches("SK-1", "^SK"), _matches("x", "^SK"), _matches(None, "x"), _matches("x", "(")) == (
        1,
        0,
        None,
        None,
    )
    assert (_match_of("SK-12", r"(\d)(\d)", 2), _match_of("x", r"\d"), _match_of("1", r"\d", 3)) == ("2", None, None)
    assert _parts_by_length("abcde", "[2, 2]") == '["ab", "cd", "e"]'
    assert _local_time("2026-07-01T12:00:00+00:00", "Europe/Berlin") == "2026-07-01T14:00:00+02:00"
    assert _local_time("2026-01-01T12:00:00", "Asia/Tokyo", "Europe/Berlin") == "2026-01-01T20:00:00+09:00"
    assert (_local_time("2026-01-01", "Asia/Tokyo"), _local_time("soon", "Asia/Tokyo")) == ("2026-01-01", None)
    numbers = {" -12 ": -12, "1.50": 1.5, "5.": 5, ".5": 0.5, "1e3": 1000, "9" * 19: 9.999999999999999e18, 7: 7}
    assert {text: _as_number(text) for text in numbers} == numbers
    assert _as_number("9" * 5_000) == float("inf")
    assert {_as_number(text) for text in ("", "soon", "1_000", "nan", "inf", "0x1F", "1,5", "٣")} == {None}
    assert _read_as("9" * 5_000, "whole number", "{}") is None


class TestOneBadRowNeverLosesTheOthers:
    def test_text_among_numbers_is_counted_and_can_be_looked_at(self, bench):
        own = table(id=[1, 2, 3, 4], n=[1, "n/a", None, 4])
        done = bench.do(own, {"do": "column", "name": "x", "expression": "n * 2"})[0]
        assert [row[2] for row in done.stage.window(0, 4)] == [2, None, None, 8]
        assert [note.text for note in done.stage.notes] == [
            "1 not worked out: text where a number is wanted, such as “n/a”"
        ]
        assert done.stage.looks["odd"].tolist() == [1]

    def test_a_division_by_zero(self, bench):
        done = bench.do(table(n=[1, 2], m=[0, 2]), {"do": "column", "name": "x", "expression": "n / m"})[0]
        assert [row[2] for row in done.stage.window(0, 2)] == [None, 1]
        assert done.stage.notes[0].text == "1 not worked out: division by zero"

    def test_a_text_that_is_no_json(self, bench):
        values = ['{"a": 1}', "{broken", None, '{"a": 4}'] * 200
        line = {"do": "column", "name": "x", "expression": "json_extract(t, '$.a')"}
        _, done = bench.work.lines(table(t=values), "2026", _lines(line))
        stage = done[0].stage
        assert [row[1] for row in stage.window(0, 4)] == [1, None, None, 4]
        assert stage.notes[0].text == "200 not worked out: a value that cannot be worked out"
        assert stage.looks["odd"].tolist() == list(range(1, 800, 4))

    def test_a_text_that_is_no_date(self, bench):
        done = bench.do(table(d=["2026-11-18", "soon"]), {"do": "period", "name": "m", "column": "d"})[0]
        assert done.stage.notes[0].text == "1 not worked out: no date, such as “soon”"

    def test_texts_in_a_sum_are_left_out_and_said(self, bench):
        line = {"do": "count", "figures": [{"of": "sum", "column": "n"}]}
        done = bench.do(table(n=[1, "x", 3]), line)[0]
        assert done.stage.window(0, 1) == [(4,)]
        assert done.stage.notes[1].text == "1 text in n left out, such as “x”"

    def test_rows_with_text_where_a_number_is_wanted_go_and_are_said(self, bench):
        done = bench.do(table(n=[1, "x", 30]), {"do": "keep", "expression": "n > 10"})[0]
        assert [row[0] for row in done.stage.window(0, 3)] == [30]
        assert [note.text for note in done.stage.notes] == [
            "2 rows dropped here",
            "1 row of them: text where a number is wanted",
        ]


def _lines(*lines):
    from tests.engine.work_out.conftest import LINES

    return LINES.validate_python(list(lines))


def test_behind_a_line_that_fails_the_table_stays(bench):
    own = table(a=[1, 2])
    _, done = bench.work.lines(
        own,
        "2026",
        _lines(
            {"do": "column", "name": "b", "expression": "a + 1"},
            {"do": "column", "name": "c", "expression": "gone + 1"},
            {"do": "order", "by": [{"column": "c"}]},
        ),
    )
    assert [one.state for one in done] == ["done", "failed", "waiting"]
    assert done[1].place == (0, 4)
    assert [one.stage.names for one in done] == [["a", "b"]] * 3


def test_columns_whose_names_differ_in_case_alone_or_need_quotes(bench):
    own = table(**{"Delay": [1], "delay": [2], 'say "hi"': [3], "from": [4]})
    line = {"do": "column", "name": "x", "expression": '"Delay" * 1000 + "delay" * 100 + "say ""hi""" * 10 + "from"'}
    _, done = bench.work.lines(own, "2026", _lines(line))
    assert done[0].stage.window(0, 1)[0][-1] == 1234


def test_a_join_that_would_make_too_many_rows_is_told_before_it_is_made(bench):
    bench.others["P"] = table("P", k=["x"] * 10_000)
    line = {"do": "bring", "table": {"query": "P"}, "match": [{"theirs": "k", "ours": "k"}], "several": "each"}
    began = time.monotonic()
    _, done = bench.work.lines(table(k=["x"] * 10_000), "2026", _lines(line))
    assert done[0].problem.what == "This would make 100,000,000 rows, of 10,000."
    assert time.monotonic() - began < 5


def test_a_text_that_would_match_a_number_is_noticed(bench):
    bench.others["P"] = table("P", code=[7, 15], name=["a", "b"])
    line = {
        "do": "bring",
        "table": {"query": "P"},
        "match": [{"theirs": "code", "ours": "port"}],
        "columns": [{"column": "name"}],
    }
    done = bench.do(table(port=["007", "015"]), line)[0]
    assert [note.text for note in done.stage.notes][-1] == "port has “007” where code of P has 7: match loosely?"
    done = bench.do(table(port=["007", "015", " 7", "x"]), {**line, "loosely": True})[0]
    assert [row[1] for row in done.stage.window(0, 3)] == ["a", "b", "a"]
    assert [note.text for note in done.stage.notes] == ["3 matched", "1 without a match", "none twice"]


def test_columns_come_and_go_with_the_values_that_name_them(bench):
    line = {"do": "spread", "names": "month", "by": ["route"], "figure": {"of": "sum", "column": "n"}}
    one = bench.do(table(route=["a", "a"], month=["jan", "feb"], n=[1, 2]), line)[0].stage
    two = bench.do(table(route=["a"], month=["mar"], n=[3]), line)[0].stage
    assert (one.names, two.names) == (["route", "feb", "jan"], ["route", "mar"])


def test_a_value_that_is_json_itself_stays_a_text_and_decimals_are_as_people_write_them(bench):
    own = table(t=['{"a": [1, 2]}', '{"a": 0.1}'], n=[0.1, 0.7])
    _, done = bench.work.lines(
        own, "2026", _lines({"do": "column", "name": "x", "expression": "json_extract(t, '$.a')"})
    )
    assert [row[2] for row in done[0].stage.window(0, 2)] == ["[1,2]", 0.1]
    _, done = bench.work.lines(own, "2026", _lines({"do": "column", "name": "x", "expression": "n + 0.2"}))
    assert [row[2] for row in done[0].stage.window(0, 2)] == [0.3, 0.9]
    _, done = bench.work.lines(
        table(t=["a\0b"]), "2026", _lines({"do": "column", "name": "x", "expression": "t || 'c'"})
    )
    assert len(done[0].stage.window(0, 1)) == 1


def test_rows_that_are_worked_out_are_not_worked_out_again():
    from tin_bucket.engine.work_out.row_memo import RowMemo

    memo, worked = RowMemo(), []

    def work(ids):
        def go(rows):
            worked.append(len(rows))
            return [int(ids[at]) * 10 for at in rows.tolist()]

        return go

    one = np.array([5, 3, 5, 9])
    two = np.array([9, 4, 3, 4])
    assert memo.values("x", one, work(one)) == [50, 30, 50, 90]
    assert memo.values("x", two, work(two)) == [90, 40, 30, 40]
    assert memo.values("x", one, work(one)) == [50, 30, 50, 90]
    assert memo.values("y", one, work(one)) == [50, 30, 50, 90]
    assert worked == [3, 1, 3]


def test_a_row_of_totals_stays_the_last_one_or_is_said_to_stand_among_the_others(bench):
    own = table(route=["a", "b", "b"], n=[1, 2, 3])
    count = {"do": "count", "by": ["route"], "figures": [{"of": "sum", "column": "n", "name": "s"}], "totals": True}
    half = {"do": "column", "name": "half", "expression": "s / 2.0"}
    upward, downward = ({"do": "order", "by": [{"column": "s", "down": down}]} for down in (False, True))
    *_, done = bench.do(own, count, half, upward)
    assert done.stage.window(0, 3) == [("a", 1, 0.5), ("b", 5, 2.5), ("Total", 6, 3)]
    assert done.stage.totals
    *_, done = bench.do(own, count, half, downward)
    assert not done.stage.totals
    assert done.stage.notes[-1].text == "the row of totals stands among the others: move this line up"
    *_, done = bench.do(own, count, {"do": "first", "rows": 1, "by": [{"column": "s"}]})
    assert (done.stage.totals, [note.text for note in done.stage.notes]) == (False, ["2 rows dropped here"])
