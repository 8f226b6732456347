"""Each line against a plain Python reading of what it means; and that its SQL statement says just what is done."""

import statistics
from collections import Counter
from datetime import datetime
from zoneinfo import ZoneInfo

import numpy as np
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.engine.work_out.conftest import Bench, table

LAWS = settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.too_slow])
numbers = st.none() | st.integers(-1000, 1000) | st.sampled_from([0.5, 2.25, -7.125, 100.0])
words = st.none() | st.sampled_from(["", "a", "A", "b", "ß", "007", "7", "late", "a, b", "x'y", 'say "hi"', "é"])
days = st.none() | st.datetimes(datetime(2019, 12, 20), datetime(2027, 1, 10)).map(lambda one: one.isoformat())
rows = st.lists(st.tuples(words, numbers, numbers, days), min_size=1, max_size=25)


def made(data):
    """A table with a text, two numbers and a date."""
    text, one, two, day = map(list, zip(*data, strict=True))
    return table(id=list(range(len(data))), text=text, n=one, m=two, day=day)


def is_blank(value):
    return value is None or value == ""


@LAWS
@given(rows)
def test_a_computed_column_is_worked_out_row_by_row(data):
    out = Bench().rows(made(data), {"do": "column", "name": "x", "expression": "n * 2 + m"})
    for row in out:
        _, _, n, m, _, x = row
        assert x == (None if n is None or m is None else n * 2 + m)


@LAWS
@given(rows)
def test_a_text_never_counts_as_nought(data):
    texts = ["12" if one[0] == "7" else one[0] for one in data]
    own = table(text=texts, n=[one[1] for one in data])
    line = {"do": "column", "name": "x", "expression": "coalesce(text, n) + 1"}
    stage = Bench().do(own, line)[0].stage
    odd = stage.looks.get("odd", np.zeros(0)).tolist()
    for at, (text, n, x) in enumerate(stage.window(0, stage.height)):
        value = {"007": 7, "12": 12}.get(text) if text is not None else n
        assert x == (None if value is None else value + 1)
        assert (at in odd) == (value is None and not is_blank(text) and n is not None)


@LAWS
@given(rows, st.integers(-50, 50))
def test_a_label_is_the_first_that_fits(data, bound):
    cases = [{"test": "above", "value": bound, "label": "high"}, {"test": "at least", "value": 0, "label": "mid"}]
    out = Bench().rows(made(data), {"do": "label", "name": "x", "column": "n", "cases": cases, "otherwise": "low"})
    for _, _, n, _, _, x in out:
        assert x == (None if n is None else "high" if n > bound else "mid" if n >= 0 else "low")


@LAWS
@given(rows, st.sampled_from(["a", "7", "late"]))
def test_rows_that_stay_and_rows_that_go_are_all_rows(data, value):
    own = made(data)
    done = Bench().do(own, {"do": "keep", "where": [{"column": "text", "test": "is not", "value": value}]})
    stage = done[0].stage
    kept = [row[0] for row in stage.window(0, stage.height)]
    assert kept == [at for at, one in enumerate(data) if one[0] != value]
    dropped = stage.looks["dropped"].tolist() if "dropped" in stage.looks else []
    assert sorted(kept + dropped) == list(range(len(data)))


@LAWS
@given(rows)
def test_conditions_hold_together_or_one_is_enough(data):
    where = [{"column": "n", "test": "above", "value": 0}, {"column": "text", "test": "filled"}]
    bench = Bench()
    both = [row[0] for row in bench.rows(made(data), {"do": "keep", "where": where})]
    one = [row[0] for row in bench.rows(made(data), {"do": "keep", "where": where, "any": True})]
    tests = [(n is not None and n > 0, not is_blank(text)) for text, n, _, _ in data]
    assert both == [at for at, (x, y) in enumerate(tests) if x and y]
    assert one == [at for at, (x, y) in enumerate(tests) if x or y]


@LAWS
@given(rows, st.booleans())
def test_an_order_keeps_what_is_alike_and_puts_blanks_last(data, down):
    out = Bench().rows(made(data), {"do": "order", "by": [{"column": "n", "down": down}]})
    filled = sorted(
        (at for at, one in enumerate(data) if one[1] is not None), key=lambda at: data[at][1] * (-1 if down else 1)
    )
    assert [row[0] for row in out] == filled + [at for at, one in enumerate(data) if one[1] is None]


@LAWS
@given(rows, st.integers(1, 4))
def test_the_first_of_each_group(data, most):
    line = {"do": "first", "rows": most, "by": [{"column": "n"}], "each": ["text"]}
    out = [row[0] for row in Bench().rows(made(data), line)]
    groups: dict = {}
    for at, (text, n, _, _) in enumerate(data):
        groups.setdefault(text, []).append(((n is None, n or 0, at), at))
    wanted = {at for one in groups.values() for _, at in sorted(one)[:most]}
    assert out == sorted(wanted)


@LAWS
@given(rows, st.sampled_from(["first", "last"]))
def test_one_of_those_that_are_alike_stays(data, stays):
    out = [row[0] for row in Bench().rows(made(data), {"do": "repeats", "by": ["text"], "stays": stays})]
    seen: dict = {}
    for at, one in enumerate(data):
        if stays == "last" or one[0] not in seen:
            seen[one[0]] = at
    assert out == sorted(seen.values())


@LAWS
@given(rows)
def test_figures_of_groups_and_their_totals_add_up(data):
    figures = [
        {"of": "rows"}, {"of": "sum", "column": "n"}, {"of": "mean", "column": "n"}, {"of": "median", "column": "n"},
        {"of": "lowest", "column": "n"}, {"of": "highest", "column": "n"}, {"of": "filled", "column": "n"},
        {"of": "different", "column": "n"}, {"of": "first", "column": "m"}, {"of": "last", "column": "m"},
        {"of": "share of rows"}, {"of": "joined", "column": "id"},
    ]  # fmt: skip
    out = Bench().rows(made(data), {"do": "count", "by": ["text"], "figures": figures, "totals": True})
    groups: dict = {}
    for at, (text, n, m, _) in enumerate(data):
        groups.setdefault(text, []).append((at, n, m))
    wanted = {text: _figures(one, len(data)) for text, one in groups.items()}
    assert len(out) == len(groups) + 1
    for row in out[:-1]:
        assert list(row[1:]) == _near(wanted[row[0]])
    assert out[-1][0] == "Total"
    everything = _figures([(at, n, m) for at, (_, n, m, _) in enumerate(data)], len(data))
    assert list(out[-1][1:]) == _near(everything)
    assert sum(row[1] for row in out[:-1]) == out[-1][1]


def _figures(group, total):
    own = [n for _, n, _ in group if n is not None]
    other = [m for _, _, m in group if m is not None]
    return [
        len(group), sum(own) if own else None, statistics.fmean(own) if own else None,
        statistics.median(own) if own else None, min(own, default=None), max(own, default=None), len(own),
        len(set(own)), other[0] if other else None, other[-1] if other else None, 100 * len(group) / total,
        ", ".join(str(at) for at, _, _ in group),
    ]  # fmt: skip


def _near(values):
    return [pytest.approx(value, abs=1e-5) if isinstance(value, float) else value for value in values]


@LAWS
@given(rows)
def test_rows_behind_a_group_are_its_rows(data):
    done = Bench().do(made(data), {"do": "count", "by": ["text"], "figures": [{"of": "rows"}]})
    stage = done[0].stage
    behind = []
    for at, (text, number) in enumerate(stage.window(0, stage.height)):
        own = stage.behind(at).tolist()
        assert len(own) == number
        assert {data[row][0] for row in own} == {text}
        behind += own
    assert sorted(behind) == list(range(len(data)))


@LAWS
@given(rows)
def test_a_period_is_that_of_the_day(data):
    for period in ("day", "week", "month", "quarter", "year", "weekday", "hour"):
        line = {"do": "period", "name": "p", "column": "day", "period": period}
        out = Bench().do(made(data), line)[0].stage
        at = out.names.index("p")
        for (_, _, _, day), row in zip(data, out.window(0, out.height), strict=True):
            assert row[at] == (None if day is None else _period(datetime.fromisoformat(day), period))


def _period(day, period):
    year, week, weekday = day.isocalendar()
    names = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"]
    return {
        "day": day.date().isoformat(), "week": f"{year}-W{week:02}", "month": f"{day:%Y-%m}",
        "quarter": f"{day.year}-Q{(day.month + 2) // 3}", "year": day.year,
        "weekday": f"{weekday} {names[weekday - 1]}", "hour": f"{day:%H}",
    }[period]  # fmt: skip


@LAWS
@given(rows)
def test_running_total_difference_and_rank(data):
    lines = [
        {"do": "along", "name": "run", "what": "running", "column": "n", "each": ["text"]},
        {"do": "along", "name": "diff", "what": "difference", "column": "n", "each": ["text"]},
        {"do": "along", "name": "rank", "what": "rank", "column": "n"},
    ]
    out = Bench().rows(made(data), *lines)
    before: dict = {}
    total: dict = {}
    for row in out:
        _, text, n, _, _, run, diff, rank = row
        seen, last = total.get(text), before.get(text)
        total[text] = seen if n is None else (seen or 0) + n
        assert run == total[text]
        assert diff == (None if n is None or last is None else n - last)
        before[text] = n
        assert rank == (None if n is None else 1 + sum(one[1] is not None and one[1] > n for one in data))


@LAWS
@given(rows)
def test_blanks_are_filled_with_the_value_above(data):
    out = Bench().rows(made(data), {"do": "fill", "column": "text", "by": "row before"})
    last = None
    for (text, *_), row in zip(data, out, strict=True):
        last = last if is_blank(text) else text
        assert row[1] == last


@LAWS
@given(rows, st.sampled_from([", ", "'", "a", "n", '"']))
def test_a_text_split_into_rows_joins_again(data, separator):
    out = Bench().rows(made(data), {"do": "split", "column": "text", "separator": separator, "into": "rows"})
    parts: dict = {}
    for row in out:
        parts.setdefault(row[0], []).append(row[1])
    for at, (text, *_) in enumerate(data):
        assert parts[at] == ([None] if is_blank(text) else text.split(separator))


@LAWS
@given(rows)
def test_a_text_split_into_columns_keeps_what_is_left_in_the_last(data):
    line = {"do": "split", "column": "text", "separator": " ", "names": ["x", "y"]}
    out = Bench().rows(made(data), line)
    for (text, *_), row in zip(data, out, strict=True):
        parts = [] if is_blank(text) else text.split(" ", 1)
        assert list(row[2:4]) == [*parts, *[None] * (2 - len(parts))]


@LAWS
@given(rows)
def test_columns_into_rows_and_back(data):
    bench = Bench()
    fold = {"do": "fold", "columns": ["n", "m"], "blanks": True}
    spread = {"do": "spread", "names": "name", "by": ["id"], "figure": {"of": "first", "column": "value"}}
    folded = bench.rows(made(data), fold)
    assert [row[-2:] for row in folded] == [pair for _, n, m, _ in data for pair in (("n", n), ("m", m))]
    back = bench.rows(made(data), fold, spread)
    assert [(row[2], row[1]) for row in back] == [(n, m) for _, n, m, _ in data]


@LAWS
@given(
    rows,
    st.lists(st.tuples(words, numbers), max_size=12),
    st.sampled_from(["all", "matching", "unmatched"]),
    st.sampled_from(["first", "each"]),
)
def test_a_join_is_a_nested_loop(data, other, keep, several):
    bench = Bench()
    bench.others["P"] = table("P", key=[one for one, _ in other] or [None], price=[two for _, two in other] or [None])
    line = {
        "do": "bring", "table": {"query": "P"}, "match": [{"theirs": "key", "ours": "text"}],
        "columns": [{"column": "price"}], "rows": keep, "several": several,
    }  # fmt: skip
    done = bench.do(made(data), line)[0].stage
    got = [
        (row[0], getattr(row[5], "words", row[5]) if keep != "unmatched" else "no match")
        for row in done.window(0, done.height)
    ]
    wanted = []
    for at, (text, *_) in enumerate(data):
        hits = [price for key, price in other if key == text and not is_blank(text)]
        if keep == "unmatched":
            wanted += [(at, "no match")] if not hits else []
        elif hits:
            wanted += [(at, price) for price in (hits[:1] if several == "first" else hits)]
        elif keep == "all":
            wanted.append((at, "no match"))
    assert got == wanted


@LAWS
@given(rows, rows)
def test_rows_below_each_other(data, more):
    bench = Bench()
    text, n, _, _ = map(list, zip(*more, strict=True))
    bench.others["B"] = table("B", n=n, extra=text)
    out = bench.rows(made(data), {"do": "below", "tables": [{"query": "B"}], "whose": "from", "own": "A"})
    assert [(row[2], row[5], row[6]) for row in out] == [(n, None, "A") for _, n, _, _ in data] + [
        (n, text, "B") for text, n, _, _ in more
    ]


@LAWS
@given(rows)
def test_a_line_that_is_off_does_nothing(data):
    label = {"do": "label", "name": "x", "column": "n", "cases": [{"test": "above", "value": 0, "label": "y"}]}
    order = {"do": "order", "by": [{"column": "n"}]}
    bench = Bench()
    assert bench.rows(made(data), {**label, "off": True}, order) == bench.rows(made(data), order)


@LAWS
@given(rows)
def test_lines_of_one_row_commute_with_choosing_rows(data):
    column = {"do": "column", "name": "x", "expression": "coalesce(n, 0) - 3"}
    keep = {"do": "keep", "where": [{"column": "m", "test": "above", "value": 0}]}
    bench = Bench()
    assert bench.rows(made(data), column, keep) == bench.rows(made(data), keep, column)


@LAWS
@given(rows)
def test_values_are_replaced_and_nothing_else(data):
    changes = [{"old": "a", "new": "z"}, {"old": "7"}]
    out = Bench().rows(made(data), {"do": "replace", "column": "text", "changes": changes})
    swap = {"a": "z", "7": None}
    assert [row[1] for row in out] == [swap.get(text, text) for text, *_ in data]
    part = Bench().rows(
        made(data), {"do": "replace", "column": "text", "what": "part", "changes": [{"old": "a", "new": "_"}]}
    )
    assert [row[1] for row in part] == [text if text is None else text.replace("a", "_") for text, *_ in data]


@LAWS
@given(rows, st.integers(2, 6))
def test_classes_of_equal_width_hold_every_number(data, classes):
    own = [n for _, n, _, _ in data if n is not None]
    done = Bench().do(made(data), {"do": "bands", "name": "b", "column": "n", "by": "equal", "classes": classes})[0]
    if len(set(own)) < 2:
        assert done.problem.kind == "no-numbers"
        return
    out = done.stage.window(0, done.stage.height)
    labels = Counter(row[5] for row in out if row[5] is not None)
    assert sum(labels.values()) == len(own)
    step = (max(own) - min(own)) / classes
    for row in out:
        if row[2] is not None:
            at = int(row[5].split(":")[0]) - 1
            assert min(own) + step * at - 1e-6 <= row[2] <= min(own) + step * (at + 1) + 1e-6


@LAWS
@given(rows, st.integers(2, 4))
def test_percent_share_moving_mean_and_the_value_before(data, most):
    lines = [
        {"do": "along", "name": what, "what": what, "column": "n", "rows": most}
        for what in ("percent", "share", "mean", "before")
    ]
    values = [n for _, n, _, _ in data]
    whole = sum(n for n in values if n is not None)
    for at, row in enumerate(Bench().rows(made(data), *lines)):
        n, before = values[at], values[at - 1] if at else None
        near = [n for n in values[max(0, at - most + 1) : at + 1] if n is not None]
        wanted = [
            None if n is None or not before else 100 * (n - before) / abs(before),
            None if n is None or not whole else 100 * n / whole,
            statistics.fmean(near) if near else None,
            before,
        ]
        assert list(row[5:]) == _near([None if one is None else float(one) for one in wanted])


@LAWS
@given(rows)
def test_units_go_there_and_back(data):
    there = {"do": "units", "column": "n", "given": "degC", "unit": "degF"}
    rows_there = Bench().rows(made(data), there)
    assert [row[2] for row in rows_there] == _near([None if n is None else n * 9 / 5 + 32 for _, n, _, _ in data])
    back = Bench().rows(made(data), there, {"do": "units", "column": "n", "unit": "degC"})
    assert [row[2] for row in back] == _near([None if n is None else float(n) for _, n, _, _ in data])


@LAWS
@given(rows)
def test_a_text_put_together_has_the_values_where_they_stand_and_is_blank_with_one_of_them(data):
    out = Bench().rows(made(data), {"do": "text", "name": "link", "text": "/a/{id}?q={text}#{id}"})
    for at, row in enumerate(out):
        text = data[at][0]
        assert row[5] == (None if is_blank(text) else f"/a/{at}?q={text}#{at}")


@LAWS
@given(rows, st.sampled_from(["Europe/Berlin", "Asia/Kolkata", "America/St_Johns"]))
def test_a_moment_in_another_zone_is_the_same_moment(data, zone):
    out = Bench().rows(made(data), {"do": "zone", "column": "day", "zone": zone, "given": "Asia/Tokyo"})
    for (_, _, _, day), row in zip(data, out, strict=True):
        if day is None:
            assert row[4] is None
        else:
            moment = datetime.fromisoformat(day).replace(tzinfo=ZoneInfo("Asia/Tokyo"))
            local = moment.astimezone(ZoneInfo(zone))
            shown = datetime.fromisoformat(row[4])
            assert (shown, shown.utcoffset()) == (moment.replace(microsecond=shown.microsecond), local.utcoffset())


@LAWS
@given(rows, st.integers(1, 3))
def test_a_text_split_by_lengths_has_parts_of_these_lengths(data, length):
    line = {"do": "split", "column": "text", "by": "lengths", "lengths": [length, 2], "names": ["head", "tail"]}
    for (text, *_), row in zip(data, Bench().rows(made(data), line), strict=True):
        wanted = (None, None) if is_blank(text) else (text[:length], text[length : length + 2])
        assert tuple(row[2:4]) == tuple(one or None for one in wanted)


@LAWS
@given(st.lists(st.none() | st.floats(-1e6, 1e6).map(lambda one: round(one, 3)) | st.sampled_from(["", "n/a", "soon"]),
                min_size=1, max_size=25), st.booleans())  # fmt: skip
def test_numbers_written_as_texts_are_the_numbers_again(data, comma):
    texts = [f"{one:,.3f}" if isinstance(one, float) else one for one in data]
    if comma:
        texts = [one and one.translate(str.maketrans(",.", ".,")) for one in texts]
    line = {"do": "read", "column": "n", "kind": "decimal", "comma": comma, "empty": ["n/a"]}
    stage = Bench().do(table(n=texts), line)[0].stage
    assert [row[0] for row in stage.window(0, stage.height)] == [
        one if isinstance(one, float) else None for one in data
    ]
    assert stage.looks.get("odd", np.zeros(0)).tolist() == [at for at, one in enumerate(data) if one == "soon"]


@LAWS
@given(st.lists(st.dates(datetime(1990, 1, 1).date(), datetime(2040, 1, 1).date()), min_size=1, max_size=25))
def test_days_written_in_another_way_are_the_days_again(data):
    own = table(day=[f"{one:%d.%m.%Y}" for one in data])
    line = {"do": "read", "column": "day", "kind": "date", "dates": "%d.%m.%Y"}
    stage = Bench().do(own, line)[0].stage
    assert [row[0] for row in stage.window(0, stage.height)] == [one.isoformat() for one in data]
    assert stage.columns[0].kind == "date"
