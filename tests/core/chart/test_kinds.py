"""The numbers of charts: what is drawn is what the table has, and what is not drawn is said."""

import math
from collections import Counter
from datetime import UTC, datetime, timedelta, timezone

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from tests.core.chart.table import cells
from tin_bucket.core.chart.cells import moments_of
from tin_bucket.core.chart.drawing import Canvas
from tin_bucket.core.chart.kinds.bars import BarsChart
from tin_bucket.core.chart.kinds.figure import FigureChart
from tin_bucket.core.chart.kinds.line import LineChart
from tin_bucket.core.chart.kinds.points import PointsChart
from tin_bucket.core.chart.kinds.spread import SpreadChart, step_edges
from tin_bucket.core.chart.registry import draw
from tin_bucket.core.problem import ProblemError

DAY = 86_400_000
NUMBER = st.one_of(st.none(), st.integers(-1_000, 1_000), st.floats(-1e6, 1e6), st.sampled_from(["n/a", "", True]))
ROWS = st.lists(st.tuples(st.integers(0, 40), st.sampled_from("abc"), NUMBER), max_size=40)


def is_number(value):
    return isinstance(value, int | float) and not isinstance(value, bool)


def day(number):
    return f"2026-{1 + number // 28:02}-{1 + number % 28:02}"


@given(ROWS)
def test_a_line_has_every_number_in_the_order_of_its_times(rows):
    table = cells(at=[day(one[0]) for one in rows], route=[one[1] for one in rows], fare=[one[2] for one in rows])
    made = draw(LineChart(x="at", y=["fare"], series="route"), table)
    told = [(one.name, x, y) for one in made.panels[0].series for x, y in zip(one.x, one.y, strict=True)]
    for series in made.panels[0].series:
        assert series.x == sorted(series.x)
        assert series.points == sum(y is not None for y in series.y)
        # Each point leads to its row.
        for y, row in zip(series.y, series.rows, strict=True):
            if row >= 0 and y is not None:
                assert (rows[row][1], float(rows[row][2])) == (series.name, y)
    wanted = Counter((one[1], float(one[2])) for one in rows if is_number(one[2]))
    assert Counter((name, y) for name, _, y in told if y is not None) == wanted
    odd = sum(one[2] in ("n/a", True) and not is_number(one[2]) for one in rows)
    assert any("no number" in note for note in made.notes) == bool(odd)


@given(ROWS, st.sampled_from(["sum", "mean", "median", "lowest", "highest", "rows", "filled", "different"]))
def test_several_rows_of_one_place_are_one_figure(rows, figure):
    table = cells(at=[day(one[0]) for one in rows], fare=[one[2] for one in rows])
    made = draw(LineChart(x="at", y=["fare"], figure=figure), table)
    whole = draw(FigureChart(figure=figure, y="fare"), table).panels[0].series[0].y[0]
    series = made.panels[0].series
    assert len({x for one in series for x in one.x}) == sum(len(one.x) for one in series)
    values = [y for one in series for y in one.y if y is not None]
    if figure in ("sum", "rows", "filled"):
        assert sum(values) == pytest.approx(whole or 0, abs=1e-6)
    elif figure in ("lowest", "highest") and values:
        assert (min if figure == "lowest" else max)(values) == whole


def test_a_day_that_was_missed_is_a_gap_and_so_is_an_empty_cell():
    days = [1, 2, 3, 4, 8, 9, 10, 11]
    table = cells(at=[day(one) for one in days], fare=[1, 2, None, 4, 5, 6, 7, 8])
    (series,) = draw(LineChart(x="at", y=["fare"]), table).panels[0].series
    assert series.y == [1, 2, None, 4, None, 5, 6, 7, 8]
    assert series.rows == [0, 1, 2, 3, -1, 4, 5, 6, 7]
    # Lines of unlike length end where they end.
    table = cells(at=[day(n) for n in (1, 2, 3, 1)], line=["a", "a", "a", "b"], fare=[1, 2, 3, 9])
    made = draw(LineChart(x="at", y=["fare"], series="line"), table)
    assert [(one.name, one.y) for one in made.panels[0].series] == [("a", [1, 2, 3]), ("b", [9])]


def test_days_are_in_no_time_zone_and_moments_are_where_they_are():
    table = cells(at=["2026-03-29", "2026-10-25"], fare=[1, 2])
    made = draw(LineChart(x="at", y=["fare"]), table)
    assert (made.x.kind, made.panels[0].series[0].x) == ("day", [1774742400000, 1792886400000])
    table = cells(at=["2026-03-29T02:30:00+01:00", "2026-03-29T01:30:00+00:00"], fare=[1, 2])
    made = draw(LineChart(x="at", y=["fare"]), table)
    assert (made.x.kind, made.panels[0].series[0].x) == ("time", [1774747800000] * 2)


def test_two_units_have_two_scales_and_that_is_said():
    table = cells({"fare": "SKC", "delay": "min"}, at=[day(1), day(2)], fare=[1, 2], delay=[30, 40])
    made = draw(LineChart(x="at", y=["fare", "delay"]), table)
    assert [(one.name, one.unit) for one in made.y] == [("fare", "SKC"), ("delay", "min")]
    assert [one.axis for one in made.panels[0].series] == [0, 1]
    assert made.notes == ["Two scales: fare at the left, delay at the right."]
    made = draw(LineChart(x="at", y=["fare"]), table)
    assert len(made.y) == 1
    assert made.sentence == "fare by at. Lowest: 1 SKC (2026-01-02); highest: 2 SKC (2026-01-03)."


@given(ROWS, st.sampled_from(["sum", "rows"]), st.integers(1, 6), st.sampled_from(["value", "name", "table"]))
def test_bars_with_the_others_are_all_that_there_is(rows, figure, most, order):
    table = cells(place=[str(one[0]) for one in rows], kind=[one[1] for one in rows], fare=[one[2] for one in rows])
    made = draw(BarsChart(x="place", y=["fare"], figure=figure, series="kind", most=most, order=order), table)
    panel = made.panels[0]
    assert len(panel.categories) <= most
    total = sum(y for one in panel.series for y in one.y if y is not None)
    whole = draw(FigureChart(figure=figure, y="fare"), table).panels[0].series[0].y[0]
    assert total == pytest.approx(whole or 0, abs=1e-6)
    left = len({one[0] for one in rows}) - most
    assert any("“others”" in note for note in made.notes) == (left > 0)
    for series in panel.series:
        assert len(series.y) == len(series.rows) == len(panel.categories)
    if order == "name" and left <= 0:
        assert panel.categories == sorted(panel.categories)
    if order == "value" and left <= 0:
        sizes = [sum(abs(one.y[at] or 0) for one in panel.series) for at in range(len(panel.categories))]
        assert sizes == sorted(sizes, reverse=True)


@given(st.lists(st.tuples(st.integers(0, 4), st.sampled_from("abc"), st.floats(0, 1e6)), min_size=1, max_size=30))
def test_the_shares_of_a_bar_are_a_hundred_percent(rows):
    table = cells(place=[str(one[0]) for one in rows], kind=[one[1] for one in rows], fare=[one[2] for one in rows])
    made = draw(BarsChart(x="place", y=["fare"], figure="sum", series="kind", how="shares"), table)
    assert made.y[0].unit == "%"
    panel = made.panels[0]
    for at, name in enumerate(panel.categories):
        whole = sum(one[2] for one in rows if str(one[0]) == name)
        shares = [one.y[at] for one in panel.series if one.y[at] is not None]
        assert sum(shares) == pytest.approx(100 if whole else 0)


def test_shares_of_what_is_below_nothing_are_refused():
    table = cells(place=["a", "a"], kind=["x", "y"], fare=[5, -1])
    with pytest.raises(ProblemError, match="not below 0"):
        draw(BarsChart(x="place", y=["fare"], figure="sum", series="kind", how="shares"), table)


@given(
    st.lists(st.one_of(st.integers(-10_000, 10_000), st.floats(-1e9, 1e9)), min_size=1, max_size=60),
    st.one_of(st.none(), st.integers(2, 40)),
)
@example([6, -5e-324], None)
def test_each_number_is_in_one_step_of_a_round_width(values, steps):
    table = cells(fare=values)
    made = draw(SpreadChart(x="fare", steps=steps), table)
    (series,) = made.panels[0].series
    assert sum(series.y) == len(values)
    edges = series.x
    assert len(edges) == len(series.y) + 1
    assert edges == sorted(edges)
    assert edges[0] <= min(values) <= max(values) <= edges[-1]
    if len(edges) > 2 and len(set(values)) > 1:
        width = edges[1] - edges[0]
        lead = width / 10 ** math.floor(math.log10(width) + 1e-6)
        assert any(lead == pytest.approx(round_one, rel=1e-3) for round_one in (1, 2, 5, 10)), width


def test_of_one_value_there_is_one_step():
    assert step_edges(draw_numbers([7.0] * 5)).tolist() == [7.0, 8.0]
    assert draw(SpreadChart(x="fare"), cells(fare=[None, None])).sentence == "rows: there is nothing to draw."


def draw_numbers(values):
    return cells(v=values).numbers("v")[0]


def test_points_have_their_size_and_colour_and_none_loses_its_place():
    table = cells({"fare": "SKC"}, fare=[1, 2, 3, None], delay=[5, 6, "x", 7], size=[1, 2, 3, 4], kind=list("aabb"))
    made = draw(PointsChart(x="fare", y="delay", size="size", series="kind"), table)
    assert [(one.name, one.x, one.y, one.size) for one in made.panels[0].series] == [("a", [1, 2], [5, 6], [1, 2])]
    assert made.notes == ["1 value of delay is no number, and is not drawn."]
    many = cells(x=[n % 500 for n in range(20_000)], y=[n // 500 for n in range(20_000)])
    (series,) = draw(PointsChart(x="x", y="y"), many, Canvas(100)).panels[0].series
    assert len(series.x) < 3_000
    assert (min(series.x), max(series.x), min(series.y), max(series.y)) == (0, 499, 0, 39)


def test_a_figure_is_of_all_rows_or_of_each_value():
    table = cells({"fare": "SKC"}, fare=[1, 2, 9], kind=list("aab"))
    made = draw(FigureChart(figure="mean", y="fare"), table)
    assert (made.panels[0].series[0].y, made.y[0].unit, made.sentence) == ([4], "SKC", "mean fare: 4 SKC.")
    made = draw(FigureChart(figure="highest", y="fare", each="kind"), table)
    assert [(one.name, one.series[0].y) for one in made.panels] == [("a", [2]), ("b", [9])]
    assert draw(FigureChart(), table).sentence == "rows: 3."


HARD = {
    "no rows": cells(at=[], fare=[], name=[]),
    "one row": cells(at=["2026-01-01"], fare=[3], name=["a"]),
    "all equal": cells(at=["2026-01-01"] * 9, fare=[3] * 9, name=["a"] * 9),
    "no numbers": cells(at=["2026-01-01"] * 3, fare=["x", None, ""], name=["a"] * 3),
    "without end": cells(at=["2026-01-01"] * 3, fare=[math.inf, -math.inf, 10**400], name=["a"] * 3),
    "500 names": cells(
        at=[day(n % 300) for n in range(500)], fare=list(range(500)), name=[f"n{n}" for n in range(500)]
    ),
    "long names": cells(at=[day(1), day(2)], fare=[1, 2], name=["x" * 300, "<script>alert(1)</script>"]),
}


@pytest.mark.parametrize("hard", HARD)
@pytest.mark.parametrize("chart", [
    LineChart(x="at", y=["fare"], series="name"), LineChart(x="at", y=["fare"], each="name", figure="mean"),
    LineChart(x="fare", y=["fare"]), BarsChart(x="name", y=["fare"], figure="sum"), BarsChart(x="name", series="at"),
    BarsChart(x="name", how="shares", figure="filled", y=["fare"]), SpreadChart(x="fare", each="name"),
    PointsChart(x="fare", y="fare", size="fare", series="name"), FigureChart(figure="mean", y="fare", each="name"),
])  # fmt: skip
def test_what_is_hard_is_drawn_or_said(hard, chart):
    if hard == "no numbers" and chart.draw == "line" and chart.x == "fare":
        with pytest.raises(ProblemError, match="neither times nor numbers"):
            draw(chart, HARD[hard])
        return
    made = draw(chart, HARD[hard])
    assert made.sentence
    assert len(made.panels) <= 24
    for panel in made.panels:
        assert len(panel.series) <= 13
        for one in panel.series:
            assert all(value is None or math.isfinite(value) for value in [*one.y, *one.x])
    if hard == "500 names" and chart.each:
        assert any("not drawn" in note for note in made.notes)


@pytest.mark.parametrize(
    "chart", [LineChart(), BarsChart(x="gone"), PointsChart(x="fare"), SpreadChart(), FigureChart(figure="sum")]
)
def test_a_column_that_is_gone_or_was_not_chosen_is_said(chart):
    with pytest.raises(ProblemError) as found:
        draw(chart, cells(fare=[1, 2]))
    assert found.value.problem.kind in ("column-unknown", "chart-unfit")
    assert found.value.problem.do


def test_texts_have_no_line_and_that_is_said():
    with pytest.raises(ProblemError, match="neither times nor numbers"):
        draw(LineChart(x="name", y=["fare"]), cells(name=["a", "b"], fare=[1, 2]))


OFFSETS = st.sampled_from([None, UTC, timezone(timedelta(hours=5, minutes=30)), timezone(timedelta(hours=-3))])


@given(st.lists(st.datetimes(datetime(1900, 1, 1), datetime(2200, 1, 1)), min_size=1), OFFSETS, st.booleans())
def test_moments_that_are_written_alike_are_read_as_each_alone(moments, zone, days):
    texts = [
        one.date().isoformat() if days else one.replace(microsecond=0, tzinfo=zone).isoformat() for one in moments
    ]  # fmt: skip
    found, odd, floats = moments_of(texts)
    wanted = [datetime.fromisoformat(one) for one in texts]
    assert found.tolist() == [one.replace(tzinfo=one.tzinfo or UTC).timestamp() * 1000 for one in wanted]
    assert (odd, floats) == (0, days or zone is None)
    # One that is none does not hide the others.
    found, odd, _ = moments_of([*texts, "2026-13-45", None])
    assert (odd, found[: len(texts)].tolist()) == (1, moments_of(texts)[0].tolist())


@pytest.mark.parametrize("chart", [
    LineChart(x="at", y=["fare"], series="name", each="kind"), PointsChart(x="fare", y="fare", series="name", each="kind"),
    BarsChart(x="at", series="name", each="kind"),
])  # fmt: skip
def test_small_charts_have_the_same_colours_and_the_rest_is_said_once(chart):
    table = cells(
        at=[day(n % 7) for n in range(400)], fare=list(range(400)), name=[f"n{n % 40}" for n in range(400)],
        kind=["x" if n % 40 < 20 else "y" for n in range(400)],
    )  # fmt: skip
    made = draw(chart, table)
    names = {one.name for panel in made.panels for one in panel.series}
    assert len(names) == 12
    assert sum("values of name" in note for note in made.notes) == 1


def test_the_others_of_each_small_chart_are_said():
    table = cells(place=[f"p{n}" for n in range(9)], kind=list("aaabbbbbb"))
    made = draw(BarsChart(x="place", each="kind", most=3), table)
    assert made.notes == ["“others”, of b are 4 values of place."]
    assert [panel.series[0].y for panel in made.panels] == [[1, 1, 1], [1, 1, 4]]
